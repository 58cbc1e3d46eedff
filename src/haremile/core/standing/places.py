"""Places: who is decidedly ahead of whom, over all pairs at once."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import stats

from haremile.core.standing.network import difference_errors
from haremile.core.statistics.validation import FloatArray

DRAWS = 8192
CHUNK = 512
SEED = 20260105

BoolArray = NDArray[np.bool_]


def simultaneous_quantiles(
    covariance: FloatArray, degrees: tuple[float | None, ...], level: float
) -> list[float]:
    """Standard errors by which all differences are wide enough together, for each of `degrees`.

    Parameters
    ----------
    covariance : FloatArray
        Shape (k, k), of the effects.
    degrees : tuple of float or None
        Of Student's t; None is the normal distribution.
    level : float
        Probability with which every one of the k(k − 1)/2 intervals holds.

    Notes
    -----
    The largest standardised difference is drawn from its joint distribution, with a fixed seed
    (Hothorn, Bretz and Westfall, Biometrical Journal 50, 2008).
    """
    generator = np.random.default_rng(SEED)
    count = len(covariance)
    left, right = np.triu_indices(count, 1)
    errors = difference_errors(covariance)[left, right]
    sure = errors > 0.0
    left, right, errors = left[sure], right[sure], errors[sure]
    if not len(errors):
        return [0.0 for _ in degrees]
    sizes, vectors = np.linalg.eigh(covariance)
    root = vectors * np.sqrt(np.maximum(sizes, 0.0))
    largest = np.empty(DRAWS)
    for start in range(0, DRAWS, CHUNK):
        drawn = generator.standard_normal((CHUNK, count)) @ root.T
        gaps = np.abs(drawn[:, left] - drawn[:, right]) / errors
        largest[start : start + CHUNK] = gaps.max(axis=1)
    even = generator.random(DRAWS)
    found: dict[float | None, float] = {}
    for free in set(degrees):
        scale = 1.0 if free is None else np.sqrt(_chi_squared(even, free) / free)
        found[free] = float(np.quantile(largest / scale, level))
    return [found[free] for free in degrees]


def _chi_squared(even: FloatArray, free: float) -> FloatArray:
    return np.asarray(stats.chi2.ppf(even, free))


@dataclass(frozen=True)
class Place:
    """The first and the last place that a system may have; 1 is the best."""

    first: int
    last: int


def are_ahead(effects: FloatArray, reach: FloatArray, readable: BoolArray) -> BoolArray:
    """Which system is decidedly ahead of which, shape (k, k), row ahead of column; less is better.

    Parameters
    ----------
    effects : FloatArray
        Shape (k,).
    reach : FloatArray
        Shape (k, k): half-widths of the simultaneous intervals of all differences.
    readable : array of bool
        Shape (k, k): of which pairs the difference may be read.
    """
    gaps = effects[None, :] - effects[:, None]
    return (gaps > reach) & readable


def places(ahead: BoolArray) -> list[Place]:
    """Place intervals from who is ahead of whom, shape (k, k): from 1 + those decidedly ahead of it
    to k − those decidedly behind it."""
    count = len(ahead)
    return [
        Place(1 + int(better), count - int(worse))
        for better, worse in zip(ahead.sum(axis=0), ahead.sum(axis=1), strict=True)
    ]
