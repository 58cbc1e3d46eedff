"""How readings scatter about their middle: symmetric, or with a long tail of slow ones."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy import integrate, stats

from haremile.core.statistics.validation import FloatArray

TAILS = (0.0, 0.4, 0.5, 0.6, 0.7, 0.85, 1.0)
"""Shares of an exponential tail that are told apart; the rest of the scatter is normal."""


@dataclass(frozen=True)
class Scatter:
    """Of readings of one lane.

    Attributes
    ----------
    sd : float
        Standard deviation, unit of the readings.
    tail : float
        One of `TAILS`: 0 for normal readings, 1 for an exponential tail alone.
    """

    sd: float
    tail: float = 0.0

    @property
    def rank_cost(self) -> float:
        """Readings that rank methods take for one of the t test's, in large samples."""
        return _rank_cost(self.tail)


def scatter_of(sd: float, third: float) -> Scatter:
    """The scatter with this standard deviation and third central moment: with the tail whose
    skewness comes closest."""
    skewness = third / sd**3 if sd > 0.0 else 0.0
    return Scatter(sd, min(TAILS, key=lambda tail: abs(_skewness(tail) - skewness)))


def drawn(generator: np.random.Generator, tail: float, shape: tuple[int, ...]) -> FloatArray:
    """Readings of mean 0 and standard deviation 1 with this tail."""
    normal, slow = generator.normal(size=shape), generator.exponential(size=shape) - 1.0
    found: FloatArray = ((1.0 - tail) * normal + tail * slow) / _sd(tail)
    return found


def _sd(tail: float) -> float:
    return math.hypot(1.0 - tail, tail)


def _skewness(tail: float) -> float:
    return 2.0 * tail**3 / _sd(tail) ** 3


@lru_cache(maxsize=len(TAILS))
def _rank_cost(tail: float) -> float:
    """1 / (12·σ²·(∫f²)²): for normal readings π/3. Source: Hodges & Lehmann, Annals of Mathematical
    Statistics 27, 1956."""
    if tail == 0.0:
        return math.pi / 3.0
    if tail == 1.0:
        return 1.0 / 3.0
    density = stats.exponnorm(tail / (1.0 - tail), scale=1.0 - tail)
    squared, _ = integrate.quad(lambda x: density.pdf(x) ** 2, -8.0, 30.0, limit=200)
    return float(1.0 / (12.0 * _sd(tail) ** 2 * squared**2))
