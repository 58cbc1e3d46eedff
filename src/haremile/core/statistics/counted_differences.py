"""Differences between one lane of very many readings and others, read off from counts.

Single differences of two lanes can be found exactly (`order_statistics`); of many large lanes that
takes seconds. Here each lane has a table of how many of its readings lie below each of very many
points, so that a count of differences is a sum of looked-up numbers for all pairs at once.
"""

from collections.abc import Sequence

import numpy as np

from haremile.core.statistics.order_statistics import BESIDE, middles
from haremile.core.statistics.validation import FloatArray

POINTS = 65_536
"""Points of a table: a reading is taken as up to half of this share of the lane's range away."""

OUTSIDE = 0.005
"""Share of the readings at either end that may lie far away: the table reaches beyond the rest by
its own width, and farther readings count as just outside."""

AIMS, NEAR = 4, 0.02
"""How often a place is aimed at, and by how much it may be missed before the last step, which is a
straight line: as a share of all differences, over the root of the number of readings."""


class CountedLane:
    """A lane with its table.

    Parameters
    ----------
    readings : ndarray, shape (n,)
        Finite.

    Attributes
    ----------
    is_wide : bool
        Whether the readings vary enough for a table.
    """

    def __init__(self, readings: FloatArray):
        self.rising = np.sort(readings)
        self.n = readings.size
        outside = int(OUTSIDE * self.n)
        first, last = float(self.rising[outside]), float(self.rising[-1 - outside])
        reach = last - first
        self._start = max(first - reach, float(self.rising[0]))
        end = min(last + reach, float(self.rising[-1]))
        self.is_wide = reach > 0.0 and np.isfinite(POINTS / (end - self._start))
        if self.is_wide:
            self._each = POINTS / (end - self._start)
            places = np.ceil(np.clip((self.rising - self._start) * self._each, 0.0, POINTS))
            counts = np.bincount(places.astype(np.int64), minlength=POINTS + 1)
            self._up_to = np.cumsum(counts).astype(np.float64)
        self.middles = middles(self.rising)

    def below(self, values: FloatArray) -> FloatArray:
        """How many readings lie below each value."""
        places = values - self._start
        places *= self._each
        places += 0.5
        np.clip(places, 0.0, POINTS, out=places)
        found: FloatArray = self._up_to.take(places.astype(np.intp), mode="clip")
        return found


class DifferencesFromOne:
    """The differences b − a of each of several lanes b from one lane a.

    Parameters
    ----------
    a : CountedLane
    others : sequence of CountedLane
        Each wide, as `a`.

    Attributes
    ----------
    n_b, sizes : ndarray of int, shape (others,)
        Readings of each, and differences.
    """

    def __init__(self, a: CountedLane, others: Sequence[CountedLane]):
        self._a = a
        self.n_b = np.array([b.n for b in others])
        self.sizes = a.n * self.n_b
        self._together = np.concatenate([b.rising for b in others])
        self._starts = np.cumsum(self.n_b) - self.n_b
        behind = np.arange(self._together.size) - np.repeat(self._starts, self.n_b)
        self._weights = 2.0 * (np.repeat(self.n_b, self.n_b) - behind) - 1.0
        of_others = np.array([b.middles for b in others])
        self._rough = (of_others[:, :, np.newaxis] - a.middles).reshape(len(others), -1)
        self._rough.sort(axis=1)
        self._off = np.zeros(len(others))
        self._near = NEAR * self.sizes / np.sqrt(a.n + self.n_b)

    def at(self, wanted: FloatArray) -> FloatArray:
        """The values below which so many differences lie; shape (others,).

        No number where they cannot be read off: where many differences are alike.
        """
        count, every = self._rough.shape[1], np.arange(self.n_b.size)
        each = self.sizes / count
        spot = (wanted + self._off) / each - 0.5
        left = np.clip(spot.astype(int), 0, count - 2)
        low, high = np.maximum(left - BESIDE, 0), np.minimum(left + BESIDE, count - 1)
        near, next_one = self._rough[every, left], self._rough[every, left + 1]
        values = near + (spot - left) * (next_one - near)
        slope = self._rough[every, high] - self._rough[every, low]
        slope = slope / ((high - low) * each)
        is_near = np.zeros(self.n_b.size, dtype=bool)
        for _ in range(AIMS):
            missed = wanted - (self.sizes - self._sums(self._above(values)))
            self._off += missed
            values = values + missed * slope
            is_near = np.abs(missed) <= self._near
            if is_near.all():
                break
        return np.where(is_near, values, np.nan)

    def placements(self, shifts: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
        """The mean of the placements of b at these shifts, and the sums of the squares of those of
        a and of b; as from `PairwiseDifferences.placements`.

        Counts of a lane in rising order rise too, so that the squares of a's follow from them: the
        sum over all pairs of b's of the smaller count.
        """
        above = self._above(shifts)
        chance = self._sums(above) / self.sizes
        return (
            chance,
            self._sums(above * self._weights) / self.n_b.astype(np.float64) ** 2,
            self._sums(above**2) / float(self._a.n) ** 2,
        )

    def _above(self, shifts: FloatArray) -> FloatArray:
        """Of each reading of the others: how many differences are above its lane's shift."""
        return self._a.below(self._together - np.repeat(shifts, self.n_b))

    def _sums(self, values: FloatArray) -> FloatArray:
        found: FloatArray = np.add.reduceat(values, self._starts)
        return found
