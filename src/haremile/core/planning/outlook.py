"""What a plan will be able to tell, from the scatter of readings that are there already."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from haremile.core.planning.repeats import leader_difference, plan_repeats, smallest_difference
from haremile.core.planning.scatter import Scatter, scatter_of
from haremile.core.records.margin import Margin

POWER = 0.9
LEAST_FOR_A_TAIL = 40
"""Readings below which nothing is concluded from their skewness."""

LEAST_FREE = 3
"""Degrees of freedom below which a scatter is not relied on."""


@dataclass(frozen=True)
class PastReadings:
    """Readings of one measure on one machine: of each install its number, mean, variance and third
    central moment."""

    metric: str
    method: str
    machine: str
    groups: Sequence[tuple[int, float, float, float]]

    @property
    def free(self) -> int:
        """Degrees of freedom of the pooled variance."""
        return sum(n - 1 for n, *_ in self.groups)

    @property
    def readings(self) -> int:
        """How many readings in all."""
        return sum(n for n, *_ in self.groups)

    def spread(self) -> float:
        """Pooled standard deviation within installs, in the unit of the readings."""
        pooled = sum((n - 1) * variance for n, _, variance, _ in self.groups)
        return math.sqrt(pooled / self.free) if self.free else 0.0

    def scatter(self) -> Scatter:
        """The pooled scatter within installs: normal, unless enough readings show a tail."""
        sd = self.spread()
        if self.readings < LEAST_FOR_A_TAIL:
            return Scatter(sd)
        third = sum(n * moment for n, _, _, moment in self.groups) / self.readings
        return scatter_of(sd, third)

    def typical(self) -> float:
        """The mean over all readings."""
        return sum(n * mean for n, mean, *_ in self.groups) / self.readings


@dataclass(frozen=True)
class MeasureOutlook:
    """What a plan tells of one measure on one machine.

    Attributes
    ----------
    spread, margin : float or None
        In the canonical unit; the spread is None where too few readings are there.
    readings, installs : int
        What the spread was taken from.
    smallest : float or None
        The smallest true difference that is called with `POWER`; None where so few repeats can
        never be enough, or the spread is not known.
    leader : float or None
        How far a leader has to lie from every other to be told from all at once with `POWER`.
    level_repeats : int or None
        Repeats by which no difference at all is called level with `POWER`; None for never, or
        where the spread is not known.
    """

    metric: str
    machine: str
    method: str
    spread: float | None
    typical: float | None
    margin: float | None
    readings: int
    installs: int
    smallest: float | None
    leader: float | None
    level_repeats: int | None


def measure_outlook(
    past: PastReadings, margin: Margin, repeats: int, contenders: int, looks: int
) -> MeasureOutlook:
    """What so many repeats of so many contenders will tell of a measure.

    Notes
    -----
    As `smallest_difference`, `leader_difference` and `plan_repeats`.
    """
    typical = past.typical() if past.readings else None
    width = margin.width(typical or 0.0) or None
    spread = past.spread() if past.free >= LEAST_FREE else None
    smallest = leader = level = None
    if spread is not None and width is not None and contenders > 1:
        if spread == 0.0:
            smallest, leader, level = width, width, repeats
        else:
            tail = past.scatter().tail
            shape = (spread, width, repeats, POWER, contenders, looks, tail)
            smallest, leader = smallest_difference(*shape), leader_difference(*shape)
            level = plan_repeats(spread, width, 0.0, POWER, contenders, looks, tail).repeats
    return MeasureOutlook(
        past.metric,
        past.machine,
        past.method,
        spread,
        typical,
        width,
        past.readings,
        len(past.groups),
        smallest,
        leader,
        level,
    )
