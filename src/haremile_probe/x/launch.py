"""One launch: from the spawn to the first window, the main window, its first paint, and rest."""

import os
from typing import Callable, List, Optional, Sequence

from haremile_probe.launching.process_tree import carries, descendants
from haremile_probe.launching.start import (
    NO_WINDOW_GRACE_S,
    Launch,
    LaunchPlan,
    Outcome,
    Started,
    ending_of,
    start_and_watch,
)
from haremile_probe.launching.watching import Watching
from haremile_probe.x.rest import Rest
from haremile_probe.x.watch import (
    LEAST_WINDOW_AREA,
    Window,
    WindowWatch,
    first_paint,
    paints_within,
)

GIVE_WAY_S = 4.0
MAIN_KINDS = ("normal", "dialog", "utility")

EXISTING = "existing"


def launch(
    watch: WindowWatch,
    command: Sequence[str],
    plan: LaunchPlan,
    use: Optional[Callable[[Window], None]] = None,
) -> Launch:
    """Start a command, watch it until its main window is at rest, and end it again; `use` has that
    window before, where there is one."""
    watch.clear()

    def watched(started: Started) -> Launch:
        watching = _Watching(watch, started, plan)
        found = watching.until_over()
        if use is not None and found.outcome.gives_readings and watching.main is not None:
            use(watching.main)
        return found

    return start_and_watch(command, plan, {}, watched)


