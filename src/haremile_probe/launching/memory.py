"""Memory and processor time of an application: of all its processes together."""

import os
from typing import Iterable, NamedTuple, Optional

from haremile_probe.launching.process_tree import processes

KIB = 1024
FIELDS = ("Pss", "Private_Clean", "Private_Dirty", "Private_Hugetlb")


class TreeMemory(NamedTuple):
    """Bytes: PSS counts what is shared by share, `shared` is how much of it that is."""

    pss: int
    shared: int


def memory_of(tree: Iterable[int]) -> Optional[TreeMemory]:
    """Proportional memory of processes (``smaps_rollup``); None where one may not be read, or this
    kernel keeps no such figure."""
    pss = private = 0
    for pid in tree:
        try:
            with open("/proc/%d/smaps_rollup" % pid, encoding="ascii") as file:
                told = {line.partition(":")[0]: line.split()[1:2] for line in file if ":" in line}
        except PermissionError:
            return None
        except OSError:
            if os.path.exists("/proc/%d/smaps" % pid) and not _has_rollup():
                return None
            continue  # it ended meanwhile
        sizes = {name: int(told[name][0]) for name in FIELDS if told.get(name)}
        pss += sizes.pop("Pss", 0) * KIB
        private += sum(sizes.values()) * KIB
    return TreeMemory(pss, max(pss - private, 0))


def _has_rollup() -> bool:
    return os.path.exists("/proc/self/smaps_rollup")


def cpu_seconds(tree: Iterable[int]) -> float:
    """Processor seconds that processes which still live have used."""
    every = processes()
    ticks = sum(every[pid].cpu_ticks for pid in tree if pid in every)
    return ticks / os.sysconf("SC_CLK_TCK")
