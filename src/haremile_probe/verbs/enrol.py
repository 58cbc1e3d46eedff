"""``enrol``: let this machine work for a server."""

import argparse
import getpass
import re
import shlex
import sys
from typing import Dict

from haremile_probe.collect.about import read_about
from haremile_probe.collect.state import BOOT_ID
from haremile_probe.enrolled import comeback
from haremile_probe.enrolled.applications import (
    allowed_line,
    keep_applications,
    proposals,
    read_applications,
)
from haremile_probe.enrolled.enrolment import (
    Enrolment,
    keep_enrolment,
    keep_program,
    known_identity,
    new_identity,
    restart_command,
)
from haremile_probe.enrolled.server import Server, ServerAway, ServerRefused
from haremile_probe.enrolled.work import Worker
from haremile_probe.interpret import account_of
from haremile_probe.runtime import BadInput, MissingHere, Run, positive, stated_system
from haremile_probe.signing import secret_of

EXAMPLES = """example: haremile-probe enrol https://bench:8642 --pin SHA256
The server's owner makes the key: ./haremile rig key MACHINE, which also prints the line to paste
here. The key is asked for, or read from standard input; it is for one machine. Run it once on each
install of the machine. It then works for the server, also after each boot, until: leave"""


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``enrol``."""
    verb.add_argument("address", help="the server's address")
    verb.add_argument("--pin", help="the sha256 of the server's certificate, as it prints it")
    verb.add_argument(
        "--allow",
        action="append",
        default=[],
        metavar="NAME=COMMAND",
        help="an application that may be launched here; may be given again",
    )
    verb.add_argument(
        "--come-back",
        choices=[*comeback.WAYS, "none"],
        help="what starts it after a boot; else the first that is there. Launches want autostart",
    )
    verb.add_argument("--restart", metavar="COMMAND", help="what boots this machine anew")
    verb.add_argument(
        "--boot-id", metavar="FILE", default=BOOT_ID, help="the file that names the present boot"
    )
    verb.add_argument(
        "--pause",
        type=positive,
        default=1.0,
        metavar="SECONDS",
        help="shortest pause before the server is asked again (1)",
    )
    verb.add_argument("--and-leave-it", action="store_true", help="enrol, but do not begin to work")


def _system(run: Run) -> str:
    read_about(run.sources)
    account = account_of("about", run.sources.records, run.sources.faults)
    return stated_system(account.text("os-release"), run.asked.system)


def _key() -> str:
    """The key, asked for or read: arguments are seen by everyone on the machine."""
    if sys.stdin is not None and sys.stdin.isatty():
        key = getpass.getpass("this machine's key: ").strip()
    else:
        key = (sys.stdin.readline() if sys.stdin is not None else "").strip()
    if not key:
        raise BadInput("no key was given; type it, or send it to standard input")
    return key


def _proposed() -> Dict[str, str]:
    """What the menu proposes, if the person at the terminal accepts it by one key."""
    if sys.stdin is None or not sys.stdin.isatty():
        return {}
    found = {name: one for name, one in proposals().items() if name not in read_applications()}
    if not found:
        return {}
    print("The server may have these launched here, by name, and nothing else:")
    for name, command in sorted(found.items()):
        print("  %s=%s" % (name, command))
    said = input("Allow them? Enter or y allows, n does not; `allow` changes it later: ")
    return found if said.strip().lower() in ("", "y", "yes") else {}


def act(run: Run) -> int:
    """Enrol, make sure that it comes back, and work."""
    asked = run.asked
    if not asked.address.startswith(("http://", "https://")):
        raise BadInput("an address begins with http:// or https://, not %s" % asked.address)
    if asked.pin is not None and not re.match("^[0-9a-f]{64}$", asked.pin):
        raise BadInput("a pin is a sha256 of 64 hexadecimal digits")
    allowed = dict(allowed_line(text) for text in asked.allow)
    archive = keep_program()
    identity = known_identity() or new_identity()
    restart = shlex.split(asked.restart) if asked.restart else restart_command()
    secret = secret_of(_key())
    server = Server(asked.address, secret, asked.pin)
    try:
        answer = server.ask("/api/rigs/enrol", identity=identity, system=_system(run))
    except (ServerAway, ServerRefused) as error:
        said = str(error)
        if "certificate verify failed" in said:
            said += "; give the sha256 that the server printed at its start: --pin SHA256"
        raise MissingHere("the server did not take it: %s" % said) from None
    enrolment = Enrolment(
        asked.address,
        secret,
        str(answer["machine"]),
        str(answer["system"]),
        identity,
        restart,
        asked.boot_id,
        asked.pause,
        server.seen_pin,
    )
    keep_enrolment(enrolment)
    keep_applications({**read_applications(), **_proposed(), **allowed})
    ways = {} if asked.come_back == "none" else comeback.come_back(archive, asked.come_back)
    enrolment = enrolment._replace(ways=ways)
    keep_enrolment(enrolment)
    print("enrolled: %s on %s" % (enrolment.system, enrolment.machine), flush=True)
    for name, command in sorted(read_applications().items()):
        print("may be launched: %s=%s" % (name, command), flush=True)
    for name, left in ways.items():
        print("comes back by %s: %s" % (name, left), flush=True)
    if not asked.and_leave_it:
        Worker(enrolment, run.progress).work()
    return 0
