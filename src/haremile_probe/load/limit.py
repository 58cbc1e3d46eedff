"""A memory limit for an application alone, by the kernel's control groups; as root."""

import os
import time
from typing import NamedTuple, Optional

from haremile_probe.runtime import MissingHere

OLD = "/sys/fs/cgroup/memory"
NEW = "/sys/fs/cgroup"
NAME = "haremile-ramp-%d"
PATIENCE_S = 5.0


class Within(NamedTuple):
    """What a limited group uses: bytes without what can be dropped, its limit, kills in it."""

    used: int
    limit: int
    killed: int


class MemoryLimit:
    """A group of processes that may use so many bytes; version 1 or 2, whichever limits here.

    Raises MissingHere where neither does, or we may not.
    """

    def __init__(self, limit: int, old: str = OLD, new: str = NEW):
        self.limit = limit
        self.is_old = os.path.exists(os.path.join(old, "memory.limit_in_bytes"))
        if not self.is_old and "memory" not in _words(os.path.join(new, "cgroup.controllers")):
            raise MissingHere("no memory control group here: leave --limit-memory out")
        self.path = os.path.join(old if self.is_old else new, NAME % os.getpid())
        try:
            os.mkdir(self.path)
            self._write("memory.limit_in_bytes" if self.is_old else "memory.max", limit)
        except OSError as error:
            self.close()
            raise MissingHere(
                "the limit cannot be set (%s); a memory limit needs root" % error
            ) from None

    def within(self) -> Within:
        """What the group uses now."""
        usage = int(self._read("memory.usage_in_bytes" if self.is_old else "memory.current"))
        stat = dict(line.split()[:2] for line in self._read("memory.stat").splitlines())
        cold = int(stat.get("total_inactive_file" if self.is_old else "inactive_file", 0))
        events = self._read("memory.oom_control" if self.is_old else "memory.events")
        told = dict(line.split()[:2] for line in events.splitlines())
        return Within(max(usage - cold, 0), self.limit, int(told.get("oom_kill", 0)))

    def close(self) -> None:
        """Remove the group, once its processes have ended."""
        until = time.monotonic() + PATIENCE_S
        while os.path.isdir(self.path):
            try:
                os.rmdir(self.path)
            except OSError:
                if time.monotonic() > until:
                    raise
                time.sleep(0.05)

    def _write(self, name: str, value: int) -> None:
        with open(os.path.join(self.path, name), "w") as file:
            file.write("%d" % value)

    def _read(self, name: str) -> str:
        with open(os.path.join(self.path, name)) as file:
            return file.read()


def _words(path: str) -> "list[str]":
    try:
        with open(path) as file:
            return file.read().split()
    except OSError:
        return []


def limit_of(mib: Optional[int]) -> Optional[MemoryLimit]:
    """The limit that was asked for in MiB, if one was."""
    return None if mib is None else MemoryLimit(mib * 2**20)
