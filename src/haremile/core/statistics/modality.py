"""Whether a lane has two modes: Silverman's test of one mode."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from haremile.core.statistics.validation import FloatArray, as_sample

RESAMPLES = 200
GRID = 160
LEAST_READINGS = 8
LEAST_OF_A_MODE = 3
"""Readings that make a mode; one or two apart are far out, and told as such."""
ERROR = 0.05
AT_ONCE = 20
BINNED_FROM = 1_000
BINS = 256
"""Readings from which on they are counted into bins, and how many of those there are: a kernel
reaches over many."""


def _modes(samples: FloatArray, bandwidth: FloatArray) -> FloatArray:
    """Number of modes of each row's Gaussian kernel density, shape (m,)."""
    low = samples.min(axis=1, keepdims=True) - 2.0 * bandwidth[:, None]
    high = samples.max(axis=1, keepdims=True) + 2.0 * bandwidth[:, None]
    grid = low + (high - low) * np.linspace(0.0, 1.0, GRID)[None, :]
    away = (grid[:, :, None] - samples[:, None, :]) / bandwidth[:, None, None]
    density = np.exp(-0.5 * away**2).sum(axis=2)
    rises = np.diff(density, axis=1) > 0
    modes: FloatArray = (rises[:, :-1] & ~rises[:, 1:]).sum(axis=1).astype(float)
    return modes


class _Binned:
    """Many readings, counted into bins from the lowest to the highest."""

    def __init__(self, sample: FloatArray):
        counts, edges = np.histogram(sample, BINS)
        self.counts = counts.astype(float)
        self._places = (edges[:-1] + edges[1:]) / 2.0
        self._mean = float(sample.mean())

    def modes(self, counts: FloatArray, bandwidth: float) -> FloatArray:
        """Number of modes of each row of counts, shape (m,)."""
        return self._modes_at(counts, self._places, bandwidth)

    @staticmethod
    def _modes_at(counts: FloatArray, places: FloatArray, bandwidth: float) -> FloatArray:
        grid = np.linspace(places[0] - 2.0 * bandwidth, places[-1] + 2.0 * bandwidth, GRID)
        kernel = np.exp(-0.5 * ((places[:, None] - grid[None, :]) / max(bandwidth, 1e-300)) ** 2)
        density = counts @ kernel
        rises = np.diff(density, axis=1) > 1e-9 * density.max()
        modes: FloatArray = (rises[:, :-1] & ~rises[:, 1:]).sum(axis=1).astype(float)
        return modes

    def several_modes(self, width: float, spread: float, generator: np.random.Generator) -> int:
        """How many of the smoothed resamples have several modes.

        They are drawn as counts of the smoothed density, shrunk to the spread that was seen.
        """
        reach = 3.0 * width
        places = np.linspace(self._places[0] - reach, self._places[-1] + reach, BINS)
        kernel = np.exp(-0.5 * ((self._places[:, None] - places[None, :]) / width) ** 2)
        chances = self.counts @ kernel
        size = int(self.counts.sum())
        drawn = generator.multinomial(size, chances / chances.sum(), RESAMPLES).astype(float)
        shrink = 1.0 / np.sqrt(1.0 + (width / spread) ** 2)
        shrunk = self._mean + (places - self._mean) * shrink
        return int((self._modes_at(drawn, shrunk, width) > 1).sum())


def critical_bandwidth(values: Sequence[float] | FloatArray) -> float:
    """Smallest bandwidth at which the kernel density has a single mode, unit of the readings."""
    sample = as_sample(values)
    binned = _Binned(sample) if sample.size >= BINNED_FROM else None
    low, high = 0.0, float(np.ptp(sample))
    for _ in range(30):
        middle = (low + high) / 2.0
        if binned is not None:
            is_single = binned.modes(binned.counts[None, :], middle)[0] <= 1
        else:
            is_single = _modes(sample[None, :], np.array([middle]))[0] <= 1
        low, high = (low, middle) if is_single else (middle, high)
    return high


