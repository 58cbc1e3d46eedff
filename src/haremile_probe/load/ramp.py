"""A load ramp: an application is given one more page until a stated rule ends it.

Every page is asked for by starting the application's command with the page's address: a browser
that runs already takes it over, any other opens it itself. Everything that came of it is one tree
of processes, which is ended at the end whatever happened.
"""

import ctypes
import os
import shutil
import subprocess
import sys
import time
import uuid
from typing import Any, Callable, Dict, List, NamedTuple, Optional, Sequence, Set

from haremile_probe.collect.idle import pss_of
from haremile_probe.launching.process_tree import MARKER, end_launch, launched, processes
from haremile_probe.load.limit import MemoryLimit
from haremile_probe.load.page_set import VERSION, kind_of
from haremile_probe.load.rules import (
    ALL_CARRIED,
    TIMED_OUT,
    Sample,
    StopRules,
    ended_by,
)
from haremile_probe.load.signs import PageServer
from haremile_probe.parsers.meminfo import memory_use, parse_meminfo
from haremile_probe.runtime import BadInput
from haremile_probe.session_user import SessionUser, environment_for

EVERY_S = 0.5
SETTLE_S = 4.0
"""A page is carried once it held for so long after it was painted, and every page that is open
gave a sign of life since."""

VICTIM = 500
"""Of a kernel that runs out of memory the application is the choice, not the probe."""

MCL_CURRENT, MCL_FUTURE = 1, 2
START = (
    """
import os, sys
group, uid, gid, name = sys.argv[1:5]
if group:
    open(os.path.join(group, 'cgroup.procs'), 'w').write('0')
try:
    open('/proc/self/oom_score_adj', 'w').write('%d')
except OSError:
    pass
if uid:
    os.initgroups(name, int(gid)); os.setgid(int(gid)); os.setuid(int(uid))
os.execvp(sys.argv[5], sys.argv[5:])
"""
    % VICTIM
)


class RampPlan(NamedTuple):
    """What is asked of a ramp."""

    rules: StopRules = StopRules()
    settle_s: float = SETTLE_S
    user: Optional[SessionUser] = None


class Step(NamedTuple):
    """A page that was asked for: seconds from that until it was painted, what was read once it had
    held, and how late its and the others' signs of life were meanwhile, at worst."""

    number: int
    kind: str
    painted_s: Optional[float]
    sample: Optional[Sample]
    worst_delay_s: float


class Ramp(NamedTuple):
    """What became of it: `ended` is one of `rules.REASONS`, at the step that was open then."""

    before: Sample
    steps: List[Step]
    carried: int
    ended: str
    page_set: str
    limit: Optional[int]
    locked: bool

    def facts(self) -> Dict[str, Any]:
        """As it is written down."""
        return {
            **self._asdict(),
            "before": self.before._asdict(),
            "steps": [
                {**step._asdict(), "sample": step.sample and step.sample._asdict()}
                for step in self.steps
            ],
        }


def ramp(
    command: Sequence[str],
    plan: RampPlan,
    limit: Optional[MemoryLimit],
    progress: Callable[[str], None],
) -> Ramp:
    """Carry a ramp out; the application is gone afterwards, the machine as it was."""
    if shutil.which(command[0]) is None:
        raise BadInput("%s: no such command" % command[0])
    locked = _lock()
    server = PageServer()
    try:
        return _Ramp(command, plan, limit, server, progress).told(locked)
    finally:
        server.close()


