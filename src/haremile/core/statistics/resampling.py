"""Bias-corrected, accelerated bootstrap, where no exact interval exists."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy import special, stats

from haremile.core.statistics.lane_statistics import Interval
from haremile.core.statistics.validation import FloatArray, as_level, as_sample
from haremile.errors import SampleError

RESAMPLES = 10_000
CHUNK_VALUES = 4_000_000
LEAST_FOR_A_QUANTILE = 6

Statistic = Callable[..., FloatArray]
"""Takes one array for each sample, shapes (…, n_i), and gives one figure for each row."""


@dataclass(frozen=True)
class BootstrapInterval:
    """The statistic as seen, with its interval.

    `method` is ``BCa``; ``order statistics`` of a quantile where they reach the level; or
    ``percentile`` where all jackknife values are equal or every resample lies on one side, so that
    no correction can be calculated; or ``constant`` where nothing differs from what was seen.
    """

    value: float
    interval: Interval
    method: str


def bootstrap_interval(
    samples: Sequence[Sequence[float] | FloatArray],
    statistic: Statistic,
    level: float = 0.95,
    resamples: int = RESAMPLES,
    seed: int = 0,
) -> BootstrapInterval:
    """Interval of a statistic of one or more independent samples.

    Parameters
    ----------
    samples : sequence of array_like, shapes (n_i,)
        Each is drawn from with replacement by itself.
    statistic : function of as many arrays, shapes (m, n_i), to shape (m,)
    level : float
    resamples : int
    seed : int
        The same seed gives the same interval.

    Raises
    ------
    SampleError
        If a sample is empty or the statistic is not finite for what was seen.

    Notes
    -----
    The bias term counts resamples equal to what was seen as half; quantiles are of type 7. With
    several samples the acceleration sums over all of them. Source: Efron, Journal of the American
    Statistical Association 82, 1987; Efron & Tibshirani, An Introduction to the Bootstrap, 1993,
    chapter 14; half weight for ties as in Davison & Hinkley, Bootstrap Methods, 1997, section 5.3.
    """
    arrays = [as_sample(sample, f"sample {i}") for i, sample in enumerate(samples, 1)]
    as_level(level)
    if resamples < 100:
        raise SampleError(f"an interval takes 100 resamples or more, not {resamples}")
    seen = float(statistic(*(array[None, :] for array in arrays))[0])
    if not math.isfinite(seen):
        raise SampleError("the statistic of the samples is not a finite number")
    drawn = _resampled(arrays, statistic, resamples, seed)
    tails = np.array([(1.0 - level) / 2.0, (1.0 + level) / 2.0])
    method, shares = _corrected(arrays, statistic, drawn, seen, tails)
    low, high = _type_7(drawn, shares)
    return BootstrapInterval(seen, Interval(low, high, level), method)


def quantile_interval(
    values: Sequence[float] | FloatArray, share: float, level: float = 0.95, seed: int = 0
) -> BootstrapInterval | None:
    """Quantile of type 7 with its interval; None below six readings.

    Parameters
    ----------
    values : array_like, shape (n,)
    share : float
        0.9 for the 90th percentile.

    Notes
    -----
    Order statistics by their exact (binomial) chances where they reach the level, for the 90th
    percentile at 95 % from 36 readings on; below that as `bootstrap_interval`. Source: Conover,
    Practical Nonparametric Statistics, 3rd ed., section 3.2.
    """
    sample = as_sample(values)
    if sample.size < LEAST_FOR_A_QUANTILE:
        return None
    exact = _exact_quantile(sample, share, as_level(level))
    if exact is not None:
        return exact
    return bootstrap_interval(
        [sample], lambda rows: np.quantile(rows, share, axis=1), level, seed=seed
    )


@lru_cache(maxsize=1024)
def quantile_ranks(n: int, share: float, level: float) -> tuple[int, int] | None:
    """Which readings (1-based, in rising order) bound a quantile at this level by their exact
    (binomial) chances; None where so few have none. Source: Conover, as `quantile_interval`."""
    tail = (1.0 - level) / 2.0
    low = int(stats.binom.ppf(tail, n, share))  # the largest rank that is rarely above it
    while low > 0 and float(stats.binom.cdf(low - 1, n, share)) > tail:
        low -= 1
    high = int(stats.binom.isf(tail, n, share)) + 1
    return None if low < 1 or high > n else (low, high)


def _exact_quantile(sample: FloatArray, share: float, level: float) -> BootstrapInterval | None:
    n = sample.size
    ranks = quantile_ranks(n, share, level)
    if ranks is None:
        return None
    low, high = ranks
    ordered = np.sort(sample)
    achieved = float(stats.binom.cdf(high - 1, n, share) - stats.binom.cdf(low - 1, n, share))
    limits = Interval(float(ordered[low - 1]), float(ordered[high - 1]), achieved)
    seen = float(np.quantile(ordered, share))
    is_constant = limits.low == limits.high == seen
    return BootstrapInterval(seen, limits, "constant" if is_constant else "order statistics")


def _resampled(
    arrays: Sequence[FloatArray], statistic: Statistic, resamples: int, seed: int
) -> FloatArray:
    generator = np.random.default_rng(seed)
    rows = max(CHUNK_VALUES // sum(array.size for array in arrays), 1)
    found = []
    for start in range(0, resamples, rows):
        count = min(rows, resamples - start)
        drawn = [
            array[generator.integers(0, array.size, (count, array.size), dtype=np.int32)]
            for array in arrays
        ]
        found.append(statistic(*drawn))
    return np.concatenate(found)


def _corrected(
    arrays: Sequence[FloatArray],
    statistic: Statistic,
    drawn: FloatArray,
    seen: float,
    tails: FloatArray,
) -> tuple[str, FloatArray]:
    """Method, and the shares of the resamples at which the limits stand."""
    if bool((drawn == seen).all()):
        return "constant", tails
    below = (np.count_nonzero(drawn < seen) + np.count_nonzero(drawn <= seen)) / 2.0 / drawn.size
    acceleration = _acceleration(arrays, statistic)
    if acceleration is None or below in (0.0, 1.0):
        return "percentile", tails
    bias = special.ndtri(below)
    away = bias + special.ndtri(tails)
    return "BCa", special.ndtr(bias + away / (1.0 - acceleration * away))


def _acceleration(arrays: Sequence[FloatArray], statistic: Statistic) -> float | None:
    """From the jackknife; None where it does not vary."""
    cubes = squares = 0.0
    for which, array in enumerate(arrays):
        if array.size < 2:
            continue
        without = array[_all_but_one(array.size)]
        others = [
            without if i == which else np.broadcast_to(other, (array.size, other.size))
            for i, other in enumerate(arrays)
        ]
        left = statistic(*others)
        away = left.mean() - left
        away = np.where(np.abs(away) <= 1e-12 * np.abs(left).max(), 0.0, away)
        influence = (array.size - 1) * away
        cubes += float((influence**3).sum()) / array.size**3
        squares += float((influence**2).sum()) / array.size**2
    return cubes / (6.0 * squares**1.5) if squares > 0.0 else None


def _all_but_one(n: int) -> np.ndarray[tuple[int, ...], np.dtype[np.int_]]:
    places = np.arange(n - 1)[None, :]
    return places + (places >= np.arange(n)[:, None])


def _type_7(drawn: FloatArray, shares: FloatArray) -> tuple[float, float]:
    low, high = np.quantile(drawn, shares)
    return float(low), float(high)
