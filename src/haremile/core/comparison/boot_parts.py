"""The boot as a chain of its parts: where each begins and ends, run by run."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from haremile.core.statistics.lane_statistics import Interval, median_interval

CHAIN = (
    "boot.firmware",
    "boot.loader",
    "boot.menu",
    "boot.kernel",
    "boot.initrd",
    "boot.userspace",
)
"""Parts that follow one another; the others begin elsewhere."""

PREFERRED = ("systemd", "host-marker", "firmware-table", "efi", "kernel-log", "hand", "typed")
"""By which method a part is taken where several gave it."""


@dataclass(frozen=True)
class PartSource:
    """A part that all lanes have, and the method by which it is taken in all of them."""

    metric: str
    method: str


@dataclass(frozen=True)
class BootPart:
    """Where a part typically begins and ends, seconds since power-on or the first part's begin.

    `end` is the median over runs of the sum of all parts so far, with its interval; `start` is the
    `end` of the part before.
    """

    metric: str
    start: float
    end: float
    end_interval: Interval | None


Run = Mapping[tuple[str, str], float]
"""Seconds by metric and method."""


def part_sources(lanes: Sequence[Sequence[Run]]) -> tuple[PartSource, ...]:
    """The parts that every run of every lane has by one and the same method, in their order."""
    runs = [run for lane in lanes for run in lane]
    if not runs:
        return ()
    shared = set(runs[0]).intersection(*runs)
    found = []
    for metric in CHAIN:
        methods = sorted(
            (method for key, method in shared if key == metric),
            key=lambda m: PREFERRED.index(m) if m in PREFERRED else len(PREFERRED),
        )
        if methods:
            found.append(PartSource(metric, methods[0]))
    return tuple(found)


def boot_parts(runs: Sequence[Run], sources: Sequence[PartSource]) -> tuple[BootPart, ...]:
    """The parts of one lane.

    Parameters
    ----------
    runs : sequence of mappings, one for each boot that counts
    sources : sequence of PartSource
        As `part_sources` found them, so that every run has each.
    """
    if not runs or not sources:
        return ()
    spans = np.array([[run[s.metric, s.method] for s in sources] for run in runs])
    ends = np.cumsum(spans, axis=1)
    parts, start = [], 0.0
    for place, source in enumerate(sources):
        end = float(np.median(ends[:, place]))
        parts.append(BootPart(source.metric, start, end, median_interval(ends[:, place])))
        start = end
    return tuple(parts)
