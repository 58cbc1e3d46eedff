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
    "boot.after",
)
"""Parts that follow one another; the others begin elsewhere."""

TOTAL = "boot.total"
REST = "boot.rest"
"""What of power-on to ready lies in no part that is known: it is no metric, but what is left."""

LEAST_REST_S = 0.05

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
        methods = sorted((method for key, method in shared if key == metric), key=_preference)
        if methods:
            found.append(PartSource(metric, methods[0]))
    return tuple(found)


def with_rest(
    lanes: Sequence[Sequence[Run]], sources: tuple[PartSource, ...]
) -> tuple[PartSource, ...]:
    """The parts, and what they leave of the whole where every run was also timed as a whole.

    Nothing is added where they leave less than `LEAST_REST_S` in every lane, or where a whole is
    shorter than its parts: then the two were timed in different ways.
    """
    runs = [run for lane in lanes for run in lane]
    if not runs or not sources:
        return sources
    wholes = [key for key in set(runs[0]).intersection(*runs) if key[0] == TOTAL]
    for _, method in sorted(wholes, key=lambda key: _preference(key[1])):
        rest = PartSource(REST, method)
        left = [[_length(run, rest, sources) for run in lane] for lane in lanes if lane]
        shortest = min(min(lane) for lane in left)
        if shortest >= -LEAST_REST_S and max(np.median(lane) for lane in left) >= LEAST_REST_S:
            return (*sources, rest)
    return sources


def _preference(method: str) -> int:
    return PREFERRED.index(method) if method in PREFERRED else len(PREFERRED)


def _length(run: Run, source: PartSource, sources: Sequence[PartSource]) -> float:
    """How long a part took in a run; of what is left, the whole less every other part."""
    if source.metric != REST:
        return run[source.metric, source.method]
    named = sum(run[one.metric, one.method] for one in sources if one.metric != REST)
    return run[TOTAL, source.method] - named


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
    spans = np.array([[_length(run, s, sources) for s in sources] for run in runs])
    ends = np.cumsum(spans, axis=1)
    parts, start = [], 0.0
    for place, source in enumerate(sources):
        end = float(np.median(ends[:, place]))
        parts.append(BootPart(source.metric, start, end, median_interval(ends[:, place])))
        start = end
    return tuple(parts)
