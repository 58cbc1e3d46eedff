"""Order statistics of all pairwise differences b − a, without holding them all."""

from collections.abc import Callable, Sequence
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from haremile.core.statistics.validation import FloatArray

DENSE_UP_TO = 250_000
"""Differences that are written out (2 MB); above it the wanted ones are selected."""

GATHER_UP_TO = 100_000
DRAWN, AWAY = 4_000, 3.0
"""Candidates that are drawn in a round, and how many standard errors its bounds stand apart."""

QUANTILES, BESIDE, AIMS, NEAR, DEEP = 64, 80, 4, 0.5, 6
"""Of each lane, of which the rough places come; how many of their differences on either side tell
the density at a place; how often is aimed; and how many places for each row are looked through."""

Counts = NDArray[np.int64]
Compare = Callable[[FloatArray, float], NDArray[np.bool_]]


class PairwiseDifferences:
    """The differences b − a between all readings of two lanes, in order.

    A reading of +infinity stands for a run slower than its time limit. Against a finite reading
    it makes a difference of −infinity or +infinity; two of them against one another could lie
    either way, and are counted so that an interval only widens.

    Parameters
    ----------
    a, b : ndarray, shapes (n_a,) and (n_b,)
        Checked by `as_ranked`.
    """

    def __init__(self, a: FloatArray, b: FloatArray):
        self.n_a, self.n_b = a.size, b.size
        self._a = np.sort(a[np.isfinite(a)])[::-1]
        self._b = np.sort(b[np.isfinite(b)])
        beyond_a, beyond_b = self.n_a - self._a.size, self.n_b - self._b.size
        self._below = beyond_a * self._b.size
        self._above = beyond_b * self._a.size
        self._unknown = beyond_a * beyond_b
        self._finite = self._a.size * self._b.size
        self._matrix: FloatArray | None = None
        if self._finite <= DENSE_UP_TO:
            self._matrix = np.subtract.outer(self._b, self._a)
            self._ordered = np.sort(self._matrix, axis=None)

    @property
    def is_written_out(self) -> bool:
        """Whether all of them are held."""
        return self._matrix is not None

    @cached_property
    def median(self) -> float:
        """Their median: the Hodges–Lehmann shift, in the unit of the readings."""
        count = self._finite + self._below + self._above
        upper = self._at(count // 2)
        return upper if count % 2 else (self._at(count // 2 - 1) + upper) / 2.0

    @cached_property
    def _selected(self) -> "_Ordered | _Alike":
        kinds = [np.unique(readings, return_counts=True) for readings in (self._a, self._b)]
        if kinds[0][0].size * kinds[1][0].size <= GATHER_UP_TO:
            return _Alike(*kinds)
        return _Ordered(self._a, self._b)

    def lower(self, rank: int) -> float:
        """The rank-th smallest (1-based), undetermined ones taken as the smallest."""
        return self._at(rank - 1 - self._unknown)

    def upper(self, rank: int) -> float:
        """The rank-th largest (1-based), undetermined ones taken as the largest."""
        count = self._finite + self._below + self._above
        return self._at(count - rank + self._unknown)

    def placements(self, shift: float, or_equal: bool) -> tuple[FloatArray, FloatArray]:
        """Share of differences above `shift` for each reading of b, and for each of a.

        Parameters
        ----------
        shift : float
        or_equal : bool
            Whether a difference equal to `shift` counts as above it.

        Returns
        -------
        of_b, of_a : ndarray, shapes (n_b,) and (n_a,)
        """
        rows, columns = self._a.size, self._b.size
        compare = np.greater_equal if or_equal else np.greater
        if self._matrix is not None:
            above = compare(self._matrix, shift)
            for_b, for_a = above.sum(axis=1), above.sum(axis=0)
        else:
            none = np.zeros(columns, int)
            passed = np.less if or_equal else np.less_equal
            for_b = rows - _count(self._a, self._b, shift, none, passed)
            passed_by = np.bincount(rows - for_b, minlength=rows + 1)
            for_a = np.cumsum(passed_by)[:rows]
        beyond_a, beyond_b = self.n_a - rows, self.n_b - columns
        of_b = np.concatenate([for_b, np.full(beyond_b, rows + beyond_a / 2.0)]) / self.n_a
        of_a = np.concatenate([for_a + beyond_b, np.full(beyond_a, beyond_b / 2.0)]) / self.n_b
        return of_b, of_a

    def _at(self, index: int) -> float:
        """The difference at a 0-based place in the order."""
        place = index - self._below
        if place < 0:
            return -np.inf
        if place >= self._finite:
            return np.inf
        if self._matrix is not None:
            return float(self._ordered[place])
        return self._selected.at(place)


def walsh_averages(values: FloatArray, ranks: Sequence[int]) -> list[float]:
    """Averages of all pairs of readings, each with itself too, at these places of their order.

    Parameters
    ----------
    values : ndarray, shape (n,)
    ranks : sequence of int
        0-based, below n·(n + 1)/2.
    """
    rising = np.sort(values)
    if rising.size * (rising.size + 1) // 2 <= DENSE_UP_TO:
        i, j = np.triu_indices(rising.size)
        averages = np.sort((rising[i] + rising[j]) / 2.0)
        return [float(averages[rank]) for rank in ranks]
    halves = rising / 2.0
    least = np.arange(rising.size)
    before = int(least.sum())
    ordered = _Ordered(-halves, halves, least)
    return [ordered.at(before + rank) for rank in ranks]


class _Alike:
    """The differences of readings of which many are alike: each kind is held once.

    Parameters
    ----------
    a, b : (values, how many there are of each), both rising
    """

    def __init__(self, a: tuple[FloatArray, Counts], b: tuple[FloatArray, Counts]):
        differences = np.subtract.outer(b[0], a[0]).ravel()
        order = np.argsort(differences)
        self._differences = differences[order]
        self._up_to = np.cumsum(np.multiply.outer(b[1], a[1]).ravel()[order])

    def at(self, place: int) -> float:
        """The difference at a 0-based place."""
        return float(self._differences[np.searchsorted(self._up_to, place, side="right")])


class _Ordered:
    """The differences rising − falling in order: single ones are found by counting.

    Parameters
    ----------
    falling, rising : ndarray
    least : ndarray, optional
        From which of `falling` on each of `rising` is set against it; those that this leaves out
        count as the smallest.

    Notes
    -----
    The differences of a few quantiles of each tell about where a place lies. Counting tells by
    how many it is missed; the next ones of each row then hold the wanted one, if every row's last
    shows that none was passed over. Where many are alike, rounds of drawn candidates bound the
    place instead. Source: Floyd & Rivest, Communications of the ACM 18, 1975, on the sorted rows
    of Johnson & Mizoguchi, SIAM Journal on Computing 7, 1978.
    """

    def __init__(self, falling: FloatArray, rising: FloatArray, least: Counts | None = None):
        self._falling, self._rising = falling, rising
        self._opposite = -falling
        self._framed = np.concatenate([[np.inf], falling, [-np.inf]])
        self._every = np.arange(rising.size)
        self._is_whole = least is None
        self._least = np.zeros(rising.size, int) if least is None else least
        self._most = np.full(rising.size, falling.size)
        self._before = int(self._least.sum())
        self._size = int(self._most.sum()) - self._before
        self._generator = np.random.default_rng(0)
        self._off = 0
        self._cut: tuple[Counts, int] | None = None

    def at(self, place: int) -> float:
        """The difference at a 0-based place."""
        found = self._aimed(place) if self._size > GATHER_UP_TO else None
        return self._bounded(place) if found is None else found

    @cached_property
    def _rough(self) -> FloatArray:
        """Differences of the middles of `QUANTILES` equal parts of each, in order."""
        parts = [middles(self._rising), middles(self._falling)]
        return np.sort(np.subtract.outer(*parts), axis=None)

    def _aimed(self, place: int) -> float | None:
        """The difference at a place; None where aiming does not come near enough."""
        rough, near = self._rough, NEAR * self._rising.size
        if self._cut is not None and abs(place - self._cut[1]) < near:
            found = self._beside(self._cut[0], place - self._cut[1])
            if found is not None:
                return found
        each = self._size / rough.size
        spot = (place - self._before + self._off) / each - 0.5
        left = min(max(int(spot), 0), rough.size - 2)
        value = float(rough[left] + (spot - left) * (rough[left + 1] - rough[left]))
        low, high = max(left - BESIDE, 0), min(left + BESIDE, rough.size - 1)
        density = float(rough[high] - rough[low]) / ((high - low) * each)
        for _ in range(AIMS):
            below = np.searchsorted(self._opposite, value - self._rising)
            if not self._is_whole:
                below = np.maximum(below, self._least)
            self._cut = below, int(below.sum())
            missed = place - self._cut[1]
            self._off += missed
            if abs(missed) < near:
                found = self._beside(below, missed)
                if found is not None:
                    return found
            value += missed * density
        return None

    def _beside(self, below: Counts, missed: int) -> float | None:
        """The difference so many places behind a cut through all rows, or before it; None where
        the next few of the rows do not show it."""
        is_behind = missed >= 0
        rank = missed if is_behind else -missed - 1
        next_ones, passed = (below, below - 1) if is_behind else (below - 1, below)
        first = self._away(self._every, next_ones, is_behind)
        furthest = np.partition(first, rank)[rank]
        rows = np.flatnonzero(first <= furthest)
        steps = np.arange(DEEP) if is_behind else -np.arange(DEEP)
        found = self._away(rows[:, np.newaxis], next_ones[rows, np.newaxis] + steps, is_behind)
        wanted = float(np.partition(found, rank, axis=None)[rank])
        nearest = -float(self._away(self._every, passed, not is_behind).min())
        is_proven = nearest <= wanted <= found[:, -1].min()
        return (wanted if is_behind else -wanted) if is_proven else None

    def _away(self, rows: Counts, columns: Counts, is_behind: bool) -> FloatArray:
        """The differences at these places, or their opposites; infinite where there is none."""
        across = self._framed.take(columns + 1, mode="clip")
        found = self._rising[rows] - across if is_behind else across - self._rising[rows]
        if not self._is_whole:
            found[columns < self._least[rows]] = -np.inf if is_behind else np.inf
        return found

    def _bounded(self, place: int) -> float:
        low, high = self._least, self._most
        while int((high - low).sum()) > GATHER_UP_TO:
            first, last = self._bounds(place, low, high)
            below = self._count(first, low, np.less)
            if int(below.sum()) > place:
                high = below
                continue
            up_to = self._count(last, below, np.less_equal)
            if int(up_to.sum()) <= place:
                low = up_to
                continue
            low, high = below, np.minimum(high, up_to)
            if int((high - low).sum()) > GATHER_UP_TO:
                low = self._count(first, below, np.less_equal)
                if int(low.sum()) > place:
                    return first  # many are alike
        left = high - low
        rows = np.repeat(np.arange(left.size), left)
        steps = np.arange(rows.size) - np.repeat(np.cumsum(left) - left, left)
        found = self._rising[rows] - self._falling[low[rows] + steps]
        rank = place - int(low.sum())
        return float(np.partition(found, rank)[rank])

    def _count(self, pivot: float, least: Counts, compare: Compare) -> Counts:
        return _count(self._falling, self._rising, pivot, least, compare)

    def _bounds(self, place: int, low: Counts, high: Counts) -> tuple[float, float]:
        """Two candidates between which the place lies; one and the same where they are alike."""
        ends = np.cumsum(high - low)
        strata = np.arange(DRAWN) + self._generator.random(DRAWN)
        drawn = np.minimum((strata * (float(ends[-1]) / DRAWN)).astype(np.int64), ends[-1] - 1)
        rows = np.searchsorted(ends, drawn, side="right")
        columns = low[rows] + drawn - np.where(rows > 0, ends[rows - 1], 0)
        found = np.sort(self._rising[rows] - self._falling[columns])
        share = (place - int(low.sum())) / int((high - low).sum())
        reach = AWAY * np.sqrt(max(share * (1.0 - share), 1.0 / DRAWN) / DRAWN)
        first, last = (
            found[min(max(int(at * DRAWN), 0), DRAWN - 1)] for at in (share - reach, share + reach)
        )
        return float(first), float(last)


def middles(ordered: FloatArray) -> FloatArray:
    """The middle readings of `QUANTILES` equal parts."""
    places = ((np.arange(QUANTILES) + 0.5) * ordered.size / QUANTILES).astype(int)
    found: FloatArray = ordered[places]
    return found


def _count(
    falling: FloatArray,
    rising: FloatArray,
    pivot: float,
    least: Counts,
    compare: Compare,
) -> Counts:
    """For each of `rising`: how many differences rising − falling compare so with `pivot`.

    Each row's place is looked up from `least` on; where a difference rounds otherwise than the
    value that was looked up, the row is bisected.
    """
    side: Literal["left", "right"] = "right" if compare is np.less else "left"
    found = falling.size - np.searchsorted(falling[::-1], rising - pivot, side=side)
    found = np.maximum(found, least)
    last = falling.size - 1
    is_right = (found == least) | compare(rising - falling[np.maximum(found - 1, 0)], pivot)
    is_right &= (found > last) | ~compare(rising - falling[np.minimum(found, last)], pivot)
    if is_right.all():
        return found
    low = np.where(is_right, found, least)
    high = np.where(is_right, found, falling.size)
    while (open_rows := low < high).any():
        middle = np.minimum((low + high) // 2, falling.size - 1)
        passed = compare(rising - falling[middle], pivot)
        low = np.where(open_rows & passed, middle + 1, low)
        high = np.where(open_rows & ~passed, middle, high)
    return low
