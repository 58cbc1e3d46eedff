"""A shift interval that stands unequal spreads: the studentised rank test, turned round."""

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

import numpy as np
from numpy.typing import NDArray
from scipy import special

from haremile.core.statistics.lane_statistics import Interval
from haremile.core.statistics.large_lanes import (
    NO_VARIANCE,
    Found,
    Pairs,
    intervals_of_large,
    one_by_one,
    portions,
    satterthwaite,
    variance_of,
)
from haremile.core.statistics.order_statistics import DENSE_UP_TO, PairwiseDifferences
from haremile.core.statistics.rank_sum import interval_rank
from haremile.core.statistics.validation import FloatArray

TOGETHER = 60_000
"""Differences of pairs that are calculated at once (half a megabyte for each array)."""

ENUMERATED_UP_TO = 50_000
DRAWS = 20_000
LEAST_BEYOND = 40
"""Drawn arrangements beyond a limit, below which the draws do not tell it: the rank sum's exact one
stands in."""

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
    part_a, part_b = variance_of(of_a) / of_a.size, variance_of(of_b) / of_b.size
    variance = part_a + part_b
    if variance <= NO_VARIANCE:
        return (math.copysign(math.inf, away) if abs(away) > 1e-12 else 0.0), math.inf
    return away / math.sqrt(variance), satterthwaite(part_a, part_b, of_a.size, of_b.size)


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
        found = np.where(
            variance > NO_VARIANCE, away / np.sqrt(variance), np.copysign(np.inf, away)
        )
    return np.where(np.abs(away) <= 1e-12, 0.0, found)


@dataclass(frozen=True)
class _Limit:
    """From which size of the statistic on a shift is refused, or from how far on the chance of
    being above lies away from a half, and the level that this achieves; between `kept_below` and
    `refused_above` it depends on the degrees of freedom."""

    tail: float
    statistic: float
    away: float
    level: float
    kept_below: float
    refused_above: float

    def refuses(self, found: "Statistics") -> NDArray[np.bool_]:
        """Of every shift, or of every sample."""
        size = np.abs(found.statistic)
        refused: NDArray[np.bool_] = size >= max(self.statistic, self.kept_below)
        if self.away > 0.0:
            refused &= np.abs(found.away) >= self.away
        asked = (refused & (size < self.refused_above)).nonzero()
        if asked[0].size:
            p = 2.0 * special.stdtr(found.degrees(asked), -size[asked])
            refused[asked] = p <= self.tail
        return refused


@dataclass(frozen=True)
class Statistics:
    """The statistic at many shifts or of many samples, and the parts of its variance that come
    from either lane; arrays of one shape, and the numbers of readings."""

    statistic: FloatArray
    away: FloatArray
    part_a: FloatArray
    part_b: FloatArray
    n_a: int
    n_b: int

    def degrees(self, places: tuple[NDArray[np.int64], ...]) -> FloatArray:
        """Satterthwaite's degrees of freedom; infinite where nothing varies."""
        a, b = self.part_a[places], self.part_b[places]
        with np.errstate(divide="ignore", invalid="ignore"):
            df = satterthwaite(a, b, self.n_a, self.n_b)
        df[a + b <= NO_VARIANCE] = np.inf
        return df


@lru_cache(maxsize=4096)
def limit_of(n_a: int, n_b: int, level: float) -> _Limit:
    """What refuses a shift at this level, with the level that is achieved."""
    tail = 1.0 - level
    # Student's limits at the most and the least degrees of freedom that there can be
    most, least = n_a + n_b - 2, min(n_a, n_b) - 1
    reach = [-float(special.stdtrit(df, tail / 2.0)) for df in (most, least)]
    reach = [reach[0] * (1.0 - 1e-9), reach[1] * (1.0 + 1e-9)]
    if n_a + n_b > TABLED_UP_TO:
        return _Limit(tail, 0.0, 0.0, level, *reach)
    if math.comb(n_a + n_b, n_b) > ENUMERATED_UP_TO and tail * DRAWS < LEAST_BEYOND:
        rank, achieved = interval_rank(n_a, n_b, level)
        return _Limit(tail, 0.0, 0.5 - (rank - 1) / (n_a * n_b) - 1e-12, achieved, *reach)
    null = null_statistics(*sorted((n_a, n_b)))
    sizes = np.unique(null)
    at_least = 1.0 - np.searchsorted(null, sizes - 1e-9, side="left") / null.size
    allowed = np.flatnonzero(at_least <= tail * (1 + 1e-12))
    if allowed.size == 0:
        return _Limit(tail, math.inf, 0.0, 1.0 - float(at_least[-1]), *reach)
    statistic, reached = float(sizes[allowed[0]]) - 1e-9, float(at_least[allowed[0]])
    return _Limit(tail, statistic, 0.0, 1.0 - reached, *reach)


