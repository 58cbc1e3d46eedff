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
DRAWN, AWAY, BESIDE = 4_000, 3.0, 80
"""Candidates that are drawn in a round, how many standard errors its bounds stand apart, and how
many candidates on either side of a place tell the density there."""

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
        if count % 2:
            return self._at(count // 2)
        lower, place = self._at(count // 2 - 1), count // 2 - 1 - self._below
        is_selected = self._matrix is None and 0 <= place < self._finite - 1
        upper = self._selected.after(lower, place) if is_selected else self._at(count // 2)
        return (lower + upper) / 2.0

    @cached_property
    def _selected(self) -> "_Ordered":
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
            none_b, none_a = np.zeros(columns, int), np.zeros(rows, int)
            passed = np.less if or_equal else np.less_equal
            for_b = rows - _count(self._a, self._b, shift, none_b, passed)
            # b − a above the shift is a − b below its opposite; rows are now those of a
            turned = np.less_equal if or_equal else np.less
            for_a = _count(self._b[::-1], self._a[::-1], -shift, none_a, turned)[::-1]
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
    A first round draws candidates, one from each of as many strata, and aims from what they say of
    the density at the wanted place. Where that misses, further rounds draw candidates from what is
    left and take two of them for bounds that hold the place with near certainty. Counting shows
    whether they do. Source: Floyd & Rivest, Communications of the ACM 18, 1975, on the sorted rows
    of Johnson & Mizoguchi, SIAM Journal on Computing 7, 1978.
    """

    def __init__(self, falling: FloatArray, rising: FloatArray, least: Counts | None = None):
        self._falling, self._rising = falling, rising
        self._least = np.zeros(rising.size, int) if least is None else least
        self._most = np.full(rising.size, falling.size)
        self._before = int(self._least.sum())
        self._size = int(self._most.sum()) - self._before
        self._generator = np.random.default_rng(0)
        self._drawn: FloatArray | None = None

    def at(self, place: int) -> float:
        """The difference at a 0-based place."""
        low, high = self._least, self._most
        bounds = self._aimed(place) if self._size > GATHER_UP_TO else None
        while int((high - low).sum()) > GATHER_UP_TO:
            first, last = bounds or self._bounds(place, low, high)
            bounds = None
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

    def after(self, value: float, place: int) -> float:
        """The difference at the place after this one, at which `value` stands."""
        up_to = self._count(value, self._least, np.less_equal)
        if int(up_to.sum()) > place + 1:
            return value
        is_open = up_to < self._falling.size
        return float((self._rising[is_open] - self._falling[up_to[is_open]]).min())

    def _count(self, pivot: float, least: Counts, compare: Compare) -> Counts:
        return _count(self._falling, self._rising, pivot, least, compare)

    def _aimed(self, place: int) -> tuple[float, float] | None:
        """Two values about so many places before and behind the wanted one; None where the density
        there is not known."""
        if self._drawn is None:
            self._drawn = self._draw(self._least, self._most)
        at = min((place - self._before) * DRAWN // self._size, DRAWN - 1)
        low, high = max(at - BESIDE, 0), min(at + BESIDE, DRAWN - 1)
        width = float(self._drawn[high] - self._drawn[low])
        if width <= 0.0:
            return None
        each = width * DRAWN / ((high - low) * self._size)
        start = float(self._drawn[at])
        missed = place - int(self._count(start, self._least, np.less).sum())
        aim, reach = start + missed * each, max(abs(missed) // 10, GATHER_UP_TO // 40) * each
        return aim - reach, aim + reach

    def _draw(self, low: Counts, high: Counts) -> FloatArray:
        """Candidates, sorted."""
        ends = np.cumsum(high - low)
        strata = np.arange(DRAWN) + self._generator.random(DRAWN)
        drawn = np.minimum((strata * (float(ends[-1]) / DRAWN)).astype(np.int64), ends[-1] - 1)
        rows = np.searchsorted(ends, drawn, side="right")
        columns = low[rows] + drawn - np.where(rows > 0, ends[rows - 1], 0)
        return np.sort(self._rising[rows] - self._falling[columns])

    def _bounds(self, place: int, low: Counts, high: Counts) -> tuple[float, float]:
        """Two candidates between which the place lies; one and the same where they are alike."""
        found = self._draw(low, high)
        share = (place - int(low.sum())) / int((high - low).sum())
        reach = AWAY * np.sqrt(max(share * (1.0 - share), 1.0 / DRAWN) / DRAWN)
        first, last = (
            found[min(max(int(at * DRAWN), 0), DRAWN - 1)] for at in (share - reach, share + reach)
        )
        return float(first), float(last)


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
