"""``footprint``: space used and packages installed."""

import argparse

from haremile_probe.collect.about import read_about, read_activity, read_updates
from haremile_probe.collect.footprint import read_file_system, read_walk
from haremile_probe.collect.packages import read_packages
from haremile_probe.interpret.footprint import cost_since
from haremile_probe.runtime import BadInput, Run
from haremile_probe.wire import Capture, WireError, load_capture

EXAMPLES = """examples: haremile-probe footprint --out before.json
          haremile-probe footprint --before before.json"""


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``footprint``."""
    verb.add_argument("--before", metavar="CAPTURE", help="say what changed since that footprint")
    verb.add_argument("--no-walk", action="store_true", help="do not walk over all files")
    verb.add_argument(
        "--no-updates", action="store_true", help="do not ask what updates are pending"
    )


def read(run: Run) -> Capture:
    """Read what is asked for, and make a capture of it."""
    before = _earlier(run.asked.before) if run.asked.before else None
    read_about(run.sources)
    read_activity(run.sources)
    read_file_system(run.sources)
    read_packages(run.sources)
    if not run.asked.no_updates:
        run.progress("asking for pending updates, without a network")
        read_updates(run.sources)
    if not run.asked.no_walk:
        run.progress("walking over all files")
        read_walk(run.sources, run.progress)
    account = run.account()
    if before is not None:
        cost = cost_since(before, account)
        account.facts["since"] = {"capture": before.id, "cost": cost}
        for metric, change, unit in cost:
            run.progress("%s changed by %+g %s since %s" % (metric, change, unit, before.made_at))
    return run.capture(account)


def _earlier(path: str) -> Capture:
    try:
        with open(path, "rb") as file:
            capture = load_capture(file.read())
    except OSError as error:
        raise BadInput("%s cannot be read: %s" % (path, error.strerror)) from None
    except WireError as error:
        raise BadInput("%s is no capture: %s" % (path, error)) from None
    if capture.asked != "footprint":
        raise BadInput("%s is a capture of %s, not of a footprint" % (path, capture.asked))
    return capture
