"""Whether a lane has two modes: Silverman's test of one mode."""

from collections.abc import Sequence

import numpy as np

from haremile.core.statistics.validation import FloatArray, as_sample

RESAMPLES = 200
GRID = 160
LEAST_READINGS = 8
LEAST_OF_A_MODE = 3
"""Readings that make a mode; one or two apart are far out, and told as such."""
ERROR = 0.05
AT_ONCE = 20


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


def critical_bandwidth(values: Sequence[float] | FloatArray) -> float:
    """Smallest bandwidth at which the kernel density has a single mode, unit of the readings."""
    sample = as_sample(values)
    low, high = 0.0, float(np.ptp(sample))
    for _ in range(30):
        middle = (low + high) / 2.0
        is_single = _modes(sample[None, :], np.array([middle]))[0] <= 1
        low, high = (low, middle) if is_single else (middle, high)
    return high


def mode_count(values: Sequence[float] | FloatArray, seed: int = 0) -> int | None:
    """1 or 2; None below eight readings or for constant data.

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
        return None
    width = critical_bandwidth(sample)
    generator = np.random.default_rng(seed)
    shape = (RESAMPLES, sample.size)
    drawn = generator.choice(sample, size=shape) + width * generator.normal(size=shape)
    shrink = 1.0 / np.sqrt(1.0 + (width / spread) ** 2)  # keeps the spread that was seen
    smoothed = float(sample.mean()) + (drawn - float(sample.mean())) * shrink
    if not _is_rare(smoothed, width):
        return 1
    return 2 if _smaller_mode(sample, width) >= LEAST_OF_A_MODE else 1


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
    if mode_count(values, seed) != 2:
        return None
    sample = as_sample(values)
    split = _split(sample, critical_bandwidth(sample))
    return float(np.median(sample[sample <= split])), float(np.median(sample[sample > split]))


def _smaller_mode(sample: FloatArray, width: float) -> int:
    """Readings in the smaller of the two modes."""
    below = int((sample <= _split(sample, width)).sum())
    return min(below, sample.size - below)


def _split(sample: FloatArray, width: float) -> float:
    """Where the density is lowest between the two modes."""
    grid = np.linspace(sample.min(), sample.max(), GRID)
    narrower = 0.95 * width
    density = np.exp(-0.5 * ((grid[:, None] - sample[None, :]) / narrower) ** 2).sum(axis=1)
    rises = np.diff(density) > 0
    peaks = np.flatnonzero(np.r_[True, rises] & ~np.r_[rises, False])
    low, high = np.sort(peaks[np.argsort(density[peaks])[-2:]]) if peaks.size > 1 else (0, 0)
    return float(grid[low + int(np.argmin(density[low : high + 1]))])