def studentised_intervals(pairs: Pairs, levels: Sequence[float]) -> list[Found]:
    """Shifts of b against a of many pairs, with the shifts that the studentised rank test does not
    refuse.

    Parameters
    ----------
    pairs : sequence of (a, b), ndarrays of shapes (n_a,) and (n_b,)
        Checked by `as_ranked`; two readings each, else the interval reaches from the least
        difference to the largest.
    levels : sequence of float
        Asked levels.

    Returns
    -------
    list of (shift, list of Interval)
        The Hodges–Lehmann shift, and an interval for each level, whose own level is lower than
        asked where there are too few readings for it.

    Notes
    -----
    A shift is refused where two tests refuse it: that over all arrangements of the ranks, exact
    where the lanes differ by a shift alone and right in large samples where their spreads differ
    too (at levels beyond what the drawn arrangements tell, the exact rank-sum test); and Student's
    t with the degrees of freedom of both lanes, which stands a wide lane of few readings. Pairs of
    one size are calculated together. Source: Brunner & Munzel and Neubert & Brunner, as above;
    inversion as in Pauly, Asendorf & Konietschke, Biometrical Journal 58, 2016.
    """
    found: dict[int, Found] = {}
    alike: dict[tuple[int, ...], list[int]] = defaultdict(list)
    large: list[int] = []
    for place, (a, b) in enumerate(pairs):
        ended = int(np.isfinite(a).sum()), int(np.isfinite(b).sum())
        if ended[0] * ended[1] > DENSE_UP_TO:
            large.append(place)
        elif min(a.size, b.size) < 2:
            found[place] = one_by_one(PairwiseDifferences(a, b), levels)
        else:
            alike[a.size, b.size, *ended].append(place)
    if large:
        of_large = intervals_of_large([pairs[place] for place in large], levels)
        found |= dict(zip(large, of_large, strict=True))
    for places in alike.values():
        size = pairs[places[0]][0].size * pairs[places[0]][1].size
        for some in portions(places, max(TOGETHER // size, 1)):
            for place, one in zip(some, _together([pairs[i] for i in some], levels), strict=True):
                found[place] = one
    return [found[place] for place in range(len(pairs))]


def _together(pairs: Pairs, levels: Sequence[float]) -> list[Found]:
    """Of pairs of one size."""
    passing = _Passing(pairs)
    middles = passing.medians()
    found: list[Found] = [(float(middle), []) for middle in middles]
    for level in levels:
        limit = limit_of(passing.n_a, passing.n_b, level)
        refused = limit.refuses(passing.statistics) | ~passing.is_stop
        first = refused.argmin(axis=1)
        last = refused.shape[1] - 1 - refused[:, ::-1].argmin(axis=1)
        for row, (_, intervals) in enumerate(found):
            if refused[row, first[row]]:  # nothing varies
                low = high = float(middles[row])
            else:
                low, high = passing.limits(row, int(first[row]), int(last[row]))
            intervals.append(Interval(low, high, limit.level))
    return found


class _Passing:
    """The statistic as a shift passes all differences of each pair in order, equal ones together.

    Parameters
    ----------
    pairs : sequence of (a, b)
        Of one size, with equally many time-outs.

    Attributes
    ----------
    statistics : Statistics
        Shape (pairs, finite differences + 1): after none is passed, one, and so on.
    is_stop : ndarray of bool
        Whether so many can be passed, without parting equal ones.
    """

    def __init__(self, pairs: Pairs):
        self.n_a, self.n_b = pairs[0][0].size, pairs[0][1].size
        a = np.array([np.sort(a[np.isfinite(a)])[::-1] for a, _ in pairs])
        b = np.array([np.sort(b[np.isfinite(b)]) for _, b in pairs])
        columns, rows = a.shape[1], b.shape[1]
        self._beyond_a, self._beyond_b = self.n_a - columns, self.n_b - rows
        flat = (b[:, :, None] - a[:, None, :]).reshape(len(pairs), rows * columns)
        order = flat.argsort(axis=1)
        self._ordered = np.take_along_axis(flat, order, axis=1)
        self.is_stop = np.ones((len(pairs), rows * columns + 1), dtype=bool)
        self.is_stop[:, 1:-1] = self._ordered[:, 1:] != self._ordered[:, :-1]
        self.statistics = self._statistics(order, rows, columns)

    def _statistics(self, order: NDArray[np.int64], rows: int, columns: int) -> Statistics:
        # differences rise along rows and columns: the place in its row is how many passed before
        steps_b, steps_a, above = _steps(rows, columns)
        squares_b = _running(steps_b[order], rows * columns**2)
        squares_a = _running(steps_a[order], columns * rows**2)
        beyond_a, beyond_b = self._beyond_a, self._beyond_b
        late = columns + beyond_a / 2.0
        chance = (above + beyond_b * late) / (self.n_a * self.n_b)
        squares_b += beyond_b * late**2
        squares_a += 2.0 * beyond_b * above + columns * beyond_b**2
        squares_a += beyond_a * (beyond_b / 2.0) ** 2
        return _statistics_of(
            chance, squares_a / self.n_b**2, squares_b / self.n_a**2, self.n_a, self.n_b
        )

    def medians(self) -> FloatArray:
        """The median difference of each pair, time-outs counted on their side."""
        finite = self._ordered.shape[1]
        below = self._beyond_a * (self.n_b - self._beyond_b)
        count = finite + below + self._beyond_b * (self.n_a - self._beyond_a)
        places = np.array([(count - 1) // 2, count // 2]) - below
        inside = self._ordered[:, np.clip(places, 0, finite - 1)]
        sides = np.where(places < 0, -np.inf, np.where(places >= finite, np.inf, 0.0))
        found: FloatArray = (inside[:, 0] + sides[0] + inside[:, 1] + sides[1]) / 2.0
        return found

    def limits(self, row: int, first: int, last: int) -> tuple[float, float]:
        """The shifts at which so many are passed."""
        ordered = self._ordered[row]
        low = float(ordered[first - 1]) if first > 0 else -math.inf
        return low, float(ordered[last]) if last < ordered.size else math.inf


@lru_cache(maxsize=64)
def _steps(rows: int, columns: int) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Of a table of differences that rise along rows and columns: by how much the squares of a
    row's and a column's count change as each is passed, and how many are above after each."""
    row, column = np.divmod(np.arange(rows * columns), columns)
    above = np.arange(rows * columns, -1.0, -1.0)
    return 2.0 * (column - columns) + 1.0, 2.0 * (row - rows) + 1.0, above


def _running(steps: FloatArray, start: int) -> FloatArray:
    """Sums of a start and the first so many steps, along the rows."""
    sums = np.empty((len(steps), steps.shape[1] + 1))
    sums[:, 0] = start
    sums[:, 1:] = steps
    return sums.cumsum(axis=1, out=sums)


def _statistics_of(
    chance: FloatArray, squares_a: FloatArray, squares_b: FloatArray, n_a: int, n_b: int
) -> Statistics:
    """From the chances and the sums of the squares of placements, of shapes that go together."""
    square, away = chance**2, chance - 0.5
    part_a = (squares_a / n_a - square) / (n_a - 1)
    part_b = (squares_b / n_b - square) / (n_b - 1)
    variance = part_a + part_b
    flat = variance <= NO_VARIANCE
    variance[flat] = 1.0
    statistic = away / np.sqrt(variance)
    apart = np.copysign(np.where(np.abs(away) > 1e-12, math.inf, 0.0), away)
    statistic[flat] = np.broadcast_to(apart, flat.shape)[flat]
    return Statistics(statistic, np.broadcast_to(away, flat.shape), part_a, part_b, n_a, n_b)


def many_statistics(a: FloatArray, b: FloatArray) -> Statistics:
    """As `studentised_statistic`, of every row of two tables without ties or time-outs.

    Parameters
    ----------
    a, b : ndarray, shapes (rows, n_a) and (rows, n_b)
    """
    above = b[:, :, None] > a[:, None, :]
    n_a, n_b = a.shape[1], b.shape[1]
    of_b, of_a = above.sum(axis=2) / n_a, above.sum(axis=1) / n_b
    squares_a, squares_b = (of_a**2).sum(axis=1), (of_b**2).sum(axis=1)
    return _statistics_of(of_b.mean(axis=1), squares_a, squares_b, n_a, n_b)
