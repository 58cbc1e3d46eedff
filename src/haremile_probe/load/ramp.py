"""A load ramp: an application is given one more page or document until a stated rule ends it.

Each is asked for by starting the application's command with its address: one that runs already
takes it over, any other opens it itself. Everything that came of it is one tree of processes, which
is ended at the end whatever happened.
"""

import ctypes
import os
import shutil
import subprocess
import sys
import time
import uuid
from typing import Any, Callable, Dict, List, Mapping, NamedTuple, Optional, Sequence, Set, Tuple

from haremile_probe.launching.memory import cpu_seconds, memory_of
from haremile_probe.launching.process_tree import MARKER, end_launch, launched, processes
from haremile_probe.load.copies import Documents
from haremile_probe.load.group import MemoryGroup
from haremile_probe.load.kinds import APP, KINDS, NAMES, Opening, opening_of
from haremile_probe.load.page_set import VERSION
from haremile_probe.load.rules import (
    ALL_CARRIED,
    TIMED_OUT,
    Sample,
    StopRules,
    ended_by,
)
from haremile_probe.load.signs import PageServer
from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.meminfo import memory_use, parse_meminfo
from haremile_probe.parsers.pressure import parse_pressure
from haremile_probe.runtime import BadInput
from haremile_probe.session_user import SessionUser, environment_for

EVERY_S = 0.5
SETTLE_S = 4.0
"""A page is carried once it held for so long after it was painted, and every page that is open
gave a sign of life since."""

RESTS_S = 1.0
REST_SHARE = 0.15
"""What does not tell of itself is open once its processes used no more of a processor so long."""

VICTIM = 500
"""Of a kernel that runs out of memory the application is the choice, not the probe."""

MCL_CURRENT, MCL_FUTURE = 1, 2
START = (
    """
import ctypes, os, sys
group, uid, gid, name = sys.argv[1:5]
if group:
    open(os.path.join(group, 'cgroup.procs'), 'w').write('0')
try:
    open('/proc/self/oom_score_adj', 'w').write('%d')
except OSError:
    pass
if uid:
    os.initgroups(name, int(gid)); os.setgid(int(gid)); os.setuid(int(uid))
ctypes.CDLL(None).prctl(1, 9, 0, 0, 0)
os.execvp(sys.argv[5], sys.argv[5:])
"""
    % VICTIM
)


class RampPlan(NamedTuple):
    """What is asked of a ramp: `mix` is what its steps open, in turns, `commands` what the other
    applications among them stand for."""

    rules: StopRules = StopRules()
    settle_s: float = SETTLE_S
    user: Optional[SessionUser] = None
    mix: Sequence[str] = KINDS
    commands: Mapping[str, Sequence[str]] = {}


class Step(NamedTuple):
    """What was asked for: seconds from that until it was painted, what was read at that instant and
    once it had held, and how late the pages' signs of life were meanwhile, at worst."""

    number: int
    kind: str
    painted_s: Optional[float]
    at_once: Optional[Sample]
    sample: Optional[Sample]
    worst_delay_s: float


class Ramp(NamedTuple):
    """What became of it: `ended` is one of `rules.REASONS`, at the step that was open then; `peak`
    is the most that the application's group ever used, bytes."""

    before: Sample
    steps: List[Step]
    carried: int
    ended: str
    page_set: str
    mix: Sequence[str]
    limit: Optional[int]
    peak: Optional[int]
    locked: bool

    def facts(self) -> Dict[str, Any]:
        """As it is written down."""
        return {
            **self._asdict(),
            "before": self.before._asdict(),
            "steps": [
                {
                    **step._asdict(),
                    "at_once": step.at_once and step.at_once._asdict(),
                    "sample": step.sample and step.sample._asdict(),
                }
                for step in self.steps
            ],
        }


def ramp(
    command: Sequence[str],
    plan: RampPlan,
    group: Optional[MemoryGroup],
    progress: Callable[[str], None],
) -> Ramp:
    """Carry a ramp out; the application is gone afterwards, the machine as it was."""
    if shutil.which(command[0]) is None:
        raise BadInput("%s: no such command" % command[0])
    locked = _lock()
    for name in plan.mix:
        if name.startswith(APP) and name[len(APP) :] not in plan.commands:
            raise BadInput("nothing says what command %s stands for" % name[len(APP) :])
    user = plan.user
    server = PageServer()
    documents = Documents(None if user is None else (user.uid, user.gid))
    try:
        return _Ramp(command, plan, group, (server, documents), progress).told(locked)
    finally:
        documents.close()
        server.close()


