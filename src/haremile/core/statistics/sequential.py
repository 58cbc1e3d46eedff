"""Reading verdicts again and again: what each look may err, what it costs, and what an early end
does to an estimate.

All of it is worked out for a walk with independent normal steps, which the differences of lanes
follow closely from a handful of blocks on.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy import optimize, special

from haremile.core.statistics.validation import FloatArray
from haremile.errors import SampleError

SPENDING_POWER = 2.0
"""By a look at half of the blocks a quarter of the error is spent: early ends are to be had, and
the last look keeps most of it."""

REACH = 10.0
"""Half width of the grid on which a walk is followed, in standard deviations of the whole walk."""

FINE, COARSE = 8.0, 4.0
"""Its cells in a step's standard deviation: for limits, and for estimates."""


MOST_ERRORS_OFF = 4.0
"""Standard errors of the first look within which the estimate is sought."""


def spent(share: float) -> float:
    """Share of the error that may be spent once this share of the planned blocks is read.

    Source: the power family of Kim & DeMets, Biometrika 74, 1987.
    """
    return float(min(share, 1.0) ** SPENDING_POWER)


def spent_before_last(looks: Sequence[int]) -> float:
    """Share of the error that is spent before the last look."""
    return spent(looks[-2] / looks[-1]) if len(looks) > 1 else 0.0


@lru_cache(maxsize=512)
def nominal_errors(
    error: float, looks: tuple[int, ...], attainable: tuple[float, ...] = ()
) -> tuple[float, ...]:
    """Two-sided error at which an interval is read at each look, so that all err together at most
    at `error`.

    Parameters
    ----------
    error : float
        Of all looks together.
    looks : tuple of int
        Blocks read at each look, rising; the last are the planned maximum.
    attainable : tuple of float, optional
        The smallest error that so few blocks can reach, for each look.

    Returns
    -------
    tuple of float
        0 at a look that is too early for any verdict: what it would have spent is carried on.

    Raises
    ------
    SampleError
        If the looks do not rise, or the error is not between 0 and 1.

    Notes
    -----
    The boundary is computed look by look, by following the density of the walk that has not yet
    left. Sources: Lan & DeMets, Biometrika 70, 1983; Armitage, McPherson & Rowe, Journal of the
    Royal Statistical Society A 132, 1969.
    """
    if not 0.0 < error < 1.0:
        raise SampleError(f"the error must lie between 0 and 1, not {error}")
    if len(looks) == 1:
        return (error,) if not attainable or error >= attainable[0] else (0.0,)
    grid = _Grid(looks, FINE)
    density = None
    used, found = 0.0, []
    for place, blocks in enumerate(looks):
        density = grid.stepped(density, blocks, looks[place - 1] if place else 0, 0.0)
        allowed = error * spent(blocks / looks[-1]) - used
        limit = grid.limit(density, allowed)
        nominal = 2.0 * float(special.ndtr(-limit / math.sqrt(blocks)))
        if attainable and nominal < attainable[place]:
            found.append(0.0)
            continue
        found.append(min(nominal, error))
        used += allowed
        density = density * grid.inside(limit)
    return tuple(found)


class _Grid:
    """Where a walk may stand, in standard deviations of one block."""

    def __init__(self, looks: Sequence[int], cells: float):
        if any(later <= before for before, later in zip((0, *looks), looks, strict=False)):
            raise SampleError(f"the looks must rise, not {looks}")
        steps = np.diff([0, *looks])
        self.width = math.sqrt(float(steps.min())) / cells
        reach = REACH * math.sqrt(looks[-1])
        self.at = self.width * np.arange(-math.ceil(reach / self.width), reach / self.width + 1.0)

    def stepped(
        self, density: FloatArray | None, blocks: int, before: int, drift: float
    ) -> FloatArray:
        """The density after the step from `before` to `blocks`, with a drift per block."""
        step = blocks - before
        if density is None:
            return _normal(self.at - drift * step, step)
        reach = math.ceil((7.0 * math.sqrt(step) + abs(drift) * step) / self.width)
        offsets = self.width * np.arange(-reach, reach + 1.0)
        kernel = _normal(offsets - drift * step, step) * self.width
        whole = np.convolve(density, kernel)
        moved: FloatArray = whole[reach : reach + self.at.size]
        return moved

    def inside(self, limit: float) -> FloatArray:
        """Which part of each cell lies between −limit and +limit."""
        share: FloatArray = np.clip((limit - np.abs(self.at)) / self.width + 0.5, 0.0, 1.0)
        return share

    def above(self, limit: float) -> FloatArray:
        """Which part of each cell lies above `limit`."""
        share: FloatArray = np.clip((self.at - limit) / self.width + 0.5, 0.0, 1.0)
        return share

    def mass(self, density: FloatArray) -> float:
        """Chance under a density."""
        return float(density.sum()) * self.width

    def limit(self, density: FloatArray, allowed: float) -> float:
        """Where both tails together hold so much."""
        half = self.at.size // 2
        both = density[half:] + density[half::-1]
        tails = np.cumsum(both[::-1])[::-1] * self.width  # beyond the lower edge of each cell
        edges = self.at[half:] - self.width / 2.0
        usable = tails > 1e-300
        logs = -np.log(tails[usable])
        return float(np.interp(-math.log(max(allowed, 1e-290)), logs, edges[usable]))


