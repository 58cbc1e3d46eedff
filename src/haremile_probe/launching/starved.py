"""Whether what was launched waits for a processor or for storage: then quiet says nothing."""

import os
import time
from typing import Callable, Dict, Iterable, NamedTuple, Optional, Set

NANOSECOND = 1e-9
WAITING_SHARE = 0.2
"""Of the time between two looks, over all threads: more than that and it is held up."""

HELD_EVERY_S = 0.1
MOST_HELD_S = 7.0
"""For so long waiting may keep a window from settling: some read for ever."""


class Held(NamedTuple):
    """What threads have waited for a processor, in seconds, and bytes read from storage."""

    delay_s: float
    read_bytes: int


def held_up(pids: Iterable[int]) -> Held:
    """Of these processes and all their threads together; those that ended count no more."""
    delay_s, read_bytes = 0.0, 0
    for pid in pids:
        for name in _threads(pid):
            delay_s += _run_delay_s("/proc/%d/task/%s/schedstat" % (pid, name))
        read_bytes += _io(pid).get("read_bytes", 0)
    return Held(delay_s, read_bytes)


def _threads(pid: int) -> Set[str]:
    try:
        return set(os.listdir("/proc/%d/task" % pid))
    except OSError:
        return set()  # it ended


def _run_delay_s(path: str) -> float:
    """The second figure is the time spent waiting on a run queue (sched-stats in the kernel's
    documents)."""
    try:
        with open(path, encoding="ascii") as file:
            return int(file.read().split()[1]) * NANOSECOND
    except (OSError, IndexError, ValueError):
        return 0.0  # it ended, or this kernel keeps no such figures


def _io(pid: int) -> Dict[str, int]:
    try:
        with open("/proc/%d/io" % pid, encoding="ascii") as file:
            pairs = (line.partition(":") for line in file)
            return {name: int(value) for name, _, value in pairs}
    except (OSError, ValueError):
        return {}  # it ended, or is another user's


class HoldUp:
    """Tells until when what was launched was seen waiting for a processor or for storage."""

    def __init__(self, pids: Callable[[], Set[int]]):
        self._find, self._pids = pids, set()  # type: Callable[[], Set[int]], Set[int]
        self._before: Optional[Held] = None
        self._at = self._until = 0.0

    def until(self, now: float, changed_at: float) -> float:
        """The last such instant, 0 for none; no longer looked at `MOST_HELD_S` after a change."""
        if now - self._at < HELD_EVERY_S or now - changed_at > MOST_HELD_S:
            return self._until
        self._pids = self._pids or self._find()
        found, before, at = held_up(self._pids), self._before, self._at
        self._before, self._at = found, time.monotonic()
        if before is not None:
            share = (found.delay_s - before.delay_s) / max(now - at, HELD_EVERY_S)
            if share > WAITING_SHARE or found.read_bytes > before.read_bytes:
                self._until = now
        return self._until
