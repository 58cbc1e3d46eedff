"""``boot``: this boot's parts from every record that is present."""

import argparse

from haremile_probe.collect.about import read_about, read_activity
from haremile_probe.collect.boot import read_boot
from haremile_probe.jobs import DESKTOP_QUIET_S
from haremile_probe.launching.process_tree import become_subreaper
from haremile_probe.runtime import Run, positive
from haremile_probe.session_user import session_user
from haremile_probe.verbs.launch import commands_for
from haremile_probe.wire import Capture

EXAMPLES = """examples: haremile-probe boot
          haremile-probe boot --until-settled   (from the session's autostart)
          haremile-probe boot --until-settled --task Wayfarrow   (and the first page in it)"""


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
        default=DESKTOP_QUIET_S,
        metavar="SECONDS",
        help="how long nothing may change before the desktop counts as settled (%(default)g)",
    )
    verb.add_argument(
        "--limit",
        type=positive,
        default=120.0,
        metavar="SECONDS",
        help="when waiting for a settled desktop ends (120)",
    )

    verb.add_argument(
        "--task",
        metavar="NAME",
        help="and then the first useful page: a browser on this machine's list, or of --app",
    )
    verb.add_argument(
        "--app", action="append", metavar="NAME=COMMAND", help="what the browser stands for"
    )
    verb.add_argument("--user", metavar="NAME", help="as root: the session's user")


def read(run: Run) -> Capture:
    """Read what is asked for, and make a capture of it."""
    if run.asked.until_settled:
        from haremile_probe.x.settled import read_settled_desktop

        run.progress("waiting until the desktop is settled")
        read_settled_desktop(run.sources, run.asked.quiet_window, run.asked.limit)
    if run.asked.task:
        from haremile_probe.load.first_page import read_first_page

        run.progress("waiting for the first page in %s" % run.asked.task)
        become_subreaper()
        command = commands_for([run.asked.task], run.asked.app or [])[run.asked.task]
        read_first_page(run.sources, command, session_user(run.asked.user), run.asked.limit)
    read_about(run.sources)
    read_activity(run.sources)
    read_boot(run.sources)
    return run.capture(run.account())
