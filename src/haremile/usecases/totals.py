"""Totals of a study or over everything that was ever measured: several measures as one index."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from uuid import UUID

import numpy as np

from haremile.core.records.metrics import GoodEnd, metric, sheet_position
from haremile.core.records.procedures import PROCEDURES
from haremile.core.records.units import Scale, scale_for
from haremile.core.standing.arms import Arm, Question, comparable_arms
from haremile.core.standing.total import (
    Ends,
    Figure,
    Recipe,
    SystemTotal,
    Totals,
    metric_of,
    stored_reference,
    totals,
    totals_of_figures,
)
from haremile.core.statistics.validation import FloatArray
from haremile.core.wording.numbers import count
from haremile.core.wording.total import total_sentence
from haremile.errors import BadInputError, NotFoundError
from haremile.usecases.kept_standings import kept_standings
from haremile.usecases.ports import EverMeasured, WeightSet, WeightSets

MOST_PARTS = 30
FIRST_PARTS = 3


@dataclass(frozen=True)
class AskedTotals:
    """What is asked for.

    `study` is None for everything that was ever measured; `machine` None is the one with most
    readings of a study, and every one over all studies. A set's weights hold where none are given.
    """

    study: UUID | None = None
    machine: str | None = None
    weights: Mapping[str, float] = field(default_factory=dict)
    reference: str | None = None
    set_id: UUID | None = None
    ends: Ends | None = None


@dataclass(frozen=True)
class Measure:
    """What may enter a total; `systems` counts those that were measured."""

    part: str
    label: str
    systems: int


@dataclass(frozen=True)
class PartLine:
    """One part of a system's total; `points` are 100 at the reference."""

    part: str
    median: float
    ratio: float
    points: float
    share: float


@dataclass(frozen=True)
class TotalLine:
    """A system's index with its limits, None where a part is missing; `scaled` lies between the
    stated ends."""

    system: str
    index: float | None
    low: float | None
    high: float | None
    scaled: float | None
    parts: Sequence[PartLine]
    missing: Sequence[str]
    failed: int
    runs: int


@dataclass(frozen=True)
class TotalsPage:
    """The whole page; `figures` are the reference's, `scales` how figures of a part are written."""

    measures: Sequence[Measure]
    machines: Sequence[str]
    machine: str | None
    weights: Mapping[str, float]
    labels: Mapping[str, str]
    scales: Mapping[str, Scale]
    reference: str | None
    references: Sequence[str]
    figures: Mapping[str, float]
    is_stored: bool
    lines: Sequence[TotalLine]
    headline: str
    sentence: str
    sets: Sequence[WeightSet]
    ends: Ends | None


@dataclass(frozen=True)
class _Measured:
    """One part: readings of each system in a study, or pooled figures over all."""

    samples: Mapping[str, FloatArray]
    figures: Mapping[str, Figure]
    failed: Mapping[str, tuple[int, int]]
    machines: Sequence[str]


def part_of(question: Question) -> str:
    """The name of a part: metric, method, start and application."""
    return "|".join([question.metric, question.method, question.start, question.facet])


