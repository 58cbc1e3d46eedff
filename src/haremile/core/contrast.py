"""What is said of two lanes, always B against A."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from haremile.core.lane_statistics import Interval
from haremile.core.rank_sum import interval_rank
from haremile.core.sample import FloatArray, as_level, as_sample


@dataclass(frozen=True)
class Estimate:
    """An estimate with its interval, in the unit of the readings or as a ratio."""

    value: float
    interval: Interval


@dataclass(frozen=True)
class Contrast:
    """B against A.

    Attributes
    ----------
    n_a, n_b : int
    shift : Estimate
        Hodges–Lehmann shift b − a, in the unit of the readings.
    ratio : Estimate or None
        The same on logarithms, b / a; None unless every reading is positive.
    probability_b_lower : float
        Chance that a run of B is below a run of A, half of ties.
    cliffs_delta : float
        P(b > a) − P(b < a).
    """

    n_a: int
    n_b: int
    shift: Estimate
    ratio: Estimate | None
    probability_b_lower: float
    cliffs_delta: float


class _Differences:
    """All pairwise differences b − a, in order; sorted once for any number of levels."""

    def __init__(self, a: FloatArray, b: FloatArray):
        self._sizes = (a.size, b.size)
        self._ordered = np.sort(np.subtract.outer(b, a), axis=None)
        self._median = float(np.median(self._ordered))

    def estimate(self, level: float) -> Estimate:
        """The Hodges–Lehmann estimate with its interval at (at least) `level`."""
        rank, achieved = interval_rank(*self._sizes, as_level(level))
        low, high = float(self._ordered[rank - 1]), float(self._ordered[-rank])
        return Estimate(self._median, Interval(low, high, achieved))


def shift_estimate(
    a: Sequence[float] | FloatArray,
    b: Sequence[float] | FloatArray,
    level: float = 0.95,
    resolution: float | None = None,
) -> Estimate:
    """Hodges–Lehmann shift of B against A with its exact interval.

    Parameters
    ----------
    a, b : array_like, shapes (n_a,) and (n_b,)
        Readings in one unit.
    level : float
        Asked level. The achieved one stands in the interval; it can be lower where there are too
        few readings (three against three give 90 %).
    resolution : float, optional
        The instrument's step; the interval is widened by half of it on each side.

    Notes
    -----
    The median of all pairwise differences b − a; limits from the order statistics of those
    differences at the exact rank-sum quantile. Source: Hollander, Wolfe & Chicken, Nonparametric
    Statistical Methods, 3rd ed., sections 4.2 and 4.3.
    """
    found = _Differences(as_sample(a, "a"), as_sample(b, "b")).estimate(level)
    return Estimate(found.value, found.interval.widened(resolution))


def ratio_estimate(
    a: Sequence[float] | FloatArray,
    b: Sequence[float] | FloatArray,
    level: float = 0.95,
) -> Estimate | None:
    """Ratio of B to A: the shift on logarithms; None unless every reading is positive."""
    first, second = as_sample(a, "a"), as_sample(b, "b")
    if min(first.min(), second.min()) <= 0:
        return None
    return _exponential(_Differences(np.log(first), np.log(second)).estimate(level))


def _exponential(logs: Estimate) -> Estimate:
    low, high = float(np.exp(logs.interval.low)), float(np.exp(logs.interval.high))
    return Estimate(float(np.exp(logs.value)), Interval(low, high, logs.interval.level))


def contrasts(
    a: Sequence[float] | FloatArray,
    b: Sequence[float] | FloatArray,
    levels: Sequence[float],
    resolution: float | None = None,
) -> list[Contrast]:
    """Compare B with A at several levels, one contrast for each; as `shift_estimate` otherwise.

    Raises
    ------
    SampleError
        If a lane is empty or holds a value that is not finite.
    """
    first, second = as_sample(a, "a"), as_sample(b, "b")
    lower, higher = _chances(first, second)
    shifts = _Differences(first, second)
    is_positive = min(first.min(), second.min()) > 0
    logs = _Differences(np.log(first), np.log(second)) if is_positive else None
    found = []
    for level in levels:
        shift = shifts.estimate(level)
        found.append(
            Contrast(
                n_a=first.size,
                n_b=second.size,
                shift=Estimate(shift.value, shift.interval.widened(resolution)),
                ratio=_exponential(logs.estimate(level)) if logs else None,
                probability_b_lower=lower + (1.0 - higher - lower) / 2.0,
                cliffs_delta=higher - lower,
            )
        )
    return found


def _chances(a: FloatArray, b: FloatArray) -> tuple[float, float]:
    """P(b < a) and P(b > a) over all pairs of readings."""
    ordered = np.sort(a)
    pairs = a.size * b.size
    higher = float(np.searchsorted(ordered, b, side="left").sum()) / pairs
    lower = float(pairs - np.searchsorted(ordered, b, side="right").sum()) / pairs
    return lower, higher


def contrast(
    a: Sequence[float] | FloatArray,
    b: Sequence[float] | FloatArray,
    level: float = 0.95,
    resolution: float | None = None,
) -> Contrast:
    """Compare B with A; parameters as in `shift_estimate`."""
    return contrasts(a, b, [level], resolution)[0]


def mirrored(found: Contrast) -> Contrast:
    """A against B, from B against A."""
    shift, ratio = found.shift, found.ratio
    return Contrast(
        n_a=found.n_b,
        n_b=found.n_a,
        shift=Estimate(-shift.value, negated(shift.interval)),
        ratio=ratio and Estimate(1.0 / ratio.value, _inverted(ratio.interval)),
        probability_b_lower=1.0 - found.probability_b_lower,
        cliffs_delta=-found.cliffs_delta,
    )


def negated(interval: Interval) -> Interval:
    """The interval of the difference the other way round."""
    return Interval(-interval.high, -interval.low, interval.level)


def _inverted(interval: Interval) -> Interval:
    return Interval(1.0 / interval.high, 1.0 / interval.low, interval.level)
