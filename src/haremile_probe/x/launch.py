"""One launch: from the spawn to the first window, the main window, its first paint, and rest."""

import errno
import os
import select
import shutil
import subprocess
import time
import uuid
from enum import Enum
from functools import partial
from typing import Dict, List, NamedTuple, Optional, Sequence, Set

from haremile_probe.session_user import SessionUser, become, environment_for
from haremile_probe.x.process_tree import (
    MARKER,
    carries,
    descendants,
    end_launch,
    launched,
    processes,
)
from haremile_probe.x.rest import HoldUp, Rest
from haremile_probe.x.start_condition import mapped_files, paging_counters
from haremile_probe.x.watch import (
    LEAST_WINDOW_AREA,
    SMALL_AREA,
    Window,
    WindowWatch,
    first_paint,
    paints_within,
)

LOOK_EVERY_S = 0.008
NO_WINDOW_GRACE_S = 1.5
GIVE_WAY_S = 4.0
MAIN_KINDS = ("normal", "dialog", "utility")

EXISTING = "existing"


class Outcome(Enum):
    """How a launch ended; the first two give readings."""

    WINDOW = "window"
    SPLASH = "splash then window"
    HANDED_OVER = "handed over to a running instance"
    NO_WINDOW = "exited without a window"
    NOT_FOUND = "command not found"
    NOT_EXECUTABLE = "not executable"
    SPLASH_THEN_EXIT = "splash then exit"
    DIALOG = "a dialog and no main window"
    WINDOW_GONE = "the window went away"
    TIMED_OUT = "timed out"
    NOT_SETTLED = "timed out: the window did not settle"
    WINDOW_THEN_EXIT = "window then exit"

    @property
    def gives_readings(self) -> bool:
        """Whether its times are those of a launch."""
        return self in (Outcome.WINDOW, Outcome.SPLASH)


class LaunchPlan(NamedTuple):
    """How launches are watched, in seconds and square pixels.

    `user` is whose session it is, None where we are that user. Nothing has settled before
    `least_s`. `main_no` says which of its windows, in order, is the main one; with `learn_s` that
    is found out: so long it is watched whether the first window gives way to another.
    """

    quiet_s: float = 0.7
    limit_s: float = 30.0
    small_area: int = SMALL_AREA
    user: Optional[SessionUser] = None
    least_s: float = 0.0
    main_no: int = 1
    learn_s: float = 0.0


class Launch(NamedTuple):
    """What was seen of one launch; times in seconds since the spawn, None where not reached.

    `spawned` is the instant of the spawn on the monotonic clock.
    """

    outcome: Outcome
    detail: str
    spawned: float
    window_s: Optional[float] = None
    main_s: Optional[float] = None
    paint_s: Optional[float] = None
    settled_s: Optional[float] = None
    matched_by: Optional[str] = None
    mapped_via: Optional[str] = None
    cpu_s: Optional[float] = None
    paging: Optional[Dict[str, int]] = None
    files: Sequence[str] = ()
    main_no: int = 1


def launch(watch: WindowWatch, command: Sequence[str], plan: LaunchPlan) -> Launch:
    """Start a command, watch it until its main window is at rest, and end it again."""
    watch.clear()
    before = {int(name) for name in os.listdir("/proc") if name.isdigit()}
    marker = uuid.uuid4().hex
    startup = "haremile-%d_TIME%d" % (os.getpid(), int(time.monotonic() * 1000) & 0x7FFFFFFF)
    own = {**os.environ, MARKER: marker, "DESKTOP_STARTUP_ID": startup}
    environment = environment_for(plan.user, own)
    paging = paging_counters()
    if shutil.which(command[0]) is None:
        is_there = os.path.isfile(command[0])
        outcome = Outcome.NOT_EXECUTABLE if is_there else Outcome.NOT_FOUND
        said = "no right to execute it, or no program" if is_there else "No such file"
        return Launch(outcome, "%s: %s" % (command[0], said), time.monotonic())
    spawned = time.monotonic()
    try:
        child = subprocess.Popen(
            list(command),
            env=environment,
            stdin=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
            preexec_fn=None if plan.user is None else partial(become, plan.user),  # noqa: PLW1509  # the probe has no threads
            cwd=None if plan.user is None else plan.user.home,
        )
    except OSError as error:
        outcome = Outcome.NOT_FOUND if error.errno == errno.ENOENT else Outcome.NOT_EXECUTABLE
        return Launch(outcome, "%s: %s" % (command[0], error.strerror), spawned)
    try:
        seen = _Watching(watch, child, before, marker, startup, spawned, plan)
        seen.until_over()
        files = sorted(mapped_files(launched(child.pid, marker, before)))
        return seen.told(paging, files)
    finally:
        end_launch(child, marker, before)


