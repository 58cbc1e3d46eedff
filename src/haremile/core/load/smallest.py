"""The smallest sensible machine: from memory with no page, memory for each, and a reserve.

What a machine needs for N pages is calculated run by run (its memory with no page, N times what a
page took, the reserve); the interval is of the median over runs, by order statistics, and below six
runs their range, which covers the median with probability 1 − 2^(1−n).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from haremile.core.statistics.lane_statistics import summarise_lane


class Fit(StrEnum):
    """Whether so many pages fit into a machine."""

    FITS = "fits"
    WITH_SWAP = "fits with swap"
    DOES_NOT_FIT = "does not fit"
    OPEN = "undecided"
    NOT_MEASURED = "not measured"


@dataclass(frozen=True)
class RampFigures:
    """What one ramp told: bytes with the application open and no page, and for each page."""

    base: float
    step: float


@dataclass(frozen=True)
class Need:
    """Bytes that are needed: typically, and within which limits at `level`, over so many runs."""

    typical: float
    low: float
    high: float
    level: float
    runs: int


def needed(ramps: Sequence[RampFigures], pages: int, reserve: float) -> Need | None:
    """What so many pages need.

    Parameters
    ----------
    ramps : sequence of RampFigures
        Of one contender; one alone has no interval, and its limits are its value.
    pages : int
    reserve : float
        Bytes that are to stay free.

    Returns
    -------
    Need or None
        None without a ramp.
    """
    if not ramps:
        return None
    values = [one.base + pages * one.step + reserve for one in ramps]
    summary = summarise_lane(values)
    found = summary.median_interval
    if found is not None and found.low is not None and found.high is not None:
        return Need(summary.median, found.low, found.high, found.level, len(values))
    level = 1.0 - 2.0 ** (1 - len(values))
    return Need(summary.median, min(values), max(values), level, len(values))


def fit(need: Need | None, size: float, swap: float = 0.0) -> Fit:
    """Whether what is needed fits into a machine of `size` bytes that may swap `swap` bytes."""
    if need is None:
        return Fit.NOT_MEASURED
    if need.high <= size:
        return Fit.FITS
    if need.low > size + swap:
        return Fit.DOES_NOT_FIT
    if swap > 0 and need.low > size and need.high <= size + swap:
        return Fit.WITH_SWAP
    return Fit.OPEN
