"""``/proc/meminfo``, and memory in use under each definition."""

import re
from typing import Dict, Mapping, NamedTuple

from haremile_probe.parsers import UnreadableError

_LINE = re.compile(r"^([A-Za-z_()0-9]+):\s+(\d+)( kB)?$")


def parse_meminfo(text: str) -> Dict[str, int]:
    """Read the kernel's memory figures.

    Returns a mapping of name to bytes; counts without a unit (huge pages) stay counts. Raises
    UnreadableError on a line of another shape, or where there is no ``MemTotal``.
    """
    figures = {}
    for line in text.splitlines():
        if not line.strip():
            continue
        match = _LINE.match(line.strip())
        if match is None:
            raise UnreadableError("not a line of meminfo: %r" % line[:80])
        figures[match.group(1)] = int(match.group(2)) * (1024 if match.group(3) else 1)
    if "MemTotal" not in figures:
        raise UnreadableError("meminfo holds no MemTotal")
    return figures


class MemoryUse(NamedTuple):
    """Bytes in use under the definitions that one record of kernel figures allows."""

    used: int
    used_nocache: int
    swap_used: int

    def by_metric(self) -> Dict[str, int]:
        """Metric key to bytes."""
        return {
            "memory.used": self.used,
            "memory.used_nocache": self.used_nocache,
            "memory.swap_used": self.swap_used,
        }


def memory_use(figures: Mapping[str, int]) -> MemoryUse:
    """Calculate every definition from one record of kernel figures, in bytes.

    used = MemTotal − MemAvailable; used_nocache = MemTotal − MemFree − Buffers − Cached −
    SReclaimable + Shmem; swap_used = SwapTotal − SwapFree. Raises UnreadableError if a figure is
    missing; nothing is filled in.
    """

    def figure(name: str) -> int:
        if name not in figures:
            raise UnreadableError("the memory record holds no %s" % name)
        return figures[name]

    reclaimable = sum(figure(n) for n in ("MemFree", "Buffers", "Cached", "SReclaimable"))
    return MemoryUse(
        figure("MemTotal") - figure("MemAvailable"),
        figure("MemTotal") - reclaimable + figure("Shmem"),
        figure("SwapTotal") - figure("SwapFree"),
    )
