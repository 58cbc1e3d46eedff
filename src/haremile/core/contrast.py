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
    first, second = as_sample(a, "a"), as_sample(b, "b")
    rank, achieved = interval_rank(first.size, second.size, as_level(level))
    differences = np.sort(np.subtract.outer(second, first), axis=None)
    interval = Interval(float(differences[rank - 1]), float(differences[-rank]), achieved)
    return Estimate(float(np.median(differences)), interval.widened(resolution))


def ratio_estimate(
    a: Sequence[float] | FloatArray,
    b: Sequence[float] | FloatArray,
    level: float = 0.95,
) -> Estimate | None:
    """Ratio of B to A: the shift on logarithms; None unless every reading is positive."""
    first, second = as_sample(a, "a"), as_sample(b, "b")
    if min(first.min(), second.min()) <= 0:
        return None
    logs = shift_estimate(np.log(first), np.log(second), level)
    interval = Interval(
        float(np.exp(logs.interval.low)), float(np.exp(logs.interval.high)), logs.interval.level
    )
    return Estimate(float(np.exp(logs.value)), interval)


def contrast(
    a: Sequence[float] | FloatArray,
    b: Sequence[float] | FloatArray,
    level: float = 0.95,
    resolution: float | None = None,
) -> Contrast:
    """Compare B with A; parameters as in `shift_estimate`.

    Raises
    ------
    SampleError
        If a lane is empty or holds a value that is not finite.
    """
    first, second = as_sample(a, "a"), as_sample(b, "b")
    ordered = np.sort(first)
    below = np.searchsorted(ordered, second, side="left").sum()
    not_above = np.searchsorted(ordered, second, side="right").sum()
    pairs = first.size * second.size
    b_higher = float(below) / pairs
    b_lower = float(pairs - not_above) / pairs
    return Contrast(
        n_a=first.size,
        n_b=second.size,
        shift=shift_estimate(first, second, level, resolution),
        ratio=ratio_estimate(first, second, level),
        probability_b_lower=b_lower + (1.0 - b_higher - b_lower) / 2.0,
        cliffs_delta=b_higher - b_lower,
    )