def totals_page(ever: EverMeasured, sets: WeightSets, asked: AskedTotals) -> TotalsPage:
    """Several measures as one index.

    Raises
    ------
    NotFoundError
        If a part that is asked for was never measured, or there is no such set.
    BadInputError
        If a weight is not positive, there are too many parts, or the reference lacks one.
    """
    kept = sets.all()
    chosen = _set(kept, asked.set_id)
    questions = {part_of(one): one for one in _possible(ever.questions())}
    weights = dict(asked.weights or (chosen.weights if chosen else {})) or _usual(questions)
    if len(weights) > MOST_PARTS:
        raise BadInputError(f"{len(weights)} parts; a total takes {MOST_PARTS} at most")
    for part in weights:
        if part not in questions:
            raise NotFoundError("readings of", part)
    measures = [_measure(one, questions) for one in questions.values()]
    ends = asked.ends or (chosen.ends if chosen else None)
    if not weights:
        return _empty(measures, kept, ends)
    recipe = Recipe(weights, {})
    found = {part: _measured(ever, questions[part], asked) for part in weights}
    references = _complete(found)
    stored = chosen if chosen and asked.reference in (None, chosen.reference) else None
    failed = {name: runs for one in found.values() for name, runs in one.failed.items()}
    name = asked.reference or (chosen.reference if chosen else None)
    if name is None and references:  # the best known
        name = max(references, key=lambda one: failed[one][1])
    own = _figures(found)
    figures = _reference(recipe, own, name, stored)
    result = _totals(recipe, figures, found, asked) if figures else None
    labels = {part: _label(questions[part]) for part in weights}
    return TotalsPage(
        measures=measures,
        machines=sorted({machine for one in found.values() for machine in one.machines}),
        machine=asked.machine,
        weights=weights,
        labels=labels,
        scales={part: _scale(part, own) for part in weights},
        reference=name if figures else None,
        references=references,
        figures=figures,
        is_stored=stored is not None and set(weights) <= set(stored.figures),
        lines=[_line(one, failed, ends) for one in result.systems] if result else (),
        headline=_headline(result),
        sentence=total_sentence(result, name or "", failed, labels, "runs")
        if result
        else "No system was measured in every one of these, so that there is no reference.",
        sets=kept,
        ends=ends,
    )


def _set(kept: Sequence[WeightSet], key: UUID | None) -> WeightSet | None:
    if key is None:
        return None
    found = next((one for one in kept if one.id == key), None)
    if found is None:
        raise NotFoundError("set of weights", key)
    return found


def _possible(questions: Sequence[Question]) -> list[Question]:
    told = [one for one in questions if metric(one.metric).good_end is not GoodEnd.NONE]
    return sorted(told, key=lambda q: (sheet_position(q.metric), q.start, q.facet, -q.systems))


def _usual(questions: Mapping[str, Question]) -> dict[str, float]:
    """The headline measures that most systems have, alike in weight."""
    heads = {one.headline for one in PROCEDURES.values() if not one.is_named}
    best: dict[str, Question] = {}
    for one in questions.values():
        known = best.get(one.metric)
        if one.metric in heads and (known is None or one.systems > known.systems):
            best[one.metric] = one
    ordered = sorted(best.values(), key=lambda one: -one.systems)
    return {part_of(one): 1.0 for one in ordered[:FIRST_PARTS]}


def _label(one: Question) -> str:
    known = metric(one.metric)
    return ", ".join(filter(None, [known.label, one.start.replace("-", " "), one.facet]))


def _measure(one: Question, questions: Mapping[str, Question]) -> Measure:
    alike = [
        other
        for other in questions.values()
        if (other.metric, other.start, other.facet) == (one.metric, one.start, one.facet)
    ]
    label = _label(one)
    if len(alike) > 1:
        label += f", {one.method.replace('-', ' ')}"
    return Measure(part_of(one), label, one.systems)


def _measured(ever: EverMeasured, question: Question, asked: AskedTotals) -> _Measured:
    arms = [arm for arm in ever.measured(question) if asked.study in (None, arm.study)]
    machines = list(dict.fromkeys(arm.machine for arm in arms))
    machine = asked.machine
    if machine is None and asked.study is not None and machines:
        machine = max(machines, key=lambda name: _readings_on(arms, name))
    arms = [arm for arm in arms if machine in (None, arm.machine)]
    failed: dict[str, tuple[int, int]] = {}
    for arm in arms:
        was = failed.get(arm.name, (0, 0))
        failed[arm.name] = (was[0] + arm.failed, was[1] + arm.runs)
    if asked.study is not None:
        samples = {arm.name: arm.values for arm in arms}
        figures = {name: Figure(float(np.median(own)), None, None) for name, own in samples.items()}
        return _Measured(samples, figures, failed, machines)
    chosen = comparable_arms(arms, question.metric)
    found = kept_standings(chosen.arms, metric(question.metric).good_end, machine)
    figures = {
        row.system: Figure(
            row.value,
            row.interval.low if row.interval else None,
            row.interval.high if row.interval else None,
        )
        for row in (found.rows if found else ())
    }
    return _Measured({}, figures, failed, machines)


def _readings_on(arms: Sequence[Arm], machine: str) -> int:
    return sum(len(arm.values) for arm in arms if arm.machine == machine)


