"""Where the noise of a row of lanes sits: between blocks, between installs, from run to run."""

import math
from collections import defaultdict
from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from scipy import special

from haremile.core.statistics.lane_statistics import Interval
from haremile.core.statistics.validation import FloatArray
from haremile.errors import SampleError

LEAST_BLOCKS = 3


class NoiseSource(StrEnum):
    """Where noise comes from."""

    BLOCKS = "blocks"
    INSTALLS = "installs"
    RUNS = "runs"


@dataclass(frozen=True)
class NoisePart:
    """A part of the noise as a standard deviation, in the unit of the readings.

    `sd`, `interval` and `share` (of the variance of all known parts) are None where nothing here
    can tell it. `interval` is at 95 %.
    """

    source: NoiseSource
    sd: float | None
    interval: Interval | None
    share: float | None


@dataclass(frozen=True)
class NoiseBudget:
    """The parts, in the order of `NoiseSource`.

    Attributes
    ----------
    blocks, lanes : int
        What it was calculated from: complete blocks of so many lanes.
    likeness : Interval or None
        How far a run resembles the one before it in its block, as a correlation at 95 %; None
        below three lanes.
    """

    parts: tuple[NoisePart, ...]
    blocks: int
    lanes: int
    likeness: Interval | None

    def variance(self, source: NoiseSource) -> float | None:
        """Of a part; None where it is not known."""
        sd = next(part.sd for part in self.parts if part.source is source)
        return None if sd is None else sd**2


def noise_budget(
    table: FloatArray, systems: Sequence[Hashable], positions: FloatArray | None = None
) -> NoiseBudget:
    """Split the noise of complete blocks into its parts.

    Parameters
    ----------
    table : ndarray, shape (blocks, lanes)
        A finite reading of each lane in each block.
    systems : sequence, of length lanes
        What each lane is an install of: lanes of one system are installs of it.
    positions : ndarray, shape (blocks, lanes), optional
        The place of each reading in its block, from 0 on.

    Raises
    ------
    SampleError
        If there are fewer than three blocks, or a reading is missing.

    Notes
    -----
    Moments of the two-way layout without replication (lanes fixed, blocks random), installs nested
    in systems. Intervals of variances between groups as by Williams, Biometrika 49, 1962; of the
    variance within by the chi-squared distribution. What comes out negative is 0. Source: Searle,
    Casella & McCulloch, Variance Components, 1992, chapter 4.
    """
    blocks, lanes = table.shape
    if blocks < LEAST_BLOCKS or lanes < 1 or len(systems) != lanes:
        raise SampleError(f"noise is told from {LEAST_BLOCKS} blocks on, not {blocks}")
    if not np.isfinite(table).all():
        raise SampleError("a block lacks a reading")
    left = table - table.mean(axis=0)
    if lanes == 1:
        df, within = blocks - 1, float((left**2).sum()) / (blocks - 1)
        between = None
    else:
        means = left.mean(axis=1)
        df = (blocks - 1) * (lanes - 1)
        within = float(((left - means[:, None]) ** 2).sum()) / df
        between = _between(lanes * float((means**2).sum()), blocks - 1, within, df, lanes)
    installs = _installs(table.mean(axis=0), systems, blocks, within, df)
    known = {
        NoiseSource.BLOCKS: between,
        NoiseSource.INSTALLS: installs,
        NoiseSource.RUNS: (within, _within_limits(within, df)),
    }
    whole = sum(found[0] for found in known.values() if found is not None)
    parts = tuple(_part(source, found, whole) for source, found in known.items())
    likeness = None
    if positions is not None and lanes > 2:
        likeness = _likeness(left - left.mean(axis=1)[:, None], positions)
    return NoiseBudget(parts, blocks, lanes, likeness)


_Variance = tuple[float, tuple[float, float]]


def _part(source: NoiseSource, found: _Variance | None, whole: float) -> NoisePart:
    if found is None:
        return NoisePart(source, None, None, None)
    variance, (low, high) = found
    limits = Interval(math.sqrt(max(low, 0.0)), math.sqrt(max(high, 0.0)), 0.95)
    return NoisePart(source, math.sqrt(variance), limits, variance / whole if whole else None)


def _within_limits(variance: float, df: int) -> tuple[float, float]:
    return (
        df * variance / float(special.chdtri(df, 0.025)),
        df * variance / float(special.chdtri(df, 0.975)),
    )


def _between(squares: float, groups: int, within: float, df: int, size: float) -> _Variance:
    """Variance between groups of so many readings, with Williams's limits."""
    mean_square = squares / groups
    if within <= 0.0:
        low, high = _within_limits(mean_square / size, groups)
        return mean_square / size, (low, high)
    f = mean_square / within
    low = groups * within * (f - float(special.fdtri(groups, df, 0.975)))
    high = groups * within * (f - float(special.fdtri(groups, df, 0.025)))
    return (
        max((mean_square - within) / size, 0.0),
        (
            max(low, 0.0) / (size * float(special.chdtri(groups, 0.025))),
            max(high, 0.0) / (size * float(special.chdtri(groups, 0.975))),
        ),
    )


def _installs(
    means: FloatArray, systems: Sequence[Hashable], blocks: int, within: float, df: int
) -> _Variance | None:
    by_system: dict[Hashable, list[float]] = defaultdict(list)
    for mean, system in zip(means, systems, strict=True):
        by_system[system].append(float(mean))
    groups = sum(len(found) - 1 for found in by_system.values())
    if groups == 0:
        return None
    squares = sum(
        float(((np.array(found) - np.mean(found)) ** 2).sum()) for found in by_system.values()
    )
    return _between(blocks * squares, groups, within, df, blocks)


def _likeness(left: FloatArray, positions: FloatArray) -> Interval | None:
    """Correlation of what is left of neighbours in a block, freed of what taking the block's mean
    off brings with it."""
    blocks, lanes = left.shape
    ordered = np.take_along_axis(left, np.argsort(positions, axis=1), axis=1)
    variance = float((left**2).mean())
    if variance <= 0.0:
        return None
    seen = float((ordered[:, :-1] * ordered[:, 1:]).mean()) / variance
    forced = 1.0 / (lanes - 1)
    found = (seen + forced) / (1.0 + forced)
    reach = 1.96 / math.sqrt(blocks * (lanes - 1))
    return Interval(max(found - reach, -1.0), min(found + reach, 1.0), 0.95)