class _Ramp:
    def __init__(
        self,
        command: Sequence[str],
        plan: RampPlan,
        limit: Optional[MemoryLimit],
        server: PageServer,
        progress: Callable[[str], None],
    ):
        self.command, self.plan, self.limit = list(command), plan, limit
        self.server, self.progress = server, progress
        self.marker = uuid.uuid4().hex
        self.before_pids: Set[int] = set(processes())
        self.children: "List[subprocess.Popen[bytes]]" = []
        self.asked = 0
        self.opened = 0
        self.samples: List[Sample] = []
        self.before = self._sample(False)
        self.steps: List[Step] = []

    def told(self, locked: bool) -> Ramp:
        ended = ALL_CARRIED
        try:
            for number in range(1, self.plan.rules.steps + 1):
                reason = self._step(number)
                if reason is not None:
                    ended = reason
                    break
        finally:
            for child in self.children:
                end_launch(child, self.marker, self.before_pids)
        carried = sum(step.sample is not None for step in self.steps)
        size = None if self.limit is None else self.limit.limit
        return Ramp(self.before, self.steps, carried, ended, VERSION, size, locked)

    def _step(self, number: int) -> Optional[str]:
        """One more page: None where it was carried, else the rule that ended the ramp."""
        rules = self.plan.rules
        self.progress("page %d of %d (%s)" % (number, rules.steps, kind_of(number)))
        begun = time.monotonic()
        self.asked = number
        self._open(number)
        painted: Optional[float] = None
        reason = None
        first = len(self.samples)
        while reason is None:
            time.sleep(EVERY_S)
            said = self.server.said(number, "painted")
            if painted is None and said is not None:
                painted = said.at
                self.opened = number
            self.samples.append(self._sample(True))
            reason = ended_by(self.samples, self.before, rules)
            if reason is None and painted is None and time.monotonic() - begun > rules.launch_s:
                reason = TIMED_OUT
            if reason is None and painted is not None and self._has_held(painted):
                break
        self.steps.append(
            Step(
                number,
                kind_of(number),
                None if painted is None else painted - begun,
                self.samples[-1] if reason is None else None,
                max((one.delay_s for one in self.samples[first:]), default=0.0),
            )
        )
        return reason

    def _has_held(self, painted: float) -> bool:
        """Whether the page stood for long enough, and every page gave a sign since it is there."""
        heard = self.server.last_heard()
        return time.monotonic() - painted >= self.plan.settle_s and all(
            heard[page].at > painted for page in range(1, self.opened + 1)
        )

    def _open(self, number: int) -> None:
        user = self.plan.user
        words = [
            "" if self.limit is None else self.limit.path,
            "" if user is None else str(user.uid),
            "" if user is None else str(user.gid),
            "" if user is None else user.name,
        ]
        own = {**os.environ, MARKER: self.marker}
        self.children.append(
            subprocess.Popen(
                [sys.executable, "-c", START, *words, *self.command, self.server.address(number)],
                env=environment_for(user, own),
                stdin=subprocess.DEVNULL,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
                start_new_session=True,
                cwd=None if user is None else user.home,
            )
        )

    def _tree(self) -> Set[int]:
        found: Set[int] = set()
        for child in self.children:
            child.poll()
            found |= launched(child.pid, self.marker, self.before_pids)
        return found

    def _sample(self, is_running: bool) -> Sample:
        now = time.monotonic()
        figures = parse_meminfo(_text("/proc/meminfo"))
        use = memory_use(figures)
        available, killed = figures["MemAvailable"], _killed()
        if self.limit is not None:
            within = self.limit.within()
            available, killed = within.limit - within.used, within.killed
        tree = self._tree() if is_running else set()
        heard = self.server.last_heard() if is_running else {}
        silent = [
            page
            for page in range(1, self.opened + 1)
            if now - heard[page].at > self.plan.rules.silence_s
        ]
        delays = [
            max(heard[page].delay_s, now - heard[page].at - 1.0, 0.0)
            for page in range(1, self.opened + 1)
        ]
        return Sample(
            at=now,
            used=use.used,
            used_nocache=use.used_nocache,
            available=available,
            swap_used=use.swap_used,
            tree=_pss(tree) if is_running else None,
            pressure=_pressure(),
            killed=killed,
            is_alive=bool(tree) or not is_running,
            delay_s=max(delays, default=0.0),
            silent=silent,
        )


def _lock() -> bool:
    """Keep the probe's own memory in place, where the kernel lets it."""
    try:
        return bool(ctypes.CDLL(None).mlockall(MCL_CURRENT | MCL_FUTURE) == 0)
    except (OSError, AttributeError):
        return False


def _text(path: str) -> str:
    with open(path, encoding="utf-8", errors="replace") as file:
        return file.read()


def _killed() -> int:
    """Processes that the kernel killed for want of memory since it started (oom_kill)."""
    for line in _text("/proc/vmstat").splitlines():
        if line.startswith("oom_kill "):
            return int(line.split()[1])
    return 0


def _pressure() -> Optional[float]:
    """Share of the last 10 s in which something waited for memory; None where it is not told."""
    try:
        first = _text("/proc/pressure/memory").splitlines()[0]
        return float(first.split("avg10=")[1].split()[0]) / 100.0
    except (OSError, IndexError, ValueError):
        return None


def _pss(tree: Set[int]) -> Optional[int]:
    """Proportional memory of processes; None where one of them may not be read."""
    total = 0
    for pid in tree:
        try:
            size = pss_of(_text("/proc/%d/smaps_rollup" % pid))
        except PermissionError:
            return None
        except OSError:
            continue  # it ended meanwhile
        total += size or 0
    return total
