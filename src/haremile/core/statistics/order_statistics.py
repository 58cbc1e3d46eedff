"""Order statistics of all pairwise differences b − a, without holding them all."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from haremile.core.statistics.validation import FloatArray

DENSE_UP_TO = 250_000
"""Differences that are written out (2 MB); above it the wanted ones are selected."""

GATHER_UP_TO = 20_000

Counts = NDArray[np.int64]


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

    def median(self) -> float:
        """Their median: the Hodges–Lehmann shift, in the unit of the readings."""
        count = self._finite + self._below + self._above
        upper = self._at(count // 2)
        return upper if count % 2 else (self._at(count // 2 - 1) + upper) / 2.0

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
        return _select(self._a, self._b, place)


def _select(falling: FloatArray, rising: FloatArray, place: int) -> float:
    """The difference rising − falling at a 0-based place in their order.

    Each round counts the differences about a pivot, the weighted median of the rows' middles, and
    drops a quarter of the candidates or more. Source: Johnson & Mizoguchi, SIAM Journal on
    Computing 7, 1978.
    """
    low = np.zeros(rising.size, int)
    high = np.full(rising.size, falling.size)
    while True:
        left = high - low
        if int(left.sum()) <= GATHER_UP_TO:
            break
        alive = left > 0
        pivots = rising[alive] - falling[(low[alive] + high[alive]) // 2]
        order = np.argsort(pivots)
        weight = np.cumsum(left[alive][order])
        pivot = float(pivots[order][np.searchsorted(weight, weight[-1] / 2.0)])
        below = _count(falling, rising, pivot, low, np.less)
        if int(below.sum()) > place:
            high = below
            continue
        up_to = _count(falling, rising, pivot, below, np.less_equal)
        if int(up_to.sum()) > place:
            return pivot
        low = up_to
    rows = [rising[i] - falling[low[i] : high[i]] for i in np.flatnonzero(high > low)]
    return float(np.partition(np.concatenate(rows), place - int(low.sum()))[place - low.sum()])


def _count(
    falling: FloatArray,
    rising: FloatArray,
    pivot: float,
    least: Counts,
    compare: Callable[[FloatArray, float], NDArray[np.bool_]],
) -> Counts:
    """For each of `rising`: how many differences rising − falling compare so with `pivot`.

    Every row is bisected at once, from `least` on, with the differences as they round.
    """
    low, high = least.copy(), np.full(rising.size, falling.size)
    while (open_rows := low < high).any():
        middle = np.minimum((low + high) // 2, falling.size - 1)
        passed = compare(rising - falling[middle], pivot)
        low = np.where(open_rows & passed, middle + 1, low)
        high = np.where(open_rows & ~passed, middle, high)
    return low