class _Watching(Watching):
    """A launch in progress."""

    watch: WindowWatch

    def __init__(self, watch: WindowWatch, started: Started, plan: LaunchPlan):
        super().__init__(watch, started, plan)
        self.first: Optional[Window] = None
        self.main: Optional[Window] = None
        self.matched_by: Optional[str] = None
        self.last_paint: Optional[float] = None
        self.met: List[Window] = []
        self.rest: Optional[Rest] = None

    def _take(self) -> None:
        is_quiet = not self.watch.take()
        for window in self.watch.newly_known(is_quiet):
            self._met(window)

    def _met(self, window: Window) -> None:
        """Take a mapped window into account, if it is of this launch and of some size."""
        assert window.facts is not None
        how = self._match(window)
        if how is None or window.facts.area < LEAST_WINDOW_AREA:
            return
        if self.first is None or (window.mapped or 0.0) < (self.first.mapped or 0.0):
            self.first = window
        if window.facts.kind in ("normal", "dialog"):
            self.met.append(window)
            if len(self.met) == self.plan.main_no:
                self.main, self.matched_by = window, how

    def _match(self, window: Window) -> Optional[str]:
        """How a window is known to belong to the launch, surest first; None if it does not."""
        facts = window.facts
        assert facts is not None
        if self.watch.manager_pid is not None and facts.owner == self.watch.manager_pid:
            return None  # a frame or a menu of the window manager
        pids = [pid for pid in (facts.owner, facts.stated_pid) if pid]
        tree = descendants({self.child.pid})
        ours = descendants({os.getpid()}) - self.started.before - {os.getpid()}
        is_of_others = bool(pids) and all(pid in self.started.before for pid in pids)
        signs = {
            "owner": facts.owner in tree,
            "stated": facts.stated_pid in tree,
            "marker": any(carries(pid, self.started.marker) for pid in pids),
            "orphan": any(pid in ours for pid in pids),
            "startup-id": facts.startup_id == self.started.startup,
            EXISTING: is_of_others and self.ended is not None,
        }
        return next((sign for sign, is_so in signs.items() if is_so), None)

    def _outcome(self, now: float) -> Optional[Outcome]:
        if self.main is None:
            self.main = self._instead(now)
        if self.main is not None:
            return self._outcome_of_window(now)
        if self._is_over(now):
            return self._without_window()
        return Outcome.TIMED_OUT if self._is_late(now) else None

    def _instead(self, now: float) -> Optional[Window]:
        """The main window where none came that is called one, or not as many as were awaited: the
        last that came, once nothing followed it for a while."""
        found = self.met[-1:] or [w for w in [self.first] if w is not None and w.facts is not None]
        for window in found:
            is_main = window.facts is not None and window.facts.kind in MAIN_KINDS
            if is_main and now - (window.mapped or now) > GIVE_WAY_S:
                self.matched_by = self._match(window)
                return window
        return None

    def _without_window(self) -> Outcome:
        """It left no window of its own: perhaps one came from a process that ran before, or was
        only raised."""
        if self.first is not None:
            return Outcome.SPLASH_THEN_EXIT
        if self.child.returncode == 0 and self.watch.activated > self.spawned:
            return Outcome.HANDED_OVER
        for window in self.watch.windows.values():
            if window.facts is not None and self._match(window) == EXISTING:
                return Outcome.HANDED_OVER
        return Outcome.NO_WINDOW

    def _outcome_of_window(self, now: float) -> Optional[Outcome]:
        assert self.main is not None and self.main.mapped is not None
        if self.matched_by == EXISTING:
            return Outcome.HANDED_OVER
        self._follow()
        if self._is_gone(now):
            return Outcome.WINDOW_THEN_EXIT if self.ended is not None else Outcome.WINDOW_GONE
        if self.rest is None:
            self.rest = Rest(self.watch.display, self.main.id, self.plan.small_area)
        is_judged = self.rest.judge(self._newest_paint(), now)
        self.last_paint = self.rest.changed_at
        held_until = self.hold_up.until(now, self.last_paint)
        since = max(self.last_paint, self.spawned + self.plan.least_s, held_until)
        is_quiet = is_judged and self.main.unmapped is None and now - since >= self.plan.quiet_s
        if is_quiet and not self._may_give_way(now):
            if self.main.facts is not None and self.main.facts.kind == "dialog":
                return Outcome.DIALOG
            is_splash = self.first is not self.main
            return Outcome.SPLASH if is_splash else Outcome.WINDOW
        return Outcome.NOT_SETTLED if self._is_late(now) else None

    def _follow(self) -> None:
        """A window that went while another came was a splash, whatever it called itself."""
        assert self.main is not None
        if self.main.unmapped is not None and self.met and self.main is not self.met[-1]:
            self.main, self.rest = self.met[-1], None
            self.plan = self.plan._replace(main_no=len(self.met))

    def _is_gone(self, now: float) -> bool:
        """Whether the main window went and no other took its place."""
        assert self.main is not None
        went: Optional[float] = self.main.unmapped
        if went is None:
            return False
        is_last = not self.met or self.main is self.met[-1]
        return self.ended is not None or (is_last and now - went > NO_WINDOW_GRACE_S)

    def _newest_paint(self) -> float:
        assert self.main is not None and self.main.mapped is not None
        times = paints_within(self.watch, self.main, self.plan.small_area)
        return max([self.main.mapped, *times])

    def _may_give_way(self, now: float) -> bool:
        """While it is learnt: whether the window may still turn out to be a splash."""
        if self.main is None or self.main.mapped is None:
            return True
        return now - self.main.mapped < self.plan.learn_s

    def _told(self, outcome: Outcome) -> Launch:
        return Launch(
            outcome=outcome,
            detail=ending_of(outcome, self.child.returncode),
            spawned=self.spawned,
            window_s=self._since(self.first),
            main_s=self._since(self.main),
            paint_s=self._first_paint(),
            settled_s=None if self.last_paint is None else self.last_paint - self.spawned,
            matched_by=self.matched_by,
            mapped_via=self.main.via if self.main else None,
            main_no=self.plan.main_no,
        )

    def _since(self, window: Optional[Window]) -> Optional[float]:
        if window is None or window.mapped is None:
            return None
        return window.mapped - self.spawned

    def _first_paint(self) -> Optional[float]:
        if self.main is None or self.main.mapped is None or self.main.facts is None:
            return None
        at = first_paint(self.watch, self.main, self.plan.small_area)
        return None if at is None else at - self.spawned
