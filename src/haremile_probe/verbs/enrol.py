"""``enrol``: let this machine work for a server."""

import argparse
import shlex

from haremile_probe.collect.about import read_about
from haremile_probe.collect.state import BOOT_ID
from haremile_probe.enrolled import comeback
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
from haremile_probe.runtime import BadInput, MissingHere, Run, positive, stated_system
from haremile_probe.whole import account_of

EXAMPLES = """example: haremile-probe enrol http://bench:8642 --key KEY
The key is made on the machine's page of the bench; it is for one machine. Run it once on each
install of the machine. It then works for the bench, also after each boot, until: leave"""


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``enrol``."""
    verb.add_argument("address", help="the server's address")
    verb.add_argument("--key", required=True, help="this machine's key")
    verb.add_argument(
        "--come-back", choices=[*comeback.WAYS, "none"],
        help="what starts it after a boot; else the first that is there. Launches want autostart",
    )  # fmt: skip
    verb.add_argument("--restart", metavar="COMMAND", help="what boots this machine anew")
    verb.add_argument(
        "--boot-id", metavar="FILE", default=BOOT_ID, help="the file that names the present boot"
    )
    verb.add_argument(
        "--pause", type=positive, default=1.0, metavar="SECONDS",
        help="shortest pause before the server is asked again (1)",
    )  # fmt: skip
    verb.add_argument("--and-leave-it", action="store_true", help="enrol, but do not begin to work")


def _system(run: Run) -> str:
    read_about(run.sources)
    account = account_of("about", run.sources.records, run.sources.faults)
    return stated_system(account.text("os-release"), run.asked.system)


def act(run: Run) -> int:
    """Enrol, make sure that it comes back, and work."""
    asked = run.asked
    if not asked.address.startswith(("http://", "https://")):
        raise BadInput("an address begins with http:// or https://, not %s" % asked.address)
    archive = keep_program()
    identity = known_identity() or new_identity()
    restart = shlex.split(asked.restart) if asked.restart else restart_command()
    try:
        answer = Server(asked.address, asked.key).ask(
            "/api/rigs/enrol", identity=identity, system=_system(run)
        )
    except (ServerAway, ServerRefused) as error:
        raise MissingHere("the server did not take it: %s" % error) from None
    enrolment = Enrolment(
        asked.address, asked.key, str(answer["machine"]), str(answer["system"]), identity, restart,
        asked.boot_id, asked.pause,
    )  # fmt: skip
    keep_enrolment(enrolment)
    ways = {} if asked.come_back == "none" else comeback.come_back(archive, asked.come_back)
    enrolment = enrolment._replace(ways=ways)
    keep_enrolment(enrolment)
    print("enrolled: %s on %s" % (enrolment.system, enrolment.machine), flush=True)
    for name, left in ways.items():
        print("comes back by %s: %s" % (name, left), flush=True)
    if not asked.and_leave_it:
        Worker(enrolment, run.progress).work()
    return 0
