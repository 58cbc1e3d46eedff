"""``about``: what this machine and its system state of themselves."""

import argparse
import os

from haremile_probe.collect.about import (
    read_about,
    read_activity,
    read_applications,
    read_updates,
)
from haremile_probe.collect.packages import read_packages
from haremile_probe.runtime import Run
from haremile_probe.wire import Capture

EXAMPLES = "example: haremile-probe about --application inkwarren --json"


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``about``."""
    verb.add_argument(
        "--application",
        metavar="NAME",
        action="append",
        default=[],
        help="note this application's version and packaging; may be given again",
    )


def read(run: Run) -> Capture:
    """Read what is asked for, and make a capture of it."""
    sources = run.sources
    read_about(sources)
    _window_manager(run)
    run.progress("looking at what is running, for a second")
    read_activity(sources)
    read_packages(sources)
    run.progress("asking for pending updates, without a network")
    read_updates(sources)
    read_applications(sources, run.asked.application, may_run=True)
    return run.capture(run.account())


def _window_manager(run: Run) -> None:
    """Ask the display for its window manager, if there is a display."""
    if os.environ.get("DISPLAY"):
        from haremile_probe.x.display import window_manager_name

        run.sources.add("window-manager", (window_manager_name(run.sources.faults) or "") + "\n")