def _normal(away: FloatArray, variance: float) -> FloatArray:
    density: FloatArray = np.exp(-(away**2) / (2.0 * variance)) / math.sqrt(
        2.0 * math.pi * variance
    )
    return density


@dataclass(frozen=True)
class LooksCost:
    """What looks cost against reading once.

    Attributes
    ----------
    most : float
        Planned blocks as a multiple of those of one look with the same power.
    typical : float
        Mean blocks at which such a difference is told, as the same multiple.
    """

    most: float
    typical: float


@lru_cache(maxsize=256)
def looks_cost(error: float, looks: tuple[int, ...], power: float) -> LooksCost:
    """What looks at these blocks cost, for a difference that is told with this power.

    Source: Jennison & Turnbull, Group Sequential Methods, 2000, chapters 2 and 7.
    """
    if len(looks) == 1:
        return LooksCost(1.0, 1.0)
    nominal = nominal_errors(error, looks)
    once = float(special.ndtri(power) - special.ndtri(error / 2.0))

    def told(whole: float) -> tuple[float, float]:
        """Chance of being told, and mean share of the blocks until the end."""
        chance, mean, left = 0.0, 0.0, 1.0
        for blocks, leaves in _leaving(looks, nominal, whole / math.sqrt(looks[-1])):
            mean += blocks / looks[-1] * (left if blocks == looks[-1] else leaves)
            chance, left = chance + leaves, left - leaves
        return chance, mean

    whole = float(optimize.brentq(lambda w: told(w)[0] - power, once * 0.9, once * 2.0, xtol=1e-3))
    most = (whole / once) ** 2
    return LooksCost(most, most * told(whole)[1])


def _leaving(
    looks: Sequence[int], nominal: Sequence[float], drift: float
) -> Iterator[tuple[int, float]]:
    """At each look the chance to leave on the upper side for the first time."""
    grid = _Grid(looks, FINE)
    density = None
    for place, (blocks, error) in enumerate(zip(looks, nominal, strict=True)):
        density = grid.stepped(density, blocks, looks[place - 1] if place else 0, drift)
        if error <= 0.0:
            yield blocks, 0.0
            continue
        limit = -float(special.ndtri(error / 2.0)) * math.sqrt(blocks)
        yield blocks, grid.mass(density * grid.above(limit))
        density = density * grid.inside(limit)


@dataclass(frozen=True)
class Ended:
    """How a walk of looks ended, as far as its estimate needs it.

    Attributes
    ----------
    looks : tuple of int
        Blocks of the looks up to the last one taken.
    limits : tuple of float
        Half-width of the interval at each look, in its standard errors.
    margin : float
        In standard deviations of one block's difference, as `shift`: only beyond it a look ends.
    shift : float
        Estimated at the last look.
    """

    looks: tuple[int, ...]
    limits: tuple[float, ...]
    margin: float
    shift: float


@lru_cache(maxsize=4096)
def median_unbiased(ended: Ended) -> float:
    """The shift that lies above and below what was seen with equal chances, the looks counted in.

    Without it an early end reports too much: what was told early had the luck to look large.

    Notes
    -----
    Ends on the upper side come first in the order, the earlier the further up; a negative shift is
    turned round. Source: Tsiatis, Rosner & Mehta, Biometrics 40, 1984.
    """
    if ended.shift < 0.0:
        return -median_unbiased(Ended(ended.looks, ended.limits, ended.margin, -ended.shift))
    if len(ended.looks) == 1:
        return ended.shift
    grid, middle = _Grid(ended.looks, COARSE), ended.shift
    further = _further_up(ended, grid)

    def higher(shift: float) -> float:
        """Chance of an end further up than what was seen, beyond a half."""
        total = 0.0
        for blocks, part in further:
            tilt = np.exp((shift - middle) * grid.at - blocks * (shift**2 - middle**2) / 2.0)
            total += float((part * tilt).sum()) * grid.width
        return total - 0.5

    se = 1.0 / math.sqrt(ended.looks[0])
    low, high = middle - MOST_ERRORS_OFF * se, middle + MOST_ERRORS_OFF * se
    if higher(low) * higher(high) > 0.0:
        return middle
    return float(optimize.brentq(higher, low, high, xtol=1e-4))


def _further_up(ended: Ended, grid: _Grid) -> list[tuple[int, FloatArray]]:
    """For each look, the density of ends further up than what was seen, were it the truth."""
    density, found = None, []
    for place, (blocks, limit) in enumerate(zip(ended.looks, ended.limits, strict=True)):
        before = ended.looks[place - 1] if place else 0
        density = grid.stepped(density, blocks, before, ended.shift)
        if place == len(ended.looks) - 1:
            found.append((blocks, density * grid.above(ended.shift * blocks)))
            break
        reach = limit * math.sqrt(blocks) + ended.margin * blocks
        found.append((blocks, density * grid.above(reach)))
        density = density * grid.inside(reach)
    return found