class Modes(NamedTuple):
    """How many modes a lane has, 1 or 2, None below eight readings or for constant data; and of two
    the medians of the lower and the upper, unit of the readings."""

    number: int | None
    medians: tuple[float, float] | None


ONE_MODE = Modes(1, None)


def modes_of(values: Sequence[float] | FloatArray, seed: int = 0) -> Modes:
    """Whether a lane has one mode or two, and where two stand.

    Parameters
    ----------
    values : array_like, shape (n,)
    seed : int
        Of the smoothed resamples; the same seed gives the same answer.

    Notes
    -----
    Two modes where at least three readings stand on each side and fewer than 5 % of smoothed
    resamples from the single-mode density need as wide a bandwidth. The test is careful: below 20
    runs it misses many. Source: Silverman, Journal of the Royal Statistical Society B 43, 1981.
    """
    sample = as_sample(values)
    spread = float(np.std(sample))
    if sample.size < LEAST_READINGS or spread == 0.0:
        return Modes(None, None)
    width = critical_bandwidth(sample)
    generator = np.random.default_rng(seed)
    if sample.size >= BINNED_FROM:
        several = _Binned(sample).several_modes(width, spread, generator)
        is_rare = several < ERROR * RESAMPLES
        return _told(sample, width) if is_rare else ONE_MODE
    shape = (RESAMPLES, sample.size)
    drawn = generator.choice(sample, size=shape) + width * generator.normal(size=shape)
    shrink = 1.0 / np.sqrt(1.0 + (width / spread) ** 2)  # keeps the spread that was seen
    smoothed = float(sample.mean()) + (drawn - float(sample.mean())) * shrink
    return _told(sample, width) if _is_rare(smoothed, width) else ONE_MODE


def _told(sample: FloatArray, width: float) -> Modes:
    """Two modes, unless too few readings stand on one side."""
    split = _split(sample, width)
    below, above = sample[sample <= split], sample[sample > split]
    if min(below.size, above.size) < LEAST_OF_A_MODE:
        return ONE_MODE
    return Modes(2, (float(np.median(below)), float(np.median(above))))


def mode_count(values: Sequence[float] | FloatArray, seed: int = 0) -> int | None:
    """How many modes, as `modes_of` tells."""
    return modes_of(values, seed).number


def _is_rare(smoothed: FloatArray, width: float) -> bool:
    """Whether fewer than 5 % of the resamples have several modes; ends as soon as it is told."""
    several = 0
    for first in range(0, len(smoothed), AT_ONCE):
        part = smoothed[first : first + AT_ONCE]
        several += int((_modes(part, np.full(len(part), width)) > 1).sum())
        if several >= ERROR * len(smoothed):
            return False
    return True


def two_modes(values: Sequence[float] | FloatArray, seed: int = 0) -> tuple[float, float] | None:
    """Medians of the lower and the upper mode, unit of the readings; None where there is one."""
    return modes_of(values, seed).medians


def _split(sample: FloatArray, width: float) -> float:
    """Where the density is lowest between the two modes."""
    grid = np.linspace(sample.min(), sample.max(), GRID)
    narrower = 0.95 * width
    if sample.size >= BINNED_FROM:
        counts, edges = np.histogram(sample, BINS)
        sample = (edges[:-1] + edges[1:]) / 2.0
    else:
        counts = np.ones(sample.size, int)
    density = np.exp(-0.5 * ((grid[:, None] - sample[None, :]) / narrower) ** 2) @ counts
    rises = np.diff(density) > 0
    peaks = np.flatnonzero(np.r_[True, rises] & ~np.r_[rises, False])
    low, high = np.sort(peaks[np.argsort(density[peaks])[-2:]]) if peaks.size > 1 else (0, 0)
    return float(grid[low + int(np.argmin(density[low : high + 1]))])
