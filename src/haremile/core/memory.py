"""Memory in use, under each definition, from one instant's kernel figures."""

from collections.abc import Mapping
from dataclasses import dataclass

from haremile.errors import SampleError


@dataclass(frozen=True)
class MemoryUse:
    """Bytes in use under the definitions that one record of kernel figures allows."""

    used: int
    used_nocache: int
    swap_used: int

    def by_metric(self) -> dict[str, int]:
        """Metric key to bytes."""
        return {
            "memory.used": self.used,
            "memory.used_nocache": self.used_nocache,
            "memory.swap_used": self.swap_used,
        }


def memory_use(figures: Mapping[str, int]) -> MemoryUse:
    """Reckon every definition from one record.

    Parameters
    ----------
    figures : mapping of kernel name (``MemTotal``, ``MemAvailable``, …) to bytes

    Returns
    -------
    MemoryUse
        used = MemTotal − MemAvailable; used_nocache = MemTotal − MemFree − Buffers − Cached −
        SReclaimable + Shmem; swap_used = SwapTotal − SwapFree.

    Raises
    ------
    SampleError
        If a figure is missing; nothing is filled in.
    """

    def figure(name: str) -> int:
        if name not in figures:
            raise SampleError(f"the memory record holds no {name}")
        return figures[name]

    reclaimable = sum(figure(n) for n in ("MemFree", "Buffers", "Cached", "SReclaimable"))
    return MemoryUse(
        used=figure("MemTotal") - figure("MemAvailable"),
        used_nocache=figure("MemTotal") - reclaimable + figure("Shmem"),
        swap_used=figure("SwapTotal") - figure("SwapFree"),
    )
