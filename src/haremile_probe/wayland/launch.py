"""One launch in a Wayland session: from the spawn to the first window's first picture, and rest."""

from typing import List, Optional, Sequence

from haremile_probe.launching.start import (
    NO_WINDOW_GRACE_S,
    Launch,
    LaunchPlan,
    Outcome,
    ending_of,
    start_and_watch,
)
from haremile_probe.launching.watching import Watching
from haremile_probe.wayland.proxy import WaylandWatch
from haremile_probe.wayland.surfaces import Surface

NEVER_SPOKE = "it never spoke to the compositor, as an application of X does not"


def launch(watch: WaylandWatch, command: Sequence[str], plan: LaunchPlan) -> Launch:
    """Start a command, watch it until its main window is at rest, and end it again.

    Its window is there with the first picture that it hands to the compositor: `window_s` and
    `paint_s` are the same instant.
    """
    watch.clear(plan.small_area)
    changes = {"WAYLAND_DISPLAY": watch.name}
    return start_and_watch(
        command, plan, changes, lambda started: _Watching(watch, started, plan).until_over()
    )


class _Watching(Watching):
    """A launch in progress."""

    watch: WaylandWatch

    def _take(self) -> None:
        self.watch.take()

    def _main(self) -> Optional[Surface]:
        """The window that counts: the one that was awaited, else the first that still stands, else
        the last of all. A window of another window is a dialog."""
        windows = [one for one in self.watch.windows() if not one.of_window]
        standing = [one for one in windows[self.plan.main_no - 1 :] if one.unmapped is None]
        return standing[0] if standing else (windows[-1] if windows else None)

    def _outcome(self, now: float) -> Optional[Outcome]:
        main = self._main()
        if main is None:
            if self._is_over(now):
                return Outcome.NO_WINDOW
            late = Outcome.TIMED_OUT if self.watch.was_spoken_to else Outcome.NOT_SEEN
            return late if self._is_late(now) else None
        if main.unmapped is not None and now - main.unmapped > NO_WINDOW_GRACE_S:
            return Outcome.WINDOW_THEN_EXIT if self.ended is not None else Outcome.WINDOW_GONE
        assert main.mapped is not None
        changed = main.paints[-1]
        held_until = self.hold_up.until(now, changed)
        since = max(changed, self.spawned + self.plan.least_s, held_until)
        is_learnt = now - main.mapped >= self.plan.learn_s
        if main.unmapped is None and now - since >= self.plan.quiet_s and is_learnt:
            return Outcome.WINDOW if main is self._first() else Outcome.SPLASH
        return Outcome.NOT_SETTLED if self._is_late(now) else None

    def _first(self) -> Surface:
        return self.watch.windows()[0]

    def _told(self, outcome: Outcome) -> Launch:
        main, windows = self._main(), self.watch.windows()
        detail = ending_of(outcome, self.child.returncode)
        if outcome is Outcome.NOT_SEEN:
            detail = NEVER_SPOKE
        return Launch(
            outcome=outcome,
            detail=detail,
            spawned=self.spawned,
            window_s=self._since(windows[:1]),
            main_s=self._since([main] if main else []),
            paint_s=self._since([main] if main else []),
            settled_s=None if main is None else main.paints[-1] - self.spawned,
            matched_by="socket" if windows else None,
            mapped_via="first picture" if windows else None,
            main_no=1 if main is None else windows.index(main) + 1,
        )

    def _since(self, windows: List[Surface]) -> Optional[float]:
        mapped = windows[0].mapped if windows else None
        return None if mapped is None else mapped - self.spawned
