"""One launch as the accessibility bus tells of it: from the spawn to its window, and no further."""

import select
import time
from typing import Optional, Sequence

from haremile_probe.accessibility.watch import BEGINS, AccessibilityWatch, Told
from haremile_probe.launching.start import (
    NO_WINDOW_GRACE_S,
    Launch,
    LaunchPlan,
    Outcome,
    Started,
    ending_of,
    start_and_watch,
)

LOOK_EVERY_S = 0.008
NOTHING_SAID = "it told a screen reader nothing: not every toolkit does, unless one is switched on"


def launch(watch: AccessibilityWatch, command: Sequence[str], plan: LaunchPlan) -> Launch:
    """Start a command, wait until it tells of its window, and end it again.

    Only `window_s` and `main_s` are known: nothing is told of pictures.
    """
    watch.clear()
    return start_and_watch(command, plan, {}, lambda started: _until_told(watch, started, plan))


def _until_told(watch: AccessibilityWatch, started: Started, plan: LaunchPlan) -> Launch:
    ended: Optional[float] = None
    while True:
        select.select([watch.fileno()], [], [], LOOK_EVERY_S)
        watch.take()
        now = time.monotonic()
        if ended is None and started.child.poll() is not None:
            ended = now
        first = _first(watch, started)
        if first is not None and now - first.at >= max(plan.quiet_s, plan.learn_s):
            took = first.at - started.spawned
            return Launch(
                Outcome.WINDOW,
                "",
                started.spawned,
                window_s=took,
                main_s=took,
                matched_by="sender",
                mapped_via=first.what,
            )
        is_over = ended is not None and now - ended > NO_WINDOW_GRACE_S and not started.tree()
        if is_over:
            outcome = Outcome.NO_WINDOW if first is None else Outcome.WINDOW_THEN_EXIT
            detail = ending_of(outcome, started.child.returncode)
            return Launch(outcome, detail, started.spawned)
        if now - started.spawned > plan.limit_s:
            return Launch(Outcome.NOT_SEEN, NOTHING_SAID, started.spawned)


def _first(watch: AccessibilityWatch, started: Started) -> Optional[Told]:
    """The first window event of a process that was not there before."""
    for one in watch.told:
        if one.what in BEGINS:
            pid = watch.pid_of(one.sender)
            if pid is not None and pid not in started.before:
                return one
    return None
