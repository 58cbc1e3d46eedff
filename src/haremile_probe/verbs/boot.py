"""``boot``: this boot's parts from every record that is present."""

import argparse

from haremile_probe.collect.about import read_about, read_activity
from haremile_probe.collect.boot import read_boot
from haremile_probe.runtime import Run, positive
from haremile_probe.wire import Capture

EXAMPLES = """examples: haremile-probe boot
          haremile-probe boot --until-settled   (from the session's autostart)"""


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``boot``."""
    verb.add_argument(
        "--until-settled",
        action="store_true",
        help="started with the session: wait until nothing changes on the screen any more",
    )
    verb.add_argument(
        "--quiet-window",
        type=positive,
        default=5.0,
        metavar="SECONDS",
        help="how long nothing may change before the desktop counts as settled (5)",
    )
    verb.add_argument(
        "--limit",
        type=positive,
        default=120.0,
        metavar="SECONDS",
        help="when waiting for a settled desktop ends (120)",
    )


def read(run: Run) -> Capture:
    """Read what is asked for, and make a capture of it."""
    if run.asked.until_settled:
        from haremile_probe.x.settled import read_settled_desktop

        run.progress("waiting until the desktop is settled")
        read_settled_desktop(run.sources, run.asked.quiet_window, run.asked.limit)
    read_about(run.sources)
    read_activity(run.sources)
    read_boot(run.sources)
    return run.capture(run.account())
