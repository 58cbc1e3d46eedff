"""A total out of a stored reference: weighted geometric mean of ratios."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from haremile.core.records.metrics import GoodEnd, Metric, metric
from haremile.core.statistics.lane_statistics import Interval
from haremile.core.statistics.resampling import (
    RESAMPLES,
    BootstrapInterval,
    Statistic,
    bootstrap_interval,
)
from haremile.core.statistics.validation import FloatArray, as_sample
from haremile.errors import BadInputError

SCALE = 100.0
POOLED = "pooled"
"""How the interval of a total over studies came about."""


def metric_of(part: str) -> Metric:
    """The metric of a part. Raises UnknownMetricError."""
    return metric(part.partition("|")[0])


@dataclass(frozen=True)
class Recipe:
    """What a total is made of.

    Attributes
    ----------
    weights : mapping of part to weight
        Positive; only their proportions matter. A part is a metric key, or what begins with one
        and ``|``: cold and warm are parts of their own.
    floors : mapping of part to amount
        Canonical unit: medians below it count as the floor. A metric that can be zero enters by
        a floor or not at all.

    Raises
    ------
    BadInputError
        If there is no weight, one is not positive, or a metric has no good end.
    """

    weights: Mapping[str, float]
    floors: Mapping[str, float]

    def __post_init__(self) -> None:
        if not self.weights:
            raise BadInputError("a total needs one weighted metric at least")
        for what, sizes in (("weight", self.weights), ("floor", self.floors)):
            for key, size in sizes.items():
                if not 0.0 < size < math.inf:
                    raise BadInputError(f"the {what} of {key} must be positive, not {size}")
        for key in self.weights:
            if metric_of(key).good_end is GoodEnd.NONE:
                raise BadInputError(f"{key} has no good end; it cannot enter a total")
        for key in self.floors:
            if key not in self.weights:
                raise BadInputError(f"a floor is stated for {key}, which has no weight")

    def sign(self, key: str) -> float:
        """−1 where less is better, +1 where more is."""
        return -1.0 if metric_of(key).good_end is GoodEnd.LOW else 1.0

    def median(self, key: str, values: FloatArray) -> float:
        """A system's figure in a metric, shape (n,) to one number, floored.

        Raises
        ------
        BadInputError
            If it is not positive.
        """
        found = max(float(np.median(values)), self.floors.get(key, -math.inf))
        if found <= 0.0:
            raise BadInputError(
                f"the median of {key} is {found:g}; a ratio needs a floor above zero"
            )
        return found


@dataclass(frozen=True)
class Part:
    """One metric in a system's total; `points` is 100 at the reference, more is better."""

    metric: str
    weight: float
    median: float
    ratio: float
    points: float


@dataclass(frozen=True)
class SystemTotal:
    """A system's total, 100 at the reference; None where metrics are `missing`: not read, or mostly
    timed out."""

    system: str
    total: float | None
    interval: BootstrapInterval | None
    parts: tuple[Part, ...]
    missing: tuple[str, ...]


@dataclass(frozen=True)
class Turn:
    """If the weight of `metric` were beyond `weight`, `leader` would lead.

    `side` is ``above`` or ``below``; a weight of 0 leaves the metric out.
    """

    metric: str
    weight: float
    side: str
    leader: str


@dataclass(frozen=True)
class Totals:
    """All systems in order, best first; those with missing metrics last."""

    reference: Mapping[str, float]
    systems: tuple[SystemTotal, ...]
    turns: tuple[Turn, ...]

    @property
    def leader(self) -> str | None:
        """The system with the highest total."""
        return next((s.system for s in self.systems if s.total is not None), None)


Readings = Mapping[str, Mapping[str, Sequence[float] | FloatArray]]


