"""``sleep``: how long the machine takes to fall asleep and to wake by its clock."""

import argparse
import time
from functools import partial
from typing import Any, Dict, Optional

from haremile_probe.collect.about import read_about, read_activity
from haremile_probe.collect.sleep import read_sleep
from haremile_probe.helper.client import HelperRefused, ask
from haremile_probe.helper.verbs import KERNEL, SLEEPS_THROUGH
from haremile_probe.launching.start import Launch, LaunchPlan, Outcome, Started, start_and_watch
from haremile_probe.load.signs import PageServer
from haremile_probe.runtime import Run
from haremile_probe.session_user import session_user
from haremile_probe.verbs.launch import commands_for
from haremile_probe.wire import Capture

EXAMPLES = """examples: haremile-probe sleep
          haremile-probe sleep --seconds 300 --task Wayfarrow
          haremile-probe sleep --through login-service
It sleeps at once; save your work. It needs root or the helper, and a clock that can wake it."""

FIRST_S = 30.0
"""So long a page may take to be there before the sleep, and to answer after it."""

LOOK_EVERY_S = 0.01


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``sleep``."""
    verb.add_argument(
        "--seconds",
        type=int,
        choices=range(10, 601),
        default=30,
        metavar="S",
        help="so long (30)",
    )
    verb.add_argument(
        "--through",
        choices=SLEEPS_THROUGH,
        default=KERNEL,
        help="how it is sent to sleep (kernel)",
    )
    verb.add_argument("--task", metavar="NAME", help="and until a page in this browser answers")
    verb.add_argument("--app", action="append", metavar="NAME=COMMAND")
    verb.add_argument("--user", metavar="NAME", help="as root: the session's user")


def read(run: Run) -> Capture:
    """Sleep once, and make a capture of it."""
    read_about(run.sources)
    read_activity(run.sources)
    asked = run.asked
    suspend = partial(_suspend, asked.through)
    if not asked.task:
        read_sleep(run.sources, asked.seconds, suspend, run.progress)
        return run.capture(run.account())
    command = commands_for([asked.task], asked.app or [])[asked.task]
    server = PageServer()

    def watched(started: Started) -> Launch:
        _await(server, started.spawned)
        read_sleep(run.sources, asked.seconds, suspend, run.progress, lambda at: _await(server, at))
        return Launch(Outcome.WINDOW, "", started.spawned)

    try:
        plan = LaunchPlan(user=session_user(asked.user))
        start_and_watch([*command, server.address(1, "reading")], plan, {}, watched)
    finally:
        server.close()
    return run.capture(run.account())


def _suspend(through: str, seconds: int) -> Dict[str, Any]:
    try:
        return ask("suspend", seconds=seconds, through=through)
    except HelperRefused as error:
        raise OSError(str(error)) from None


def _await(server: PageServer, after: float) -> Optional[float]:
    """When the page gave a sign of life after an instant; None where it does not in time."""
    deadline = time.monotonic() + FIRST_S
    while time.monotonic() < deadline:
        found = next((one.at for one in server.signs() if one.at > after), None)
        if found is not None:
            return found
        time.sleep(LOOK_EVERY_S)
    return None
