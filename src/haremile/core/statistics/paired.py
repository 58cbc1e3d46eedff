"""Two lanes whose readings belong together, by block or by machine."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy import special, stats

from haremile.core.statistics.contrast import Estimate, log_step
from haremile.core.statistics.exact_sums import signed_sum_shares, two_sided
from haremile.core.statistics.lane_statistics import Interval
from haremile.core.statistics.location_tests import to_grid
from haremile.core.statistics.order_statistics import walsh_averages
from haremile.core.statistics.validation import FloatArray, as_level, as_sample
from haremile.errors import SampleError

EXACT_UP_TO = 60
"""Differences for which the signed-rank distribution is counted out."""

COUNTED_UP_TO = 300
"""Differences for which the interval's rank is counted out; above it, the normal limit."""

KEPT_DIGITS = 11
"""Significant digits of a difference, relative to the readings: binary arithmetic splits ties."""


@dataclass(frozen=True)
class SignedRank:
    """Signed-rank test of paired differences b − a.

    `v` sums the ranks of positive differences. `p` is two-sided, None where no difference is
    left. `n_used` is the count after zeros were dropped.
    """

    v: float
    p: float | None
    n_used: int
    method: str


@dataclass(frozen=True)
class PairedContrast:
    """B against A in pairs: pseudo-median of differences, of log-ratios, and the test."""

    n: int
    shift: Estimate
    ratio: Estimate | None
    test: SignedRank


def paired_differences(
    a: Sequence[float] | FloatArray,
    b: Sequence[float] | FloatArray,
    resolution: float | None = None,
) -> FloatArray:
    """Differences b − a, in steps of `resolution` if stated, else freed of rounding noise.

    Raises
    ------
    SampleError
        If the lanes are of different length.
    """
    first, second = as_sample(a, "a"), as_sample(b, "b")
    if first.size != second.size:
        raise SampleError(f"pairs need lanes of one length, not {first.size} and {second.size}")
    differences = to_grid(second, resolution) - to_grid(first, resolution)
    if resolution:
        scaled: FloatArray = differences * resolution
        return scaled
    largest = float(max(np.abs(first).max(), np.abs(second).max()))
    if largest == 0.0:
        return differences
    return np.round(differences, KEPT_DIGITS - math.floor(math.log10(largest)) - 1)


def signed_rank(differences: Sequence[float] | FloatArray) -> SignedRank:
    """Wilcoxon's signed-rank test, two-sided; zeros are dropped.

    Notes
    -----
    The exact conditional distribution of the midranks up to 60 differences, else normal with tie
    and continuity correction. Source: Hollander, Wolfe & Chicken, Nonparametric Statistical
    Methods, 3rd ed., section 3.1.
    """
    sample = as_sample(differences, "differences")
    used = sample[sample != 0.0]
    if used.size == 0:
        return SignedRank(0.0, None, 0, "undefined: all differences are zero")
    ranks = stats.rankdata(np.abs(used))
    v = float(ranks[used > 0].sum())
    if used.size <= EXACT_UP_TO:
        p = two_sided(signed_sum_shares(2.0 * ranks), round(2.0 * v))
        return SignedRank(v, p, used.size, "exact")
    return SignedRank(v, _normal_p(v, ranks), used.size, "normal")


def _normal_p(v: float, ranks: FloatArray) -> float:
    sd = math.sqrt(float((ranks**2).sum()) / 4.0)
    away = max(abs(v - float(ranks.sum()) / 2.0) - 0.5, 0.0)
    return min(2.0 * float(stats.norm.sf(away / sd)), 1.0)


def pseudo_median(differences: Sequence[float] | FloatArray, level: float = 0.95) -> Estimate:
    """Hodges–Lehmann pseudo-median: the median of all Walsh averages, zeros included.

    Its interval comes from the order statistics of those averages at the exact signed-rank
    quantile (normal above 300 differences), with the level that this achieves. Source: as
    `signed_rank`, sections 3.2 and 3.3.
    """
    sample = as_sample(differences, "differences")
    count = sample.size * (sample.size + 1) // 2
    rank, achieved = _walsh_rank(sample.size, as_level(level))
    places = (rank - 1, count - rank, (count - 1) // 2, count // 2)
    low, high, below, above = walsh_averages(sample, places)
    return Estimate((below + above) / 2.0, Interval(low, high, achieved))


@lru_cache(maxsize=256)
def least_pairs(level: float) -> int:
    """Smallest number of pairs that can reach `level` at all: 1 − 2·(1/2)^n."""
    return math.ceil(1.0 - math.log2(1.0 - level) - 1e-9)


@lru_cache(maxsize=1024)
def _walsh_rank(n: int, level: float) -> tuple[int, float]:
    tail = (1.0 - level) / 2.0
    if n > COUNTED_UP_TO:
        mean, sd = n * (n + 1) / 4.0, math.sqrt(n * (n + 1) * (2 * n + 1) / 24.0)
        rank = max(math.floor(mean + sd * float(special.ndtri(tail)) + 0.5), 1)
        return rank, 1.0 - 2.0 * float(special.ndtr((rank - 0.5 - mean) / sd))
    cdf = np.cumsum(signed_sum_shares(np.arange(1.0, n + 1.0)))
    rank = max(int(np.searchsorted(cdf, tail * (1 + 1e-12), side="right")), 1)
    return rank, max(1.0 - 2.0 * float(cdf[rank - 1]), 0.0)


def paired_contrast(
    a: Sequence[float] | FloatArray,
    b: Sequence[float] | FloatArray,
    level: float = 0.95,
    resolution: float | None = None,
) -> PairedContrast:
    """Compare B with A in pairs.

    Parameters
    ----------
    a, b : array_like, shape (n,)
        The i-th readings belong together.
    resolution : float, optional
        The instrument's step; it finds ties for the test, and widens the intervals by half on
        each side. Estimates come from the values as they are.
    """
    shift = pseudo_median(paired_differences(a, b), level)
    first, second = as_sample(a, "a"), as_sample(b, "b")
    ratio = None
    if min(first.min(), second.min()) > 0:
        logs = pseudo_median(np.log(second) - np.log(first), level)
        limits = logs.interval.widened(log_step(first, second, resolution))
        ratio = Estimate(math.exp(logs.value), limits.mapped(math.exp))
    widened = Estimate(shift.value, shift.interval.widened(resolution))
    return PairedContrast(
        first.size, widened, ratio, signed_rank(paired_differences(a, b, resolution))
    )