class _Ramp:
    def __init__(
        self,
        command: Sequence[str],
        plan: RampPlan,
        group: Optional[MemoryGroup],
        places: Tuple[PageServer, Documents],
        progress: Callable[[str], None],
    ):
        self.command, self.plan, self.group = list(command), plan, group
        self.server, self.documents = places
        self.progress = progress
        self.marker = uuid.uuid4().hex
        self.before_pids: Set[int] = set(processes())
        self.children: "List[subprocess.Popen[bytes]]" = []
        self.telling: List[int] = []
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
        within = None if self.group is None else self.group.within()
        size = None if within is None else within.limit
        peak = None if within is None else within.peak
        mix = list(self.plan.mix)
        return Ramp(self.before, self.steps, carried, ended, VERSION, mix, size, peak, locked)

    def _step(self, number: int) -> Optional[str]:
        """One more: None where it was carried, else the rule that ended the ramp."""
        rules, opening = self.plan.rules, opening_of(self.plan.mix, number)
        self.progress("step %d of %d (%s)" % (number, rules.steps, opening.kind))
        begun = time.monotonic()
        self._open(number, opening)
        painted: Optional[float] = None
        at_once: Optional[Sample] = None
        reason = None
        first = len(self.samples)
        while reason is None:
            time.sleep(EVERY_S)
            was_there = painted is not None
            if not was_there:
                painted = self._painted(number, opening, self.samples[first:])
            self.samples.append(self._sample(True))
            if painted is not None and not was_there:
                at_once = self.samples[-1]
            reason = ended_by(self.samples, self.before, rules)
            if reason is None and painted is None and time.monotonic() - begun > rules.launch_s:
                reason = TIMED_OUT
            if reason is None and painted is not None and self._has_held(painted):
                break
        self.steps.append(
            Step(
                number,
                opening.kind,
                None if painted is None else painted - begun,
                at_once,
                self.samples[-1] if reason is None else None,
                max((one.delay_s for one in self.samples[first:]), default=0.0),
            )
        )
        return reason

    def _painted(self, number: int, opening: Opening, samples: Sequence[Sample]) -> Optional[float]:
        """When a step's page said that it was painted; of what says nothing, when its processes
        came to rest."""
        if opening.tells:
            said = self.server.said(number, "painted")
            if said is not None:
                self.telling.append(number)
            return None if said is None else said.at
        if opening.kind in NAMES and not self.documents.was_opened(number):
            return None
        return at_rest(samples)

    def _has_held(self, painted: float) -> bool:
        """Whether the page stood for long enough, and every page gave a sign since it is there."""
        heard = self.server.last_heard()
        return time.monotonic() - painted >= self.plan.settle_s and all(
            heard[page].at > painted for page in self.telling
        )

    def _words(self, number: int, opening: Opening) -> List[str]:
        """The command that a step starts."""
        if opening.tells:
            return [*self.command, self.server.address(number, opening.kind)]
        if opening.kind in NAMES:
            return [*self.command, self.documents.lay(number, opening.kind)]
        if opening.kind.startswith(APP):
            return list(self.plan.commands[opening.kind[len(APP) :]])
        return [*self.command, opening.kind]

    def _open(self, number: int, opening: Opening) -> None:
        user = self.plan.user
        words = [
            "" if self.group is None else self.group.path,
            "" if user is None else str(user.uid),
            "" if user is None else str(user.gid),
            "" if user is None else user.name,
        ]
        own = {**os.environ, MARKER: self.marker}
        self.children.append(
            subprocess.Popen(
                [sys.executable, "-c", START, *words, *self._words(number, opening)],
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
        available, killed, pressure = figures["MemAvailable"], _killed(), _pressure()
        within = None if self.group is None else self.group.within()
        if within is not None and within.limit is not None:
            available, killed = within.limit - within.used, within.killed
            pressure = within.pressure if within.pressure is not None else pressure
        tree = self._tree() if is_running else set()
        size = memory_of(tree) if is_running else None
        heard = self.server.last_heard() if is_running else {}
        silent = [page for page in self.telling if now - heard[page].at > self.plan.rules.silence_s]
        delays = [
            max(heard[page].delay_s, now - heard[page].at - 1.0, 0.0) for page in self.telling
        ]
        return Sample(
            at=now,
            used=use.used,
            used_nocache=use.used_nocache,
            available=available,
            swap_used=use.swap_used,
            tree=None if size is None else size.pss,
            shared=None if size is None else size.shared,
            own=None if within is None else within.used,
            cpu_s=cpu_seconds(tree),
            pressure=pressure,
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
        return parse_pressure(_text("/proc/pressure/memory"))
    except (OSError, UnreadableError):
        return None


def at_rest(samples: Sequence[Sample]) -> Optional[float]:
    """When processes came to rest that have used next to no processor since; None before."""
    newest, since = samples[-1] if samples else None, None
    for before, now in zip(reversed(samples[:-1]), reversed(samples[1:])):
        if now.cpu_s - before.cpu_s > REST_SHARE * (now.at - before.at):
            break
        since = before.at
    if newest is None or since is None or newest.at - since < RESTS_S:
        return None
    return since
