"""Tests of two lanes against one another; each result names its method."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import special, stats

from haremile.core.statistics.exact_sums import subset_sum_shares, two_sided
from haremile.core.statistics.rank_sum import EXACT_UP_TO, rank_sum_cdf
from haremile.core.statistics.validation import FloatArray, as_level, as_ranked, as_sample

EXACT_WITH_TIES_UP_TO = 60
"""Readings of both lanes together for which the distribution with ties is counted out."""


@dataclass(frozen=True)
class MannWhitney:
    """Rank-sum test of B against A.

    `u` counts the pairs in which B is higher, half of ties. `p` is two-sided, None where all
    readings are equal. `method` is ``exact``, ``exact with ties`` or ``normal``.
    """

    u: float
    p: float | None
    method: str


@dataclass(frozen=True)
class Welch:
    """Welch's t for the difference of means b − a; None throughout where no spread is seen."""

    difference: float
    t: float | None
    df: float | None
    p: float | None
    low: float | None
    high: float | None
    se: float | None


def to_grid(values: FloatArray, resolution: float | None) -> FloatArray:
    """Values as steps of the instrument, so that ties are found; as they are without a step."""
    if not resolution:
        return values
    steps: FloatArray = np.round(values / resolution)
    return steps


def mann_whitney(
    a: Sequence[float] | FloatArray,
    b: Sequence[float] | FloatArray,
    resolution: float | None = None,
) -> MannWhitney:
    """Rank-sum test, two-sided.

    Parameters
    ----------
    a, b : array_like, shapes (n_a,) and (n_b,)
        Readings in one unit; +infinity for a run slower than its time limit.
    resolution : float, optional
        The instrument's step, used to find ties.

    Notes
    -----
    Exact without ties up to 22,500 pairs of readings (150 in each lane); with ties the exact
    conditional distribution of the midranks up to 60 readings together; else normal with tie and
    continuity correction.
    Source: Hollander, Wolfe & Chicken, Nonparametric Statistical Methods, 3rd ed., section 4.1.
    """
    first = to_grid(as_ranked(a, "a"), resolution)
    second = to_grid(as_ranked(b, "b"), resolution)
    ranks = stats.rankdata(np.concatenate([first, second]))
    n_a, n_b = first.size, second.size
    u = float(ranks[n_a:].sum()) - n_b * (n_b + 1) / 2.0
    _, ties = np.unique(ranks, return_counts=True)
    if ties.size == 1:
        return MannWhitney(u, None, "undefined: all readings are equal")
    if ties.max() == 1 and n_a * n_b <= EXACT_UP_TO:
        cdf = rank_sum_cdf(n_a, n_b)
        lower = float(cdf[round(min(u, n_a * n_b - u))])
        return MannWhitney(u, min(2.0 * lower, 1.0), "exact")
    if n_a + n_b <= EXACT_WITH_TIES_UP_TO:
        shares = subset_sum_shares(2.0 * ranks, n_b)
        p = two_sided(shares, round(2.0 * float(ranks[n_a:].sum())))
        return MannWhitney(u, p, "exact with ties")
    return MannWhitney(u, _normal_p(u, n_a, n_b, ties), "normal")


def _normal_p(u: float, n_a: int, n_b: int, ties: NDArray[np.int_]) -> float:
    away = max(abs(u - n_a * n_b / 2.0) - 0.5, 0.0)
    return min(2.0 * float(stats.norm.sf(away / _rank_sum_sd(n_a, n_b, ties))), 1.0)


def _rank_sum_sd(n_a: int, n_b: int, ties: NDArray[np.int_]) -> float:
    n = n_a + n_b
    lost = float((ties.astype(float) ** 3 - ties).sum()) / (n * (n - 1))
    return math.sqrt(n_a * n_b / 12.0 * (n + 1 - lost))


def rank_sum_normal(a: FloatArray, b: FloatArray, side: str) -> float:
    """One-sided p of the rank-sum test, normal with tie and continuity correction.

    Parameters
    ----------
    a, b : ndarray, shapes (n_a,) and (n_b,)
    side : str
        ``greater``: b lies above a; ``less``: b lies below a.

    Notes
    -----
    1 where all readings are equal. Source: as `mann_whitney`.
    """
    ranks = stats.rankdata(np.concatenate([a, b]))
    _, ties = np.unique(ranks, return_counts=True)
    if ties.size == 1:
        return 1.0
    u = float(ranks[a.size :].sum()) - b.size * (b.size + 1) / 2.0
    away = (u - a.size * b.size / 2.0) * (1.0 if side == "greater" else -1.0)
    return float(stats.norm.sf((away - 0.5) / _rank_sum_sd(a.size, b.size, ties)))


def welch(
    a: Sequence[float] | FloatArray,
    b: Sequence[float] | FloatArray,
    level: float = 0.95,
) -> Welch:
    """Welch's t test and interval for the difference of means b − a.

    Source: Welch, Biometrika 34, 1947. Undefined where a lane has one reading or neither varies.
    """
    first, second = as_sample(a, "a"), as_sample(b, "b")
    difference = math.fsum(second) / second.size - math.fsum(first) / first.size
    if min(first.size, second.size) < 2:
        return Welch(difference, None, None, None, None, None, None)
    parts = [float(np.var(lane, ddof=1)) / lane.size for lane in (first, second)]
    variance = sum(parts)
    if variance == 0.0:
        return Welch(difference, None, None, None, None, None, None)
    df = variance**2 / (parts[0] ** 2 / (first.size - 1) + parts[1] ** 2 / (second.size - 1))
    se = math.sqrt(variance)
    reach = float(stats.t.ppf(0.5 + as_level(level) / 2.0, df)) * se
    t = difference / se
    p = 2.0 * float(stats.t.sf(abs(t), df))
    return Welch(difference, t, df, p, difference - reach, difference + reach, se)


def hedges_g(a: Sequence[float] | FloatArray, b: Sequence[float] | FloatArray) -> float | None:
    """Hedges' g of b − a: difference of means over the pooled spread, small-sample corrected.

    None where no spread is seen. Source: Hedges, Journal of Educational Statistics 6, 1981, with
    the exact gamma correction.
    """
    first, second = as_sample(a, "a"), as_sample(b, "b")
    df = first.size + second.size - 2
    if df < 2:
        return None
    squares = sum(float(((lane - lane.mean()) ** 2).sum()) for lane in (first, second))
    if squares == 0.0:
        return None
    d = (float(second.mean()) - float(first.mean())) / math.sqrt(squares / df)
    correction = special.gammaln(df / 2.0) - special.gammaln((df - 1) / 2.0)
    return d * math.exp(correction) / math.sqrt(df / 2.0)