def _figures(found: Mapping[str, _Measured]) -> dict[str, dict[str, Figure]]:
    """Figures by system and part."""
    own: dict[str, dict[str, Figure]] = {}
    for part, one in found.items():
        for name, figure in one.figures.items():
            own.setdefault(name, {})[part] = figure
    return own


def _complete(found: Mapping[str, _Measured]) -> list[str]:
    """Those that have every part."""
    own = _figures(found)
    return sorted(name for name, parts in own.items() if len(parts) == len(found))


def _reference(
    recipe: Recipe,
    own: Mapping[str, Mapping[str, Figure]],
    name: str | None,
    stored: WeightSet | None,
) -> dict[str, float]:
    """The figures that are 100: those that were stored, else the named system's own."""
    kept = dict(stored.figures) if stored else {}
    lacking = [part for part in recipe.weights if part not in kept]
    if not lacking:
        return {part: kept[part] for part in recipe.weights}
    if name is None:
        return {}
    if name not in own:
        raise BadInputError(f"the reference {name} was not measured in any of these")
    samples = {part: np.array([figure.value]) for part, figure in own[name].items()}
    return stored_reference(recipe, samples, name) | {
        part: value for part, value in kept.items() if part in recipe.weights
    }


def _totals(
    recipe: Recipe,
    figures: Mapping[str, float],
    found: Mapping[str, _Measured],
    asked: AskedTotals,
) -> Totals:
    if asked.study is None:
        return totals_of_figures(recipe, figures, _figures(found))
    readings: dict[str, dict[str, FloatArray]] = {}
    for part, one in found.items():
        for name, values in one.samples.items():
            readings.setdefault(name, {})[part] = values
    return totals(recipe, figures, readings)


def _scale(part: str, own: Mapping[str, Mapping[str, Figure]]) -> Scale:
    known = metric_of(part)
    values = [parts[part].value for parts in own.values() if part in parts]
    return scale_for(known.unit, float(np.median(values)) if values else 1.0, known.is_exact)


def _line(one: SystemTotal, failed: Mapping[str, tuple[int, int]], ends: Ends | None) -> TotalLine:
    limits = one.interval.interval if one.interval else None
    whole = sum(part.weight for part in one.parts)
    runs = failed.get(one.system, (0, 0))
    return TotalLine(
        system=one.system,
        index=one.total,
        low=limits.low if limits else None,
        high=limits.high if limits else None,
        scaled=ends.scaled(one.total) if ends and one.total is not None else None,
        parts=[
            PartLine(part.metric, part.median, part.ratio, part.points, part.weight / whole)
            for part in one.parts
        ],
        missing=one.missing,
        failed=runs[0],
        runs=runs[1],
    )


def _headline(found: Totals | None) -> str:
    complete = [one for one in found.systems if one.total is not None] if found else []
    if not complete:
        return "No index yet"
    first, rest = complete[0], complete[1:]
    if not rest:
        return f"{first.system} alone so far"
    near = [
        one
        for one in rest
        if first.interval is None
        or one.interval is None
        or one.interval.interval.high >= first.interval.interval.low
    ]
    if near:
        return f"Undecided: {first.system} or {count(len(near), 'other')}"
    return f"{first.system} leads with {first.total:.0f}"


def _empty(measures: Sequence[Measure], kept: Sequence[WeightSet], ends: Ends | None) -> TotalsPage:
    return TotalsPage(
        measures,
        (),
        None,
        {},
        {},
        {},
        None,
        (),
        {},
        False,
        (),
        "Nothing was measured yet",
        "An index needs one measured system at least.",
        kept,
        ends,
    )


def kept_set(ever: EverMeasured, sets: WeightSets, asked: AskedTotals, name: str, use: str) -> UUID:
    """Keep the weights that are asked for under a name, with the reference as it is now.

    Raises
    ------
    BadInputError
        If there is no reference to be stored.
    """
    page = totals_page(ever, sets, asked)
    if page.reference is None:
        raise BadInputError("a set keeps the reference that is 100; there is none yet")
    return sets.keep(WeightSet(name, use, page.weights, page.reference, page.figures, page.ends))
