"""``frames``: pictures that a browser shows and drops, of a clip and an animation of ours; or those
that an application's own window hands to the X server."""

import argparse

from haremile_probe.collect.about import read_about, read_activity, read_applications
from haremile_probe.launching.process_tree import become_subreaper
from haremile_probe.launching.start import LaunchPlan
from haremile_probe.load.frames import read_frames
from haremile_probe.load.presented import read_presented
from haremile_probe.runtime import Refused, Run, positive
from haremile_probe.session_user import session_user
from haremile_probe.verbs.launch import command_of, running_instance
from haremile_probe.wire import Capture

EXAMPLES = """examples: haremile-probe frames -- wayfarrow --new-window
          haremile-probe frames --seconds 60 -- wayfarrow.desktop
          haremile-probe frames --window -- coppicer --demo
With --window the application draws what it likes: the pictures that it presents are counted."""


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``frames``."""
    verb.add_argument(
        "--seconds", type=positive, default=20.0, metavar="S", help="for so long (20)"
    )
    verb.add_argument(
        "--limit", type=positive, default=60.0, metavar="S", help="for the browser to start (60)"
    )
    verb.add_argument(
        "--window", action="store_true", help="what its own window presents, not our page (X)"
    )
    verb.add_argument("--user", metavar="NAME", help="as root: the session's user")
    verb.add_argument("command", nargs=argparse.REMAINDER, help="-- COMMAND … or NAME.desktop")


def read(run: Run) -> Capture:
    """Show the page, or wait for the window, and keep what was counted."""
    asked = run.asked
    command = command_of(asked.command)
    pid = running_instance(command)
    if pid is not None:
        raise Refused("%s already runs as process %d; close it first" % (command[0], pid))
    read_about(run.sources)
    read_activity(run.sources)
    become_subreaper()
    user = session_user(asked.user)
    if asked.window:
        plan = LaunchPlan(limit_s=asked.limit, quiet_s=0.0, user=user)
        read_presented(run.sources, command, plan, asked.seconds, run.progress)
    else:
        read_frames(run.sources, command, user, asked.seconds, asked.limit, run.progress)
    read_applications(run.sources, [command[0]])
    account = run.account()
    account.condition("app", command[0].rpartition("/")[2])
    return run.capture(account)
