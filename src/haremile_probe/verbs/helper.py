"""``helper``: the small program that does what needs root, for the probe of one user."""

import argparse
import os

from haremile_probe.enrolled import comeback
from haremile_probe.helper import SOCKET
from haremile_probe.helper.serve import HelperServer
from haremile_probe.helper.verbs import names
from haremile_probe.runtime import BadInput, MissingHere, Refused, Run

EXAMPLES = """examples: haremile-probe helper list
          sudo python3 haremile-probe.pyz helper serve --for tester
          sudo python3 haremile-probe.pyz helper install --for tester   (also after each boot)
          sudo python3 haremile-probe.pyz helper remove"""


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``helper``."""
    verb.add_argument("what", choices=["list", "serve", "install", "remove"])
    verb.add_argument("--for", dest="user", metavar="USER", help="the only user who may ask")
    verb.add_argument("--socket", default=SOCKET, help="where it listens (%s)" % SOCKET)


def act(run: Run) -> int:
    """List, serve, install or remove."""
    what, user = run.asked.what, run.asked.user
    if what == "list":
        for name in names():
            print(name)
        return 0
    if os.geteuid() != 0:
        raise Refused("the helper does what needs root: run it as root")
    if what == "remove":
        for path in comeback.remove_helper():
            print("removed: %s" % path)
        return 0
    if not user:
        raise BadInput("name the user that the helper is for: --for USER")
    if what == "install":
        unit = comeback.install_helper(user)
        if unit is None:
            raise MissingHere("no systemd here to start it after a boot; start it: helper serve")
        print("installed: %s" % unit)
        return 0
    server = HelperServer(user, run.asked.socket)
    run.progress("serving %s on %s" % (user, run.asked.socket))
    server.serve(run.progress)
    return 0