def stored_reference(
    recipe: Recipe, readings: Mapping[str, FloatArray], name: str
) -> dict[str, float]:
    """The medians of a named system, to be kept; ratios are taken to these numbers.

    Raises
    ------
    BadInputError
        If it lacks a metric.
    """
    missing = [key for key in recipe.weights if key not in readings]
    if missing:
        raise BadInputError(f"the reference {name} has no readings of {', '.join(missing)}")
    return {key: recipe.median(key, as_sample(readings[key], key)) for key in recipe.weights}


def totals(
    recipe: Recipe,
    reference: Mapping[str, float],
    systems: Readings,
    level: float = 0.95,
    seed: int = 0,
    resamples: int = RESAMPLES,
) -> Totals:
    """Calculate every system's total against a stored reference.

    Parameters
    ----------
    recipe : Recipe
    reference : mapping of metric key to its stored median, canonical unit
    systems : mapping of system to its readings by metric key, shapes (n,), canonical units
    level : float
        Of the BCa intervals; the reference is held fixed.

    Notes
    -----
    total = 100·exp(Σ w·s·log(median / reference) / Σ w), s = −1 where less is better. Readings of
    different metrics are resampled independently. Source: Fleming & Wallace, Communications of
    the ACM 29, 1986; the interval as in `bootstrap_interval`.
    """
    found = [
        _system(recipe, reference, name, own, (level, seed, resamples))
        for name, own in systems.items()
    ]
    return _in_order(recipe, reference, found)


def _in_order(
    recipe: Recipe, reference: Mapping[str, float], found: Sequence[SystemTotal]
) -> Totals:
    """The best first, those without a total last."""
    ordered = sorted(found, key=lambda one: -math.inf if one.total is None else -one.total)
    ordered.sort(key=lambda one: one.total is None)
    return Totals(dict(reference), tuple(ordered), _turns(recipe, ordered))


@dataclass(frozen=True)
class Figure:
    """A figure with its interval, canonical unit; the interval is None where it is not known."""

    value: float
    low: float | None
    high: float | None


def totals_of_figures(
    recipe: Recipe,
    reference: Mapping[str, float],
    systems: Mapping[str, Mapping[str, Figure]],
    level: float = 0.95,
) -> Totals:
    """As `totals`, of figures that were pooled over studies before.

    Notes
    -----
    Parts come from different readings: the half-widths of their intervals, as logarithms, are added
    as squares with the weights squared. Where one is not known, the total has none.
    """
    whole = math.fsum(recipe.weights.values())
    found = []
    for name, own in systems.items():
        missing = tuple(key for key in recipe.weights if key not in own)
        parts = tuple(
            _part(recipe, key, own[key].value, reference[key])
            for key in recipe.weights
            if key in own
        )
        if missing:
            found.append(SystemTotal(name, None, None, parts, missing))
            continue
        total = _composite(parts)
        halves = [_half(own[key]) for key in recipe.weights]
        known = [half for half in halves if half is not None]
        shares = [weight / whole for weight in recipe.weights.values()]
        interval = None
        if len(known) == len(halves):
            half = math.sqrt(math.fsum((s * h) ** 2 for s, h in zip(shares, known, strict=True)))
            limits = Interval(total * math.exp(-half), total * math.exp(half), level)
            interval = BootstrapInterval(total, limits, POOLED)
        found.append(SystemTotal(name, total, interval, parts, ()))
    return _in_order(recipe, reference, found)


def _half(figure: Figure) -> float | None:
    """Half the width of an interval, as a logarithm."""
    if figure.low is None or figure.high is None:
        return None
    return math.log(figure.high / figure.low) / 2.0


@dataclass(frozen=True)
class Ends:
    """The totals that stand for 0 and for 100 where a total is to lie between them.

    Raises
    ------
    BadInputError
        If the upper is not above the lower.
    """

    nothing: float
    all: float

    def __post_init__(self) -> None:
        if not 0.0 <= self.nothing < self.all < math.inf:
            raise BadInputError(
                f"0 for {self.nothing:g} and 100 for {self.all:g}; the second must be greater"
            )

    def scaled(self, total: float) -> float:
        """A total between the ends; beyond them it stays at 0 or 100."""
        share = (total - self.nothing) / (self.all - self.nothing)
        return SCALE * min(max(share, 0.0), 1.0)


