"""Shift intervals of the studentised rank test for lanes of hundreds of readings and more."""

import math
from collections import defaultdict
from collections.abc import Sequence
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray
from scipy import special

from haremile.core.statistics.counted_differences import CountedLane, DifferencesFromOne
from haremile.core.statistics.lane_statistics import Interval
from haremile.core.statistics.order_statistics import PairwiseDifferences
from haremile.core.statistics.validation import FloatArray

COUNTED_FROM, COUNTED_TOGETHER = 8, 500_000
"""Pairs of large lanes from which on their differences are counted by tables, and readings that
are looked up at once."""

NO_VARIANCE = 1e-15

Counts = NDArray[np.int64]
Parts = TypeVar("Parts", float, FloatArray)
Found = tuple[float, list[Interval]]
Pairs = Sequence[tuple[FloatArray, FloatArray]]


def portions(places: list[int], size: int) -> list[list[int]]:
    """The places in order, so many at a time."""
    return [places[start : start + size] for start in range(0, len(places), size)]


def variance_of(placed: FloatArray) -> float:
    """The variance of placements, with n − 1."""
    away = placed - placed.mean()
    return float(away @ away) / (placed.size - 1)


def satterthwaite(part_a: Parts, part_b: Parts, n_a: Any, n_b: Any) -> Parts:
    """Degrees of freedom of a variance that is the sum of two lanes' parts; the numbers of readings
    are whole, or arrays of whole numbers."""
    found: Parts = (part_a + part_b) ** 2 / (part_a**2 / (n_a - 1) + part_b**2 / (n_b - 1))
    return found


def _ranks(level: float, df: Parts, variance: Parts, sizes: float | Counts) -> FloatArray:
    """Which of so many ordered differences bound the interval, from either end."""
    reach = -special.stdtrit(df, (1.0 - level) / 2.0) * np.sqrt(variance)
    found: FloatArray = np.maximum(np.floor((0.5 - reach) * sizes), 1.0)
    return found


def intervals_of_large(pairs: Pairs, levels: Sequence[float]) -> list[Found]:
    """As `studentised_intervals`, of pairs of very many readings: the limits stand at the ranks to
    which the statistic reaches with the variance that it has at the median of the differences.

    The differences of several pairs are counted by tables; those of a few, or of readings of which
    many are alike, are found exactly.
    """
    found: dict[int, Found] = {}
    if len(pairs) >= COUNTED_FROM:
        lanes = {id(lane): lane for pair in pairs for lane in pair}
        counted = {key: CountedLane(lane) for key, lane in lanes.items() if np.isfinite(lane).all()}
        of_a: dict[int, list[int]] = defaultdict(list)
        for place, (a, b) in enumerate(pairs):
            if all(id(lane) in counted and counted[id(lane)].is_wide for lane in (a, b)):
                of_a[id(a)].append(place)
        for key, places in of_a.items():
            most = max(len(counted[id(pairs[place][1])].rising) for place in places)
            for some in portions(places, max(COUNTED_TOGETHER // most, 1)):
                others = [counted[id(pairs[place][1])] for place in some]
                found |= _counted_intervals(counted[key], others, levels, some)
    return [
        found.get(place) or one_by_one(PairwiseDifferences(*pair), levels)
        for place, pair in enumerate(pairs)
    ]


def _counted_intervals(
    a: CountedLane, others: Sequence[CountedLane], levels: Sequence[float], places: Sequence[int]
) -> dict[int, Found]:
    """As `_large_intervals`, of several lanes against one; without those where many differences are
    alike, which cannot be counted."""
    differences = DifferencesFromOne(a, others)
    sizes = differences.sizes
    medians = differences.at(sizes / 2.0)
    if np.isnan(medians).all():
        return {}
    with np.errstate(invalid="ignore"):
        chance, squares_a, squares_b = differences.placements(medians)
    n_a, n_b = a.n, differences.n_b
    part_a = (squares_a / n_a - chance**2) / (n_a - 1)
    part_b = (squares_b / n_b - chance**2) / (n_b - 1)
    variance = part_a + part_b
    is_told = np.isfinite(medians) & (variance > NO_VARIANCE)
    variance = np.where(is_told, variance, 1.0)
    df = np.where(is_told, satterthwaite(part_a, part_b, n_a, n_b), 1.0)
    limits = []
    for level in levels:
        ranks = _ranks(level, df, variance, sizes)
        limits.append((differences.at(ranks - 0.5), differences.at(sizes - ranks + 0.5)))
    is_told &= np.isfinite(limits).all(axis=(0, 1))
    return {
        places[i]: (
            float(medians[i]),
            [
                Interval(float(low[i]), float(high[i]), level)
                for level, (low, high) in zip(levels, limits, strict=True)
            ],
        )
        for i in np.flatnonzero(is_told).tolist()
    }


def one_by_one(differences: PairwiseDifferences, levels: Sequence[float]) -> Found:
    """Of too few readings to have a spread, or of very many."""
    if min(differences.n_a, differences.n_b) < 2:
        count = math.comb(differences.n_a + differences.n_b, differences.n_b)
        widest = Interval(differences.lower(1), differences.upper(1), 1.0 - 2.0 / count)
        return differences.median, [widest for _ in levels]
    return differences.median, _large_intervals(differences, levels)


def _large_intervals(differences: PairwiseDifferences, levels: Sequence[float]) -> list[Interval]:
    """Of hundreds of readings: the limits stand at the ranks to which the statistic reaches with
    the variance that it has at the median of the differences."""
    of_b, of_a = differences.placements(differences.median, or_equal=False)
    part_a, part_b = variance_of(of_a) / of_a.size, variance_of(of_b) / of_b.size
    variance = part_a + part_b
    if variance <= NO_VARIANCE:
        return [Interval(differences.median, differences.median, level) for level in levels]
    df = satterthwaite(part_a, part_b, of_a.size, of_b.size)
    found = []
    for level in levels:
        rank = int(_ranks(level, df, variance, differences.n_a * differences.n_b))
        found.append(Interval(differences.lower(rank), differences.upper(rank), level))
    return found
