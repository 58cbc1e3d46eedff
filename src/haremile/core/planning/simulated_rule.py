"""What the rule of the verdict does with drawn readings: how often it tells lanes apart.

A study is drawn again and again, of readings of one standard deviation that do not differ, and
judged by the very intervals of the verdict. A true difference only moves those intervals, so
that one set of draws answers for all differences and margins.
"""

from functools import lru_cache

import numpy as np

from haremile.core.comparison.verdict import ERROR_AHEAD, ERROR_LEVEL
from haremile.core.planning.scatter import drawn
from haremile.core.statistics.contrast import shift_estimate
from haremile.core.statistics.rank_sum import interval_rank
from haremile.core.statistics.studentised_rank import rows_differ
from haremile.core.statistics.validation import FloatArray

SIMULATED_UP_TO = 30
"""Repeats above which the normal limit is near enough."""

DRAWS = 2500
"""The chance of nine in ten is then known to within 0.6 per cent."""


def told(repeats: int, shared: int, away: float, tail: float = 0.0) -> float:
    """Chance that a pair is told apart, whose difference lies so far beyond the margin.

    Parameters
    ----------
    repeats : int
        Of each contender, at most `SIMULATED_UP_TO`.
    shared : int
        Over how many pairs and looks the error is shared out.
    away : float
        In standard deviations of the readings, as every length here.
    tail : float
        Of their scatter.
    """
    low, _ = _pair_limits(repeats, tail, 1.0 - ERROR_AHEAD / shared)
    return float(np.mean(low > -away))


def told_from(repeats: int, shared: int, power: float, tail: float = 0.0) -> float:
    """How far beyond the margin a pair is told apart with this chance."""
    low, _ = _pair_limits(repeats, tail, 1.0 - ERROR_AHEAD / shared)
    return float(np.quantile(-low, power))


def leader_from(
    repeats: int, contenders: int, shared: int, power: float, tail: float = 0.0
) -> float:
    """How far beyond the margin a leader is told from every other at once with this chance."""
    low = _leader_low(repeats, contenders, tail, 1.0 - ERROR_AHEAD / shared)
    return float(np.quantile(-low, power))


def called_level(
    repeats: int, shared: int, margin: float, difference: float, tail: float = 0.0
) -> float:
    """Chance that a difference within the margin is called level."""
    low, high = _pair_limits(repeats, tail, 1.0 - ERROR_LEVEL / shared)
    return float(np.mean((low + difference > -margin) & (high + difference < margin)))


@lru_cache(maxsize=256)
def _pair_limits(repeats: int, tail: float, level: float) -> tuple[FloatArray, FloatArray]:
    """Limits of the shift of every drawn pair, shape (draws,) each."""
    a, b = _pair(repeats, tail)
    return _limits(a, b, level)


def _pair(repeats: int, tail: float) -> FloatArray:
    return drawn(np.random.default_rng(repeats), tail, (2, DRAWS, repeats))


@lru_cache(maxsize=256)
def _leader_low(repeats: int, contenders: int, tail: float, level: float) -> FloatArray:
    """The lowest of the lower limits against one and the same leader, shape (draws,)."""
    lowest, _ = _pair_limits(repeats, tail, level)
    leader = _pair(repeats, tail)[0]
    generator = np.random.default_rng([repeats, contenders])
    for _ in range(contenders - 2):
        low, _ = _limits(leader, drawn(generator, tail, (DRAWS, repeats)), level)
        lowest = np.minimum(lowest, low)
    return lowest


def _limits(a: FloatArray, b: FloatArray, level: float) -> tuple[FloatArray, FloatArray]:
    """Limits of the shift of every row; as `shift_estimate`, all at once where it only ranks."""
    draws, n = a.shape
    rank, _ = interval_rank(n, n, level)
    differences = (b[:, :, None] - a[:, None, :]).reshape(draws, n * n)
    ordered = np.partition(differences, (rank - 1, n * n - rank), axis=1)
    low, high = ordered[:, rank - 1].copy(), ordered[:, n * n - rank].copy()
    for row in np.flatnonzero(rows_differ(a, b)):
        limits = shift_estimate(a[row], b[row], level).interval
        low[row], high[row] = limits.low, limits.high
    return low, high
