"""A shift interval that stands unequal spreads: the studentised rank test, turned round."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import special

from haremile.core.statistics.order_statistics import PairwiseDifferences
from haremile.core.statistics.validation import FloatArray

SPREAD_RATIO = 2.0
"""Spreads further apart than this, by both measures, call for the studentised interval."""

KEPT_UP_TO = 500
"""Readings of a lane whose spread is kept for the next pair."""

ENUMERATED_UP_TO = 50_000
DRAWS = 20_000
TABLED_UP_TO = 120
"""Readings of both lanes together for which the null distribution is tabled; above it, Student's
t, which by then is within two per cent."""


def spreads_differ(a: FloatArray, b: FloatArray) -> bool:
    """Whether the spreads differ by more than two-fold, time-outs left out.

    Both the median absolute deviation and the standard deviation have to say so: the first alone
    differs that much by chance in every fourth pair of eight normal readings each, the second
    wherever one reading lies far out. Where a median absolute deviation is 0 (half of the readings
    alike), mean absolute deviations stand in.
    """
    first, second = _spreads(a, b)
    sds = [_spread_of(lane).sd for lane in (a, b)]
    if second < first:
        first, second, sds = second, first, sds[::-1]
    return second > SPREAD_RATIO * first and sds[1] > SPREAD_RATIO * sds[0]


def rows_differ(a: FloatArray, b: FloatArray) -> NDArray[np.bool_]:
    """As `spreads_differ`, of every row of two tables without ties or time-outs.

    Parameters
    ----------
    a, b : ndarray, shapes (rows, n_a) and (rows, n_b)

    Returns
    -------
    ndarray, shape (rows,)
    """
    mads = [np.median(np.abs(one - np.median(one, 1)[:, None]), 1) for one in (a, b)]
    sds = [one.std(axis=1) for one in (a, b)]
    either = [
        (mads[wide] > SPREAD_RATIO * mads[close]) & (sds[wide] > SPREAD_RATIO * sds[close])
        for wide, close in ((0, 1), (1, 0))
    ]
    found: NDArray[np.bool_] = either[0] | either[1]
    return found


class _Spread(NamedTuple):
    """Of a lane, time-outs left out."""

    mad: float
    mean_deviation: float
    sd: float


def _spreads(a: FloatArray, b: FloatArray) -> tuple[float, float]:
    first, second = _spread_of(a), _spread_of(b)
    if min(first.mad, second.mad) == 0.0:
        return first.mean_deviation, second.mean_deviation
    return first.mad, second.mad


def _spread_of(lane: FloatArray) -> _Spread:
    """A lane meets every other lane of its row: what is short is calculated once."""
    return _kept_spread(lane.tobytes()) if lane.size <= KEPT_UP_TO else _calculated_spread(lane)


@lru_cache(maxsize=4096)
def _kept_spread(body: bytes) -> _Spread:
    return _calculated_spread(np.frombuffer(body))


def _calculated_spread(lane: FloatArray) -> _Spread:
    ended = lane[np.isfinite(lane)]
    return _Spread(_mad(ended), float(np.abs(ended - ended.mean()).mean()), float(ended.std()))


def wider_size(a: FloatArray, b: FloatArray) -> int:
    """Readings in the lane of more spread; in the smaller where they are alike."""
    first, second = _spreads(a, b)
    if first == second:
        return min(a.size, b.size)
    return a.size if first > second else b.size


def _mad(sample: FloatArray) -> float:
    return _middle(np.abs(sample - _middle(sample)))


def _middle(sample: FloatArray) -> float:
    """The median; NumPy's own takes five times as long for a few dozen readings."""
    ordered, half = np.sort(sample), sample.size // 2
    if sample.size % 2:
        return float(ordered[half])
    return (float(ordered[half - 1]) + float(ordered[half])) / 2.0


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

    def refuses(self, statistic: float, df: float) -> bool:
        if self.statistic is not None and abs(statistic) < self.statistic:
            return False
        return 2.0 * float(special.stdtr(df, -abs(statistic))) <= self.tail


@lru_cache(maxsize=1024)
def _limit(n_a: int, n_b: int, level: float) -> _Limit:
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


def studentised_interval(
    differences: PairwiseDifferences, level: float, most_df: float = math.inf
) -> tuple[float, float, float]:
    """Limits of the shift that the studentised rank test does not refuse, and their level.

    Parameters
    ----------
    differences : PairwiseDifferences
        Of two lanes with at least two readings each.
    level : float
        Asked level.
    most_df : float
        Bound on the degrees of freedom: those of the wider lane, which decides where it is short.

    Returns
    -------
    low, high, achieved
        In the unit of the readings; `achieved` is lower than asked where there are too few
        readings for the level.

    Notes
    -----
    A shift is refused where two tests refuse it: that over all arrangements of the ranks, exact
    where the lanes differ by a shift alone and right in large samples where their spreads differ
    too; and Student's t, which stands a wide lane of few readings. Source: Brunner & Munzel and
    Neubert & Brunner, as above; inversion as in Pauly, Asendorf & Konietschke, Biometrical
    Journal 58, 2016.
    """
    if not differences.is_written_out:
        return _large_interval(differences, level, most_df)
    limit = _limit(differences.n_a, differences.n_b, level)

    def accepts(shift: float, or_equal: bool) -> bool:
        statistic, df = studentised_statistic(*differences.placements(shift, or_equal))
        return not limit.refuses(statistic, min(df, most_df))

    half = differences.n_a * differences.n_b // 2 + 1
    first = _first(half, lambda rank: accepts(differences.lower(rank), False))
    last = _first(half, lambda rank: accepts(differences.upper(rank), True))
    return differences.lower(first), differences.upper(last), limit.level


def _large_interval(
    differences: PairwiseDifferences, level: float, most_df: float
) -> tuple[float, float, float]:
    """As `studentised_interval`, of hundreds of readings: the limits stand at the ranks to which
    the statistic reaches with the variance that it has at the median of the differences."""
    of_b, of_a = differences.placements(differences.median(), or_equal=False)
    parts = [_variance(of_a) / of_a.size, _variance(of_b) / of_b.size]
    variance = sum(parts)
    if variance <= 1e-15:
        return differences.median(), differences.median(), level
    df = variance**2 / sum(
        part**2 / (placed.size - 1) for part, placed in zip(parts, (of_a, of_b), strict=True)
    )
    reach = -float(special.stdtrit(min(df, most_df), (1.0 - level) / 2.0)) * math.sqrt(variance)
    rank = max(math.floor((0.5 - reach) * differences.n_a * differences.n_b), 1)
    return differences.lower(rank), differences.upper(rank), level


def _first(most: int, holds: Callable[[int], bool]) -> int:
    """The smallest rank from 1 to `most` at which `holds` becomes true."""
    low, high = 1, most
    while low < high:
        middle = (low + high) // 2
        if holds(middle):
            high = middle
        else:
            low = middle + 1
    return low
