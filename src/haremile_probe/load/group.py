"""A control group for an application alone: what it uses, and a limit where one is asked for."""

import os
import signal
import time
from typing import Dict, List, NamedTuple, Optional

from haremile_probe.parsers.pressure import parse_pressure
from haremile_probe.runtime import MissingHere

OLD = "/sys/fs/cgroup/memory"
NEW = "/sys/fs/cgroup"
PREFIX = "haremile-ramp-"
PATIENCE_S = 5.0
FILES: Dict[str, "tuple[str, str]"] = {
    "limit": ("memory.limit_in_bytes", "memory.max"),
    "used": ("memory.usage_in_bytes", "memory.current"),
    "peak": ("memory.max_usage_in_bytes", "memory.peak"),
    "events": ("memory.oom_control", "memory.events"),
    "cold": ("total_inactive_file", "inactive_file"),
}
"""Names in version 1 and in version 2 (cgroup-v1/memory.rst, cgroup-v2.rst of the kernel)."""


class Within(NamedTuple):
    """What a group uses: bytes without what can be dropped, the most that it ever used (None where
    the kernel does not keep it), its limit, kills in it, and its pressure."""

    used: int
    peak: Optional[int]
    limit: Optional[int]
    killed: int
    pressure: Optional[float]


class MemoryGroup:
    """A group of processes whose memory is counted, and limited to so many bytes where asked.

    What an earlier probe that was killed left behind is ended and removed first. Raises MissingHere
    where nothing counts memory here, or we may not.
    """

    def __init__(self, limit: Optional[int] = None, old: str = OLD, new: str = NEW):
        self.limit = limit
        self.is_old = os.path.exists(os.path.join(old, FILES["limit"][0]))
        if not self.is_old and "memory" not in _words(os.path.join(new, "cgroup.controllers")):
            raise MissingHere("no memory control group here: leave --limit-memory out")
        home = old if self.is_old else new
        clear_left(home)
        self.path = os.path.join(home, PREFIX + "%d" % os.getpid())
        try:
            os.mkdir(self.path)
            if limit is not None:
                with open(os.path.join(self.path, self._name("limit")), "w") as file:
                    file.write("%d" % limit)
        except OSError as error:
            self.close()
            raise MissingHere(
                "the limit cannot be set (%s); a memory limit needs root" % error
            ) from None

    def within(self) -> Within:
        """What the group uses now."""
        stat = dict(line.split()[:2] for line in self._read("memory.stat").splitlines())
        cold = int(stat.get(self._name("cold"), 0))
        told = dict(line.split()[:2] for line in self._read(self._name("events")).splitlines())
        used = max(int(self._read(self._name("used"))) - cold, 0)
        killed = int(told.get("oom_kill", 0))
        return Within(used, self._peak(), self.limit, killed, self._pressure())

    def _peak(self) -> Optional[int]:
        try:
            return int(self._read(self._name("peak")))
        except OSError:
            return None  # kernels before 5.19 keep none in version 2

    def _pressure(self) -> Optional[float]:
        try:
            return parse_pressure(self._read("memory.pressure"))
        except OSError:
            return None  # version 1 keeps none by group

    def close(self) -> None:
        """Remove the group, once its processes have ended."""
        _remove(self.path)

    def _name(self, what: str) -> str:
        return FILES[what][0 if self.is_old else 1]

    def _read(self, name: str) -> str:
        with open(os.path.join(self.path, name)) as file:
            return file.read()


def clear_left(home: str) -> None:
    """End and remove what a probe left in `home` that was killed in a ramp."""
    for name in _names(home):
        pid = name[len(PREFIX) :]
        if not name.startswith(PREFIX) or not pid.isdigit() or os.path.exists("/proc/" + pid):
            continue
        path = os.path.join(home, name)
        for word in _words(os.path.join(path, "cgroup.procs")):
            try:
                os.kill(int(word), signal.SIGKILL)
            except ProcessLookupError:
                continue
        _remove(path)


def _remove(path: str) -> None:
    until = time.monotonic() + PATIENCE_S
    while os.path.isdir(path):
        try:
            os.rmdir(path)
        except OSError:
            if time.monotonic() > until:
                raise
            time.sleep(0.05)


def _names(folder: str) -> List[str]:
    try:
        return os.listdir(folder)
    except OSError:
        return []


def _words(path: str) -> List[str]:
    try:
        with open(path) as file:
            return file.read().split()
    except OSError:
        return []


def group_of(limit_mib: Optional[int]) -> Optional[MemoryGroup]:
    """The group with the limit that was asked for in MiB. Where none was, one that only counts, if
    this machine lets us have it. Raises MissingHere where a limit cannot be had."""
    if limit_mib is not None:
        return MemoryGroup(limit_mib * 2**20)
    try:
        return MemoryGroup() if os.geteuid() == 0 else None
    except MissingHere:
        return None
