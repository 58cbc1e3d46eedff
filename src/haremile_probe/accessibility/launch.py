"""One launch as the accessibility bus tells of it: from the spawn to its window, and no further."""

from typing import Optional, Sequence

from haremile_probe.accessibility.watch import BEGINS, AccessibilityWatch, Told
from haremile_probe.launching.start import (
    Launch,
    LaunchPlan,
    Outcome,
    ending_of,
    start_and_watch,
)
from haremile_probe.launching.watching import Watching

NOTHING_SAID = "it told a screen reader nothing: not every toolkit does, unless one is switched on"


def launch(watch: AccessibilityWatch, command: Sequence[str], plan: LaunchPlan) -> Launch:
    """Start a command, wait until it tells of its window, and end it again.

    Only `window_s` and `main_s` are known: nothing is told of pictures.
    """
    watch.clear()
    return start_and_watch(
        command, plan, {}, lambda started: _Listening(watch, started, plan).until_over()
    )


class _Listening(Watching):
    """A launch in progress."""

    watch: AccessibilityWatch

    def _take(self) -> None:
        self.watch.take()

    def _first(self) -> Optional[Told]:
        """The first window event of a process that was not there before."""
        for one in self.watch.told:
            if one.what in BEGINS:
                pid = self.watch.pid_of(one.sender)
                if pid is not None and pid not in self.started.before:
                    return one
        return None

    def _outcome(self, now: float) -> Optional[Outcome]:
        first = self._first()
        if first is not None and now - first.at >= max(self.plan.quiet_s, self.plan.learn_s):
            return Outcome.WINDOW
        if self._is_over(now):
            return Outcome.NO_WINDOW if first is None else Outcome.WINDOW_THEN_EXIT
        return Outcome.NOT_SEEN if self._is_late(now) else None

    def _told(self, outcome: Outcome) -> Launch:
        first = self._first()
        if outcome is Outcome.NOT_SEEN:
            return Launch(outcome, NOTHING_SAID, self.spawned)
        if outcome is not Outcome.WINDOW or first is None:
            return Launch(outcome, ending_of(outcome, self.child.returncode), self.spawned)
        took = first.at - self.spawned
        return Launch(
            outcome,
            "",
            self.spawned,
            window_s=took,
            main_s=took,
            matched_by="sender",
            mapped_via=first.what,
        )