class _Watching:
    """A launch in progress."""

    def __init__(
        self,
        watch: WindowWatch,
        child: "subprocess.Popen[bytes]",
        before: Set[int],
        marker: str,
        startup: str,
        spawned: float,
        plan: LaunchPlan,
    ):
        self.watch, self.child, self.before, self.plan = watch, child, before, plan
        self.marker, self.startup, self.spawned = marker, startup, spawned
        self.first: Optional[Window] = None
        self.main: Optional[Window] = None
        self.matched_by: Optional[str] = None
        self.last_paint: Optional[float] = None
        self.met: List[Window] = []
        self.rest: Optional[Rest] = None
        self.hold_up = HoldUp(lambda: launched(child.pid, marker, before))
        self.ended: Optional[float] = None
        self.outcome: Optional[Outcome] = None

    def until_over(self) -> None:
        """Look until the outcome is known."""
        while self.outcome is None:
            select.select([self.watch.fileno()], [], [], LOOK_EVERY_S)
            is_quiet = not self.watch.take()
            for window in self.watch.newly_known(is_quiet):
                self._met(window)
            if self.ended is None and self.child.poll() is not None:
                self.ended = time.monotonic()
            self.outcome = self._outcome(time.monotonic())

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
        ours = descendants({os.getpid()}) - self.before - {os.getpid()}
        is_of_others = bool(pids) and all(pid in self.before for pid in pids)
        signs = {
            "owner": facts.owner in tree,
            "stated": facts.stated_pid in tree,
            "marker": any(carries(pid, self.marker) for pid in pids),
            "orphan": any(pid in ours for pid in pids),
            "startup-id": facts.startup_id == self.startup,
            EXISTING: is_of_others and self.ended is not None,
        }
        return next((sign for sign, is_so in signs.items() if is_so), None)

    def _outcome(self, now: float) -> Optional[Outcome]:
        if self.main is None:
            self.main = self._instead(now)
        if self.main is not None:
            return self._outcome_of_window(now)
        is_over = self.ended is not None and now - self.ended > NO_WINDOW_GRACE_S
        if is_over and not launched(self.child.pid, self.marker, self.before):
            return self._without_window()
        return Outcome.TIMED_OUT if now - self.spawned > self.plan.limit_s else None

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
        return Outcome.NOT_SETTLED if now - self.spawned > self.plan.limit_s else None

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

    def told(self, paging: Dict[str, int], files: List[str]) -> Launch:
        """Everything that was seen."""
        assert self.outcome is not None
        after = paging_counters()
        return Launch(
            outcome=self.outcome,
            detail=self._detail(),
            spawned=self.spawned,
            window_s=self._since(self.first),
            main_s=self._since(self.main),
            paint_s=self._first_paint(),
            settled_s=None if self.last_paint is None else self.last_paint - self.spawned,
            matched_by=self.matched_by,
            mapped_via=self.main.via if self.main else None,
            cpu_s=self._cpu(),
            paging={name: after[name] - paging[name] for name in paging},
            files=files,
            main_no=self.plan.main_no,
        )

    def _detail(self) -> str:
        code = self.child.returncode
        if self.outcome is Outcome.NOT_SETTLED:
            return "its picture changed until the end: it may animate for ever"
        if self.ended is None or code is None:
            return ""
        return "signal %d" % -code if code < 0 else "code %d" % code

    def _since(self, window: Optional[Window]) -> Optional[float]:
        if window is None or window.mapped is None:
            return None
        return window.mapped - self.spawned

    def _first_paint(self) -> Optional[float]:
        if self.main is None or self.main.mapped is None or self.main.facts is None:
            return None
        at = first_paint(self.watch, self.main, self.plan.small_area)
        return None if at is None else at - self.spawned

    def _cpu(self) -> float:
        """Processor seconds of everything the launch brought about and still lives."""
        every = processes()
        alive = launched(self.child.pid, self.marker, self.before) & every.keys()
        return sum(every[pid].cpu_ticks for pid in alive) / os.sysconf("SC_CLK_TCK")
