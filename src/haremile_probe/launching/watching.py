"""A launch in progress, whatever its windows are seen by: looked at until its outcome is known."""

import select
import time
from typing import Any, Optional

from haremile_probe.launching.start import (
    NO_WINDOW_GRACE_S,
    Launch,
    LaunchPlan,
    Outcome,
    Started,
)
from haremile_probe.launching.starved import HoldUp

LOOK_EVERY_S = 0.008


class Watching:
    """What every way of watching has: `watch` is what it sees by, and has a descriptor to wait on.

    A way says what it takes in, what the outcome is by now, and what was seen in the end.
    """

    def __init__(self, watch: Any, started: Started, plan: LaunchPlan):
        self.watch, self.started, self.plan = watch, started, plan
        self.child, self.spawned = started.child, started.spawned
        self.hold_up = HoldUp(started.tree)
        self.ended: Optional[float] = None

    def until_over(self) -> Launch:
        """Look until the outcome is known; everything that was seen."""
        outcome = None
        while outcome is None:
            select.select([self.watch.fileno()], [], [], LOOK_EVERY_S)
            self._take()
            if self.ended is None and self.child.poll() is not None:
                self.ended = time.monotonic()
            outcome = self._outcome(time.monotonic())
        return self._told(outcome)

    def _is_over(self, now: float) -> bool:
        """Whether it ended a while ago, and nothing that it brought about lives."""
        is_past = self.ended is not None and now - self.ended > NO_WINDOW_GRACE_S
        return is_past and not self.started.tree()

    def _is_late(self, now: float) -> bool:
        return now - self.spawned > self.plan.limit_s

    def _take(self) -> None:
        raise NotImplementedError

    def _outcome(self, now: float) -> Optional[Outcome]:
        raise NotImplementedError

    def _told(self, outcome: Outcome) -> Launch:
        raise NotImplementedError
