"""A shift interval that stands unequal spreads: the studentised rank test, turned round."""

import math
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

import numpy as np
from numpy.typing import NDArray
from scipy import special

from haremile.core.statistics.order_statistics import PairwiseDifferences, Passing
from haremile.core.statistics.validation import FloatArray

ENUMERATED_UP_TO = 50_000
DRAWS = 20_000
TABLED_UP_TO = 120
"""Readings of both lanes together for which the null distribution is tabled; above it, Student's
t, which by then is within two per cent."""


def studentised_statistic(of_b: FloatArray, of_a: FloatArray) -> tuple[float, float]:
    """Brunner and Munzel's statistic from placements, and Satterthwaite's degrees of freedom.

    Parameters
    ----------
    of_b, of_a : ndarray, shapes (n_b,) and (n_a,)
        As from `PairwiseDifferences.placements`.

    Returns
    -------
    statistic, df
        The statistic is infinite where the lanes do not overlap. Source: Brunner & Munzel,
        Biometrical Journal 42, 2000.
    """
    away = float(of_b.mean()) - 0.5
    parts = [_variance(of_a) / of_a.size, _variance(of_b) / of_b.size]
    variance = sum(parts)
    if variance <= 1e-15:
        return (math.copysign(math.inf, away) if abs(away) > 1e-12 else 0.0), math.inf
    df = variance**2 / sum(
        part**2 / (placed.size - 1) for part, placed in zip(parts, (of_a, of_b), strict=True)
    )
    return away / math.sqrt(variance), df


def _variance(placed: FloatArray) -> float:
    away = placed - placed.mean()
    return float(away @ away) / (placed.size - 1)


@lru_cache(maxsize=256)
def null_statistics(n_a: int, n_b: int) -> FloatArray:
    """Sizes of the statistic over arrangements of the ranks, in rising order.

    They are the same for a against b as for b against a; the smaller lane comes first.

    Depends on the two sizes alone. All arrangements where there are up to 50,000, else 20,000
    drawn with a seed made of the sizes. Source: Neubert & Brunner, Computational Statistics &
    Data Analysis 51, 2007.
    """
    total = n_a + n_b
    if math.comb(total, n_b) <= ENUMERATED_UP_TO:
        chosen = np.array(list(combinations(range(total), n_b)))
    else:
        generator = np.random.default_rng([n_a, n_b])
        chosen = np.argsort(generator.random((DRAWS, total)), axis=1)[:, :n_b]
    is_b = np.zeros((len(chosen), total), dtype=bool)
    np.put_along_axis(is_b, chosen, True, axis=1)
    return np.sort(np.abs(_statistics(is_b, n_a, n_b)))


def _statistics(
    is_b: np.ndarray[tuple[int, int], np.dtype[np.bool_]], n_a: int, n_b: int
) -> FloatArray:
    """The statistic of every row: which ranks belong to b."""
    seen_b = np.cumsum(is_b, axis=1)
    seen_a = np.arange(1, n_a + n_b + 1) - seen_b
    sums = {}
    for name, belongs, placed, n, other in (
        ("b", is_b, seen_a, n_b, n_a),
        ("a", ~is_b, n_b - seen_b, n_a, n_b),
    ):
        share = np.where(belongs, placed / other, 0.0)
        mean = share.sum(axis=1) / n
        sums[name] = (mean, (np.where(belongs, share - mean[:, None], 0.0) ** 2).sum(axis=1))
    variance = sums["a"][1] / (n_a - 1) / n_a + sums["b"][1] / (n_b - 1) / n_b
    away = sums["b"][0] - 0.5
    with np.errstate(divide="ignore", invalid="ignore"):
        found = np.where(variance > 1e-15, away / np.sqrt(variance), np.copysign(np.inf, away))
    return np.where(np.abs(away) <= 1e-12, 0.0, found)


@dataclass(frozen=True)
class _Limit:
    """From which size of the statistic on a shift is refused, and the level that this achieves."""

    tail: float
    statistic: float | None
    level: float

    def refuses(self, statistic: FloatArray, df: FloatArray) -> NDArray[np.bool_]:
        """Of shifts in an array, or of many samples."""
        size = np.abs(statistic)
        refused = np.ones(size.shape, bool) if self.statistic is None else size >= self.statistic
        asked = np.flatnonzero(refused)
        refused[asked] = 2.0 * special.stdtr(df[asked], -size[asked]) <= self.tail
        return refused


@lru_cache(maxsize=4096)
def limit_of(n_a: int, n_b: int, level: float) -> _Limit:
    """What refuses a shift at this level, with the level that is achieved."""
    tail = 1.0 - level
    if n_a + n_b > TABLED_UP_TO:
        return _Limit(tail, None, level)
    null = null_statistics(*sorted((n_a, n_b)))
    sizes = np.unique(null)
    at_least = 1.0 - np.searchsorted(null, sizes - 1e-9, side="left") / null.size
    allowed = np.flatnonzero(at_least <= tail * (1 + 1e-12))
    if allowed.size == 0:
        return _Limit(tail, math.inf, 1.0 - float(at_least[-1]))
    return _Limit(tail, float(sizes[allowed[0]]) - 1e-9, 1.0 - float(at_least[allowed[0]]))


