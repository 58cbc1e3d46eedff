"""Series: an edition over its releases, and an install over the months."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

import numpy as np

from haremile.core.records.margin import Margin
from haremile.core.standing.network import reach_of
from haremile.core.standing.standings import Layout, Limits
from haremile.core.statistics.validation import FloatArray

LEVEL = 0.95
FEWEST_CALM = 5
LIMIT = 3.0
TO_SIGMA = 1.128
"""Mean of the range of two, in standard deviations (Shewhart's charts for single values)."""
MONTH_S = 30.4375 * 86400.0


class Change(StrEnum):
    """What a step comes to, against the margin that matters."""

    MORE = "more"
    LESS = "less"
    LEVEL = "level"
    UNDECIDED = "undecided"


@dataclass(frozen=True)
class Step:
    """One release against the one before it; ratios, the interval None where it is not known."""

    before: str
    after: str
    ratio: float
    low: float | None
    high: float | None
    change: Change


@dataclass(frozen=True)
class Slope:
    """How much a figure changes by release or by month, as a ratio with its interval."""

    ratio: float
    low: float
    high: float


@dataclass(frozen=True)
class ReleaseSeries:
    """An edition over its releases, the oldest first; figures are at the level of the list, and
    their limits None where they are not known."""

    names: tuple[str, ...]
    figures: tuple[float, ...]
    limits: tuple[Limits | None, ...]
    steps: tuple[Step, ...]
    slope: Slope | None


def release_series(
    laid: Layout, names: Sequence[str], margin: Margin, level: float = LEVEL
) -> ReleaseSeries:
    """Follow an edition over its releases.

    Parameters
    ----------
    laid : Layout
        That holds all of them.
    names : sequence of str
        The releases, the oldest first; at least two.
    margin : Margin
        A step beyond it matters.

    Notes
    -----
    The error is shared out over all steps. The slope is that of a straight line through the
    logarithms, one release a step, with the covariance of the list.
    """
    at = [laid.names.index(name) for name in names]
    effects = laid.effects[at]
    covariance = laid.covariance[np.ix_(at, at)]
    figures = np.exp(laid.level + effects)
    is_known = laid.degrees is not None or (laid.net is not None and len(laid.net.bases) == 1)
    reach = reach_of(laid.degrees, 1.0 - (1.0 - level) / (len(at) - 1))
    steps = []
    for place in range(1, len(at)):
        gap = float(effects[place] - effects[place - 1])
        half = _error(covariance, _contrast(len(at), place)) * reach if is_known else None
        wide = margin.width(float(figures[place - 1])) / float(figures[place - 1])
        steps.append(
            Step(
                names[place - 1],
                names[place],
                math.exp(gap),
                None if half is None else math.exp(gap - half),
                None if half is None else math.exp(gap + half),
                _change(gap, half, wide),
            )
        )
    own = reach_of(laid.degrees, level) * np.sqrt(np.maximum(np.diag(covariance), 0.0))
    limits = [
        Limits(float(figure * math.exp(-half)), float(figure * math.exp(half)))
        for figure, half in zip(figures, own, strict=True)
    ]
    slope = _slope(effects, covariance, laid.degrees, level) if is_known and len(at) > 2 else None
    return ReleaseSeries(
        tuple(names),
        tuple(float(one) for one in figures),
        tuple(limits) if is_known else (None,) * len(at),
        tuple(steps),
        slope,
    )


def _contrast(count: int, place: int) -> FloatArray:
    found = np.zeros(count)
    found[place], found[place - 1] = 1.0, -1.0
    return found


def _error(covariance: FloatArray, contrast: FloatArray) -> float:
    return math.sqrt(max(float(contrast @ covariance @ contrast), 0.0))


def _change(gap: float, half: float | None, margin: float) -> Change:
    """Against the margin, a share of the figure before."""
    if half is None:
        return Change.UNDECIDED
    low, high = math.expm1(gap - half), math.expm1(gap + half)
    if low > margin:
        return Change.MORE
    if high < -margin:
        return Change.LESS
    return Change.LEVEL if -margin < low and high < margin else Change.UNDECIDED


def _slope(
    effects: FloatArray, covariance: FloatArray, degrees: float | None, level: float
) -> Slope:
    along = np.arange(len(effects), dtype=np.float64)
    along -= along.mean()
    contrast = along / float(along @ along)
    value = float(contrast @ effects)
    half = _error(covariance, contrast) * reach_of(degrees, level)
    return Slope(math.exp(value), math.exp(value - half), math.exp(value + half))


@dataclass(frozen=True)
class Stretch:
    """Readings of an install that belong together: of one study and month; canonical unit."""

    at: datetime
    values: FloatArray

    @property
    def median(self) -> float:
        """Of its readings."""
        return float(np.median(self.values))


@dataclass(frozen=True)
class Break:
    """What changed on the machine or the install, and when."""

    at: datetime
    what: str


@dataclass(frozen=True)
class Drift:
    """An install over the months.

    Attributes
    ----------
    medians : tuple of float
        Shape (n,), in order of time.
    centre, low, high : float or None
        Control limits from the calm stretch before the first break; None below five points.
    beyond : tuple of int
        Positions beyond the limits.
    needed : int
        How many points are still needed for limits.
    slope : Slope or None
        By month; None below three points.
    """

    medians: tuple[float, ...]
    centre: float | None
    low: float | None
    high: float | None
    beyond: tuple[int, ...]
    needed: int
    slope: Slope | None


def drift(
    stretches: Sequence[Stretch], breaks: Sequence[Break] = (), level: float = LEVEL
) -> Drift:
    """Watch a reference install for drift.

    Parameters
    ----------
    stretches : sequence of Stretch
        In order of time, at least one; positive readings.
    breaks : sequence of Break
        The calm stretch ends at the first of them that has five points before it, or five after.

    Notes
    -----
    Limits are three standard deviations from the mean of the calm stretch, by the mean moving
    range of its medians (Shewhart, 1931). The slope is of a straight line through the logarithms
    of the medians over time, all alike in weight, with Student's t.
    """
    medians = np.array([one.median for one in stretches])
    calm = _calm(stretches, breaks)
    slope = _by_month(stretches, medians, level)
    if len(calm) < FEWEST_CALM:
        return Drift(
            tuple(map(float, medians)), None, None, None, (), FEWEST_CALM - len(calm), slope
        )
    own = medians[calm]
    centre = float(own.mean())
    wide = LIMIT * float(np.abs(np.diff(own)).mean()) / TO_SIGMA
    beyond = np.flatnonzero(np.abs(medians - centre) > wide)
    return Drift(
        tuple(map(float, medians)),
        centre,
        centre - wide,
        centre + wide,
        tuple(int(at) for at in beyond),
        0,
        slope,
    )


def _calm(stretches: Sequence[Stretch], breaks: Sequence[Break]) -> list[int]:
    """Positions of the first stretch between breaks that has points enough, else of the longest."""
    marks = sorted(one.at for one in breaks)
    runs: dict[int, list[int]] = {}
    for position, one in enumerate(stretches):
        runs.setdefault(sum(mark <= one.at for mark in marks), []).append(position)
    enough = [own for own in runs.values() if len(own) >= FEWEST_CALM]
    return enough[0] if enough else max(runs.values(), key=len)


def _by_month(stretches: Sequence[Stretch], medians: FloatArray, level: float) -> Slope | None:
    months = np.array([one.at.timestamp() / MONTH_S for one in stretches])
    if len(months) < 3 or float(np.ptp(months)) == 0.0:
        return None
    months -= months.mean()
    logs = np.log(medians)
    square = float(months @ months)
    value = float(months @ logs) / square
    rest = logs - logs.mean() - value * months
    error = math.sqrt(float(rest @ rest) / (len(months) - 2) / square)
    half = error * reach_of(float(len(months) - 2), level)
    return Slope(math.exp(value), math.exp(value - half), math.exp(value + half))
