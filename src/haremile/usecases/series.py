"""Series: an edition over its releases, an install over the months on one machine."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from itertools import pairwise
from uuid import UUID

import numpy as np

from haremile.core.records.library import Noun, Thing
from haremile.core.records.metrics import Metric, metric
from haremile.core.records.units import Scale, scale_for
from haremile.core.standing.arms import Question, comparable_arms
from haremile.core.standing.series import (
    Break,
    Change,
    Drift,
    ReleaseSeries,
    Stretch,
    drift,
    release_series,
)
from haremile.core.standing.standings import Limits, layout
from haremile.core.wording.difference import margin_text
from haremile.core.wording.numbers import direction, listed
from haremile.errors import NotFoundError
from haremile.usecases.ports import EverMeasured, Things
from haremile.usecases.standings import (
    QuestionLine,
    chosen_question,
    ordered_questions,
    question_line,
    release_key,
)

HARDWARE = ("cores", "memory", "storage", "firmware", "graphics")
"""Facts of a machine whose change breaks a series on it."""


@dataclass(frozen=True)
class SeriesKey:
    """A series that can be shown: of an edition's releases, or of an install."""

    kind: str
    key: str
    label: str


@dataclass(frozen=True)
class ReleaseLine:
    """One release; `change` and the ratio are against the one before it."""

    system: str
    figure: float
    limits: Limits | None
    ratio: float | None
    low: float | None
    high: float | None
    change: Change | None


@dataclass(frozen=True)
class MonthLine:
    """One stretch of an install: of one study in one month."""

    at: datetime
    study: UUID
    median: float
    readings: int
    is_beyond: bool


@dataclass(frozen=True)
class SeriesPage:
    """The whole page; one of both series is empty."""

    questions: Sequence[QuestionLine]
    question: QuestionLine | None
    keys: Sequence[SeriesKey]
    chosen: SeriesKey | None
    scale: Scale | None
    headline: str
    sentence: str
    releases: Sequence[ReleaseLine]
    months: Sequence[MonthLine]
    breaks: Sequence[Break]
    watched: Drift | None


@dataclass(frozen=True)
class AskedSeries:
    """Which question, and which series of it; the first where it is None."""

    metric: str | None = None
    method: str | None = None
    start: str | None = None
    facet: str | None = None
    series: str | None = None


def series_page(ever: EverMeasured, things: Things, asked: AskedSeries) -> SeriesPage:
    """One series.

    Raises
    ------
    NotFoundError
        If nobody measured what is asked for, or there is no such series.
    """
    every = ordered_questions(ever.questions())
    question = chosen_question(every, asked.metric, asked.method, asked.start, asked.facet)
    lines = [question_line(one) for one in every]
    if question is None:
        return _nothing(lines, None, "Nothing was measured yet")
    known = metric(question.metric)
    comparable = comparable_arms(ever.measured(question), known.key)
    library = {one.name: one for one in things.all(Noun.SYSTEM)}
    laid = layout(comparable.arms) if comparable.arms else None
    editions = _editions(laid.names if laid else (), library)
    installs = {
        f"{machine}|{system}|{install}": (machine, system, install)
        for machine, system, install in ever.installs(question)
    }
    keys = [SeriesKey("releases", key, f"releases of {key}") for key in editions]
    keys += [
        SeriesKey("install", key, f"{', '.join(filter(None, own[1:]))} on {own[0]}")
        for key, own in installs.items()
    ]
    chosen = _chosen(keys, asked.series)
    if chosen is None:
        return _nothing(lines, question_line(question), "No series yet")
    if chosen.kind == "releases" and laid is not None:
        found = release_series(laid, editions[chosen.key], known.margin)
        return _of_releases(lines, question, keys, chosen, known, found)
    return _of_install(ever, things, (lines, question, keys, chosen, known), installs[chosen.key])


def _chosen(keys: Sequence[SeriesKey], asked: str | None) -> SeriesKey | None:
    if asked is None:
        return keys[0] if keys else None
    found = next((one for one in keys if one.key == asked), None)
    if found is None:
        raise NotFoundError("series", asked)
    return found


def _editions(names: Sequence[str], library: Mapping[str, Thing]) -> dict[str, list[str]]:
    """Releases by edition, the oldest first; of those that have two at least."""
    found: dict[str, list[tuple[tuple[tuple[int, ...], bool], str]]] = defaultdict(list)
    for name in names:
        own = library[name].identity if name in library else {}
        release, maker = own.get("release"), own.get("distribution")
        if release and maker:
            found[" ".join(filter(None, [maker, own.get("edition")]))].append(
                (release_key(release), name)
            )
    return {
        key: [name for _, name in sorted(members)]
        for key, members in sorted(found.items())
        if len(members) > 1
    }