def _system(
    recipe: Recipe,
    reference: Mapping[str, float],
    name: str,
    own: Mapping[str, Sequence[float] | FloatArray],
    how: tuple[float, int, int],
) -> SystemTotal:
    samples = {
        key: as_sample(own[key], key)
        for key in recipe.weights
        if key in own and math.isfinite(float(np.median(own[key])))
    }
    missing = tuple(key for key in recipe.weights if key not in samples)
    parts = tuple(
        _part(recipe, key, recipe.median(key, sample), reference[key])
        for key, sample in samples.items()
    )
    if missing:
        return SystemTotal(name, None, None, parts, missing)
    level, seed, resamples = how
    interval = bootstrap_interval(
        list(samples.values()), _statistic(recipe, reference), level, resamples, seed
    )
    return SystemTotal(name, _composite(parts), interval, parts, ())


def _part(recipe: Recipe, key: str, median: float, reference: float) -> Part:
    ratio = median / reference
    return Part(key, recipe.weights[key], median, ratio, SCALE * ratio ** recipe.sign(key))


def _composite(parts: Sequence[Part]) -> float:
    weight = math.fsum(part.weight for part in parts)
    logs = math.fsum(part.weight * math.log(part.points / SCALE) for part in parts)
    return SCALE * math.exp(logs / weight)


def _statistic(recipe: Recipe, reference: Mapping[str, float]) -> Statistic:
    keys = list(recipe.weights)
    whole = math.fsum(recipe.weights.values())

    def composite(*rows: FloatArray) -> FloatArray:
        logs = np.zeros(len(rows[0]))
        for key, drawn in zip(keys, rows, strict=True):
            middle = np.median(drawn, axis=1)
            if key in recipe.floors:
                middle = np.maximum(middle, recipe.floors[key])
            if middle.min() <= 0.0:
                raise BadInputError(f"readings of {key} reach zero; state a floor for it")
            logs += recipe.weights[key] * recipe.sign(key) * np.log(middle / reference[key])
        found: FloatArray = SCALE * np.exp(logs / whole)
        return found

    return composite


def _turns(recipe: Recipe, ordered: Sequence[SystemTotal]) -> tuple[Turn, ...]:
    """For each metric the nearest weights below and above at which another system leads."""
    complete = [one for one in ordered if one.total is not None]
    if len(complete) < 2:
        return ()
    leader, rest = complete[0], complete[1:]
    turns = []
    for key, weight in recipe.weights.items():
        crossings = [
            (*found, other.system)
            for other in rest
            if (found := _tie(leader, other, key)) is not None and found[0] >= 0.0
        ]
        below = [(at, name) for at, side, name in crossings if side == "below" and at <= weight]
        above = [(at, name) for at, side, name in crossings if side == "above" and at >= weight]
        if below:
            at, name = max(below)
            turns.append(Turn(key, at, "below", name))
        if above:
            at, name = min(above)
            turns.append(Turn(key, at, "above", name))
    return tuple(turns)


def _tie(leader: SystemTotal, other: SystemTotal, key: str) -> tuple[float, str] | None:
    """The weight of `key` at which both totals are equal, all other weights as they are, and on
    which side of it the other leads."""
    own = fixed = 0.0
    for mine, theirs in zip(leader.parts, other.parts, strict=True):
        gap = math.log(theirs.points / mine.points)
        if mine.metric == key:
            own = gap
        else:
            fixed += mine.weight * gap
    # above zero the other leads: fixed + w·own
    return None if own == 0.0 else (-fixed / own, "above" if own > 0.0 else "below")
