"""The exact null distribution of the rank-sum statistic."""

from functools import lru_cache

import numpy as np
from scipy import stats

from haremile.core.statistics.validation import FloatArray

EXACT_UP_TO = 22_500
"""Pairs of readings for which the distribution is counted out; above it, the normal limit."""


@lru_cache(maxsize=256)
def rank_sum_cdf(n_a: int, n_b: int) -> FloatArray:
    """P(U ≤ u) for u = 0 … n_a·n_b under no difference and no ties.

    Returns
    -------
    ndarray, shape (n_a·n_b + 1,)

    Notes
    -----
    The counts are the coefficients of the Gaussian binomial, multiplied up factor by factor.
    Source: Mann & Whitney, Annals of Mathematical Statistics 18, 1947; recursion as in
    Harding, Applied Statistics 33, 1984 (AS R55).
    """
    fewer, more = sorted((n_a, n_b))
    size = fewer * more + 1
    counts = np.zeros(size)
    counts[0] = 1.0
    for i in range(1, fewer + 1):
        # multiply by (1 − x^(more+i)), then divide by (1 − x^i), kept as probabilities
        step = more + i
        counts[step:] -= counts[:-step].copy() if step < size else 0.0
        for start in range(i):
            counts[start::i] = np.cumsum(counts[start::i])
        counts *= i / (more + i)
    return np.clip(np.cumsum(counts), 0.0, 1.0)


@lru_cache(maxsize=1024)
def interval_rank(n_a: int, n_b: int, level: float) -> tuple[int, float]:
    """Which ordered difference bounds the shift interval, and the level that this achieves.

    Returns
    -------
    (rank, achieved)
        The interval runs from the rank-th smallest to the rank-th largest of the n_a·n_b pairwise
        differences (1-based). Where no interval reaches the level, rank is 1 and `achieved` is
        lower than asked.
    """
    tail = (1.0 - level) / 2.0
    if n_a * n_b > EXACT_UP_TO:
        return _normal_rank(n_a, n_b, tail)
    cdf = rank_sum_cdf(n_a, n_b)
    rank = max(int(np.searchsorted(cdf, tail * (1 + 1e-12), side="right")), 1)
    return rank, max(1.0 - 2.0 * float(cdf[rank - 1]), 0.0)


def _normal_rank(n_a: int, n_b: int, tail: float) -> tuple[int, float]:
    mean = n_a * n_b / 2.0
    sd = float(np.sqrt(n_a * n_b * (n_a + n_b + 1) / 12.0))
    rank = max(int(np.floor(mean + sd * stats.norm.ppf(tail) - 0.5)), 1)
    return rank, 1.0 - 2.0 * float(stats.norm.cdf((rank - 1 + 0.5 - mean) / sd))


@lru_cache(maxsize=256)
def least_repeats(level: float) -> int:
    """Smallest n for which n against n can reach `level` at all."""
    n = 2
    while 1.0 - 2.0 * float(rank_sum_cdf(n, n)[0]) < level:
        n += 1
    return n