class StudentisedIntervals:
    """Intervals of the shift that the studentised rank test does not refuse, at any level.

    Parameters
    ----------
    differences : PairwiseDifferences
        Of two lanes.

    Notes
    -----
    A shift is refused where two tests refuse it: that over all arrangements of the ranks, exact
    where the lanes differ by a shift alone and right in large samples where their spreads differ
    too; and Student's t with the degrees of freedom of both lanes, which stands a wide lane of few
    readings. Source: Brunner & Munzel and Neubert & Brunner, as above; inversion as in Pauly,
    Asendorf & Konietschke, Biometrical Journal 58, 2016.
    """

    def __init__(self, differences: PairwiseDifferences):
        self._differences = differences
        if differences.is_written_out and min(differences.n_a, differences.n_b) > 1:
            passing = differences.passing()
            self._stops = passing.stops
            self._statistic, self._df = _at_stops(passing, differences.n_a, differences.n_b)

    def at(self, level: float) -> tuple[float, float, float]:
        """Low, high (unit of the readings) and the level that is achieved, lower than asked where
        there are too few readings for it."""
        found = self._differences
        if min(found.n_a, found.n_b) < 2:
            return found.lower(1), found.upper(1), _widest_level(found.n_a, found.n_b)
        if not found.is_written_out:
            return _large_interval(found, level)
        limit = limit_of(found.n_a, found.n_b, level)
        kept = np.flatnonzero(~limit.refuses(self._statistic, self._df))
        if kept.size == 0:  # nothing varies
            return found.median(), found.median(), limit.level
        low, high = found.limits(int(self._stops[kept[0]]) - 1, int(self._stops[kept[-1]]))
        return low, high, limit.level


def _widest_level(n_a: int, n_b: int) -> float:
    """Of the interval from the least difference to the largest, where a lane has one reading."""
    return 1.0 - 2.0 / math.comb(n_a + n_b, n_b)


def _at_stops(passing: Passing, n_a: int, n_b: int) -> tuple[FloatArray, FloatArray]:
    """Statistic and degrees of freedom at every stop."""
    chance = passing.chance[passing.stops]
    parts = [
        (squares[passing.stops] / n - chance**2) / (n - 1)
        for squares, n in ((passing.squares_a, n_a), (passing.squares_b, n_b))
    ]
    variance, away = parts[0] + parts[1], chance - 0.5
    with np.errstate(divide="ignore", invalid="ignore"):
        apart = np.where(np.abs(away) > 1e-12, np.copysign(np.inf, away), 0.0)
        varies = variance > 1e-15
        statistic = np.where(varies, away / np.sqrt(variance), apart)
        df = variance**2 / (parts[0] ** 2 / (n_a - 1) + parts[1] ** 2 / (n_b - 1))
    return statistic, np.where(varies, df, np.inf)


def _large_interval(differences: PairwiseDifferences, level: float) -> tuple[float, float, float]:
    """Of hundreds of readings: the limits stand at the ranks to which the statistic reaches with
    the variance that it has at the median of the differences."""
    of_b, of_a = differences.placements(differences.median(), or_equal=False)
    parts = [_variance(of_a) / of_a.size, _variance(of_b) / of_b.size]
    variance = sum(parts)
    if variance <= 1e-15:
        return differences.median(), differences.median(), level
    df = variance**2 / sum(
        part**2 / (placed.size - 1) for part, placed in zip(parts, (of_a, of_b), strict=True)
    )
    reach = -float(special.stdtrit(df, (1.0 - level) / 2.0)) * math.sqrt(variance)
    rank = max(math.floor((0.5 - reach) * differences.n_a * differences.n_b), 1)
    return differences.lower(rank), differences.upper(rank), level


def many_statistics(a: FloatArray, b: FloatArray) -> tuple[FloatArray, FloatArray]:
    """As `studentised_statistic`, of every row of two tables without ties or time-outs.

    Parameters
    ----------
    a, b : ndarray, shapes (rows, n_a) and (rows, n_b)

    Returns
    -------
    statistic, df : ndarray, shape (rows,)
    """
    above = b[:, :, None] > a[:, None, :]
    n_a, n_b = a.shape[1], b.shape[1]
    of_b, of_a = above.sum(axis=2) / n_a, above.sum(axis=1) / n_b
    passing = Passing(
        of_b.mean(axis=1), (of_b**2).sum(axis=1), (of_a**2).sum(axis=1), np.arange(len(a))
    )
    return _at_stops(passing, n_a, n_b)
