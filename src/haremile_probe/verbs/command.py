"""``command``: a measure of the tester's own, by a command that prints it."""

import argparse
import json

from haremile_probe.collect.about import read_about, read_activity
from haremile_probe.collect.command import run_command
from haremile_probe.jobs import MEASURES
from haremile_probe.runtime import BadInput, Run, positive
from haremile_probe.session_user import session_user
from haremile_probe.wire import Capture

EXAMPLES = """example: haremile-probe command --measure own.s.low.Sort_seeds --unit s -- sort-seeds
The command prints one number, or a line Sort_seeds=NUMBER, and ends with 0."""

LIMIT_S = 600.0


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``command``."""
    verb.add_argument("--measure", required=True, metavar="KEY", help="whose value it prints")
    verb.add_argument("--unit", required=True, help="the unit in which that is measured")
    verb.add_argument("--resolution", metavar="STEP", help="in which steps it tells, in its unit")
    verb.add_argument(
        "--limit", type=positive, default=LIMIT_S, metavar="S", help="ended after so long"
    )
    verb.add_argument("--user", metavar="NAME", help="as this user; root has to say whose session")
    verb.add_argument("command", nargs=argparse.REMAINDER, help="the command, after --")


def read(run: Run) -> Capture:
    """Run the command once, and keep all that it said."""
    asked = run.asked
    known = MEASURES["command"].options
    given = {name: getattr(asked, name) for name in ("measure", "unit", "resolution")}
    for name, text in given.items():
        if text is not None and not known[name](text):
            raise BadInput("--%s cannot be %s" % (name, text[:80]))
    words = asked.command[1:] if asked.command[:1] == ["--"] else asked.command
    if not words:
        raise BadInput("name the command after --")
    read_about(run.sources)
    read_activity(run.sources)
    run.progress("running %s" % words[0])
    told = run_command(words, asked.limit, session_user(asked.user))
    told.update(given, limit_s=asked.limit, command=words)
    run.sources.add("command", json.dumps(told, indent=1, sort_keys=True))
    return run.capture(run.account())