def _of_releases(
    lines: Sequence[QuestionLine],
    question: Question,
    keys: Sequence[SeriesKey],
    chosen: SeriesKey,
    known: Metric,
    found: ReleaseSeries,
) -> SeriesPage:
    steps = [None, *found.steps]
    told = [
        ReleaseLine(
            name,
            figure,
            limits,
            step.ratio if step else None,
            step.low if step else None,
            step.high if step else None,
            step.change if step else None,
        )
        for name, figure, limits, step in zip(
            found.names, found.figures, found.limits, steps, strict=True
        )
    ]
    margin = margin_text(known.margin, known.unit)
    headline = _release_headline(found, known, margin)
    sentence = f"The margin that matters is {margin}."
    if found.slope is not None:
        one = found.slope
        sentence = (
            f"From release to release it is typically {_percent(one.ratio)} "
            f"({_percent(one.low)} to {_percent(one.high)}). {sentence}"
        )
    scale = scale_for(known.unit, float(np.median(found.figures)), known.is_exact)
    return SeriesPage(
        lines,
        question_line(question),
        keys,
        chosen,
        scale,
        headline,
        sentence,
        told,
        (),
        (),
        None,
    )


def _release_headline(found: ReleaseSeries, known: Metric, margin: str) -> str:
    """The newest step that matters; else where it goes; else what is not known."""
    decided = [step for step in found.steps if step.change in (Change.MORE, Change.LESS)]
    if decided:
        last = decided[-1]
        size = f"{abs(last.ratio - 1) * 100:.0f} % {direction(known, last.ratio - 1)}"
        return f"{last.after}: {size} than {last.before}"
    slope = found.slope
    if slope is not None and not slope.low <= 1.0 <= slope.high:
        size = f"{abs(slope.ratio - 1) * 100:.1f} % {direction(known, slope.ratio - 1)}"
        return f"{size} from release to release"
    if all(step.change is Change.LEVEL for step in found.steps):
        return f"No release changed by more than {margin}"
    return "Undecided whether any release changed it"


def _percent(ratio: float) -> str:
    share = (ratio - 1.0) * 100.0
    text = f"{abs(share):.1f}" if abs(share) >= 1.0 else f"{abs(share):.2f}"
    return f"{'−' if share < 0 else '+'}{text} %"


_Asked = tuple[Sequence[QuestionLine], Question, Sequence[SeriesKey], SeriesKey, Metric]


def _of_install(
    ever: EverMeasured, things: Things, asked: _Asked, own: tuple[str, str, str]
) -> SeriesPage:
    lines, question, keys, chosen, known = asked
    months: dict[tuple[UUID, int, int], list[tuple[datetime, float]]] = defaultdict(list)
    for study, at, value in ever.dated(question, *own):
        if value > 0.0:
            months[study, at.year, at.month].append((at, value))
    ordered = sorted(months.items(), key=lambda item: item[1][0][0])
    if not ordered:
        return _nothing(lines, question_line(question), "Nothing to follow: it reads zero")
    stretches = [
        Stretch(readings[0][0], np.array([value for _, value in readings]))
        for _, readings in ordered
    ]
    breaks = _breaks(things, own)
    found = drift(stretches, breaks)
    told = [
        MonthLine(one.at, key[0], one.median, len(one.values), at in found.beyond)
        for at, ((key, _), one) in enumerate(zip(ordered, stretches, strict=True))
    ]
    return SeriesPage(
        lines,
        question_line(question),
        keys,
        chosen,
        scale_for(known.unit, float(np.median(found.medians)), known.is_exact),
        _drift_headline(found, told),
        _drift_sentence(found, known),
        (),
        told,
        breaks,
        found,
    )


def _drift_headline(found: Drift, told: Sequence[MonthLine]) -> str:
    if found.centre is None:
        more = "month" if found.needed == 1 else "months"
        return f"{found.needed} more {more} until drift can be told"
    beyond = [f"{one.at:%B %Y}" for one in told if one.is_beyond]
    if not beyond:
        return "Within its limits in every month"
    return f"Beyond its limits in {listed(list(dict.fromkeys(beyond)))}"


def _drift_sentence(found: Drift, known: Metric) -> str:
    parts = []
    if found.slope is not None:
        one = found.slope
        is_flat = one.low <= 1.0 <= one.high
        parts.append(
            f"By month it changes by {_percent(one.ratio)} ({_percent(one.low)} to "
            f"{_percent(one.high)}){': no trend is shown' if is_flat else ''}."
        )
    if found.centre is not None:
        parts.append("Limits are three standard deviations of the calm months.")
    return " ".join(parts) or f"{known.label}, month after month."


def _breaks(things: Things, own: tuple[str, str, str]) -> list[Break]:
    """What changed on the machine and of the install, the oldest first."""
    machine = next((one for one in things.all(Noun.MACHINE) if one.name == own[0]), None)
    if machine is None:
        return []
    found = []
    for key in HARDWARE:
        stated = [fact for fact in machine.facts if fact.key == key][::-1]
        for before, after in pairwise(stated):
            if after.value is not None and before.value != after.value:
                on = after.source.on
                at = datetime(on.year, on.month, on.day, tzinfo=UTC) if on else after.at
                found.append(Break(at, f"{key}: {before.value} to {after.value}"))
    for history in things.installs_of(machine.id):
        install = history.install
        if (install.system.name, install.name) == own[1:]:
            found += [
                Break(one.at, f"{one.label}: {one.before} to {one.after}")
                for one in history.changes
                if one.at is not None and one.before is not None
            ]
    return sorted(found, key=lambda one: one.at)


def _nothing(
    lines: Sequence[QuestionLine], question: QuestionLine | None, headline: str
) -> SeriesPage:
    return SeriesPage(
        lines,
        question,
        (),
        None,
        None,
        headline,
        "A series needs two releases of an edition, or an install that was measured.",
        (),
        (),
        (),
        None,
    )
