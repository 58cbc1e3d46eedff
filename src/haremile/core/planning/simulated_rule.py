"""What the rule of the verdict does with drawn readings: how often it tells lanes apart.

A study is drawn again and again, of readings of one standard deviation that do not differ, and
judged by the very intervals of the verdict. A true difference only moves those intervals, so
that one set of draws answers for all differences and margins.
"""

from functools import lru_cache

import numpy as np
from scipy import optimize

from haremile.core.planning.scatter import drawn
from haremile.core.statistics.studentised_rank import limit_of, many_statistics
from haremile.core.statistics.validation import FloatArray

SIMULATED_UP_TO = 30
"""Repeats above which the normal limit is near enough."""

DRAWS = 2500
"""The chance of nine in ten is then known to within 0.6 per cent."""


def told(repeats: int, error: float, away: float, tail: float = 0.0) -> float:
    """Chance that a pair is told apart, whose difference lies so far beyond the margin.

    Parameters
    ----------
    repeats : int
        Of each contender, at most `SIMULATED_UP_TO`.
    error : float
        Two-sided, of the pair at the look.
    away : float
        In standard deviations of the readings, as every length here.
    tail : float
        Of their scatter.
    """
    a, b = _pair(repeats, tail)
    return float(np.mean(_refused(a, b, -away, error) > 0))


def told_from(repeats: int, error: float, power: float, tail: float = 0.0) -> float:
    """How far beyond the margin a pair is told apart with this chance."""
    return _told_from(repeats, 2, error, power, tail)


def leader_from(
    repeats: int, contenders: int, error: float, power: float, tail: float = 0.0
) -> float:
    """How far beyond the margin a leader is told from every other at once with this chance."""
    return _told_from(repeats, contenders, error, power, tail)


def called_level(
    repeats: int, error: float, margin: float, difference: float, tail: float = 0.0
) -> float:
    """Chance that a difference within the margin is called level."""
    a, b = _pair(repeats, tail)
    low = _refused(a, b, -margin - difference, error) > 0
    high = _refused(a, b, margin - difference, error) < 0
    return float(np.mean(low & high))


def _pair(repeats: int, tail: float) -> FloatArray:
    return drawn(np.random.default_rng(repeats), tail, (2, DRAWS, repeats))


@lru_cache(maxsize=256)
def _told_from(repeats: int, contenders: int, error: float, power: float, tail: float) -> float:
    leader, *others = _pair(repeats, tail)
    generator = np.random.default_rng([repeats, contenders])
    others += [drawn(generator, tail, (DRAWS, repeats)) for _ in range(contenders - 2)]

    def shortfall(away: float) -> float:
        told_apart = np.ones(DRAWS, dtype=bool)
        for other in others:
            left = np.flatnonzero(told_apart)
            told_apart[left] = _refused(leader[left], other[left], -away, error) > 0
        return float(told_apart.mean()) - power

    high = 1.0
    while shortfall(high) < 0.0:
        high *= 2.0
    return float(optimize.bisect(shortfall, 0.0, high, xtol=2e-3))


def _refused(a: FloatArray, b: FloatArray, shift: float, error: float) -> FloatArray:
    """For every row: 1 where the interval of b against a lies above `shift`, −1 where below, 0
    where it holds it."""
    n = a.shape[1]
    statistics = many_statistics(a, b - shift)
    refused = limit_of(n, n, 1.0 - error).refuses(statistics)
    found: FloatArray = np.where(refused, np.sign(statistics.statistic), 0.0)
    return found
