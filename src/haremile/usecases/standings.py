"""The page of standings: everything that was ever measured, on one list."""

import re
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from uuid import UUID

from haremile.core.comparison.records import row_key
from haremile.core.records.library import Noun, Thing
from haremile.core.records.metrics import GoodEnd, Metric, metric, sheet_position
from haremile.core.records.units import Scale, scale_for
from haremile.core.standing.arms import Arm, Choice, Comparable, LeftOut, Question, comparable_arms
from haremile.core.standing.bands import Bands
from haremile.core.standing.standings import Apart, Standing, Standings
from haremile.core.wording.standings import apart_sentence, standings_words
from haremile.errors import NotFoundError
from haremile.usecases.kept_standings import kept_standings
from haremile.usecases.ports import EverMeasured, Things

NO_DESKTOP = "none"
_VERSION = re.compile(r"\s+[0-9][\w.-]*$")
_PARTS = re.compile(r"[0-9]+|[^0-9]+")


@dataclass(frozen=True)
class Asked:
    """What is asked for; what is None is not narrowed.

    `machine` narrows to the studies on it, `level` is the machine whose figures are shown; `held`
    are conditions by key to which the list holds.
    """

    metric: str | None = None
    method: str | None = None
    start: str | None = None
    facet: str | None = None
    machine: str | None = None
    level: str | None = None
    desktop: str | None = None
    base: str | None = None
    channel: str | None = None
    since: int | None = None
    until: int | None = None
    newest_only: bool = False
    held: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class QuestionLine:
    """A question that can be asked, in words."""

    metric: str
    label: str
    method: str
    start: str
    facet: str
    studies: int
    systems: int


@dataclass(frozen=True)
class MeasuredIn:
    """What one study found of a system on a machine; `row` is the key of its verdict sheet's
    row."""

    study: UUID
    title: str
    machine: str
    median: float
    readings: int
    failed: int
    runs: int
    newest: datetime
    row: str


@dataclass(frozen=True)
class StandingLine:
    """A place with what is known of the system; `is_older` where a newer release of the same
    edition was measured too."""

    standing: Standing
    system: UUID | None
    desktop: str | None
    is_older: bool
    measured: Sequence[MeasuredIn]


@dataclass(frozen=True)
class ApartLine:
    """Who could not be placed, with what is needed to plan what would place them."""

    found: Apart
    sentence: str
    own: UUID | None
    beside: UUID | None
    machine: UUID | None


@dataclass(frozen=True)
class Filters:
    """By what the list can be narrowed."""

    machines: Sequence[str]
    desktops: Sequence[str]
    bases: Sequence[str]
    channels: Sequence[str]
    years: Sequence[int]


@dataclass(frozen=True)
class StandingsPage:
    """The whole page; `question` and `scale` are None where nothing was ever measured."""

    questions: Sequence[QuestionLine]
    question: QuestionLine | None
    scale: Scale | None
    good_end: GoodEnd
    procedure: str
    machine: str
    filters: Filters
    headline: str
    beside: str
    notes: Sequence[str]
    lines: Sequence[StandingLine]
    apart: Sequence[ApartLine]
    left_out: Sequence[LeftOut]
    choices: Sequence[Choice]
    studies: int
    readings: int
    bands: Bands | None = None


def standings_page(measured: EverMeasured, things: Things, asked: Asked) -> StandingsPage:
    """Everything that was ever measured of one question, on one list.

    Raises
    ------
    NotFoundError
        If nobody measured what is asked for.
    BadInputError
        If a filter names what there is not.
    """
    every = ordered_questions(measured.questions())
    question = chosen_question(every, asked.metric, asked.method, asked.start, asked.facet)
    if question is None:
        return _nothing(every)
    known = metric(question.metric)
    arms = measured.measured(question)
    library = {one.name: one for one in things.all(Noun.SYSTEM)}
    older = _older({arm.system for arm in arms}, library)
    filters = _filters(arms, library)
    kept = [arm for arm in arms if _is_within(arm, asked)]
    chosen = comparable_arms(kept, known.key, asked.held)
    shown = {arm.name for arm in kept if _is_shown(arm.system, asked, library, older)}
    found = kept_standings(chosen.arms, known.good_end, asked.level, shown)
    line = question_line(question)
    if found is None:
        return _nobody_left([question_line(one) for one in every], line, known, filters, chosen)
    scale = scale_for(known.unit, found.rows[len(found.rows) // 2].value, known.is_exact)
    desktops = frozenset(
        arm.name for arm in chosen.arms if _desktop(library.get(arm.system)) not in (None, "none")
    )
    words = standings_words(known, found, scale, desktops, chosen.unstated)
    machines = {one.name: one.id for one in things.all(Noun.MACHINE)}
    return StandingsPage(
        questions=[question_line(one) for one in every],
        question=line,
        scale=scale,
        good_end=known.good_end,
        procedure=known.procedures[0],
        machine=found.machine,
        filters=filters,
        headline=words.headline,
        beside=words.beside,
        notes=words.notes,
        lines=_lines(found, chosen.arms, library, older, question),
        apart=[_apart_line(one, chosen.arms, library, machines) for one in found.apart],
        left_out=chosen.left_out,
        choices=chosen.choices,
        studies=found.studies,
        readings=found.readings,
        bands=measured.bands(known.key),
    )


def _nobody_left(
    questions: Sequence[QuestionLine],
    line: QuestionLine,
    known: Metric,
    filters: Filters,
    chosen: Comparable,
) -> StandingsPage:
    return StandingsPage(
        questions=questions,
        question=line,
        scale=None,
        good_end=known.good_end,
        procedure=known.procedures[0],
        machine="",
        filters=filters,
        headline="Nothing to list",
        beside="No system is left by these filters.",
        notes=(),
        lines=(),
        apart=(),
        left_out=chosen.left_out,
        choices=chosen.choices,
        studies=0,
        readings=0,
    )


def ordered_questions(questions: Sequence[Question]) -> list[Question]:
    """As a verdict sheet has its rows; what nobody can compare is left out."""
    told = [one for one in questions if metric(one.metric).good_end is not GoodEnd.NONE]
    return sorted(told, key=lambda q: (sheet_position(q.metric), q.start, q.facet, q.method))


def chosen_question(
    every: Sequence[Question],
    metric_key: str | None,
    method: str | None,
    start: str | None,
    facet: str | None,
) -> Question | None:
    """The question that is asked; where it is left open, the one with most systems.

    Raises
    ------
    NotFoundError
        If nobody measured it.
    """
    fitting = [
        one
        for one in every
        if all(
            wanted is None or wanted == own
            for wanted, own in (
                (metric_key, one.metric),
                (method, one.method),
                (start, one.start),
                (facet, one.facet),
            )
        )
    ]
    if not fitting and metric_key is not None:
        raise NotFoundError("standing of", metric_key)
    return max(fitting, key=lambda one: (one.systems, one.studies), default=None)


def question_line(one: Question) -> QuestionLine:
    """A question with its label."""
    known = metric(one.metric)
    return QuestionLine(
        one.metric, known.label, one.method, one.start, one.facet, one.studies, one.systems
    )


def _nothing(every: Sequence[Question]) -> StandingsPage:
    return StandingsPage(
        [question_line(one) for one in every],
        None,
        None,
        GoodEnd.NONE,
        "",
        "",
        Filters((), (), (), (), ()),
        "Nothing was measured yet",
        "Every study that you finish enters this page by itself.",
        (),
        (),
        (),
        (),
        (),
        0,
        0,
    )


def _fact(thing: Thing | None, key: str) -> str | None:
    fact = thing.present().get(key) if thing else None
    return fact.value if fact else None


def _desktop(thing: Thing | None) -> str | None:
    """Name of the desktop without its version, ``none`` where there is none; None where nobody
    states it."""
    stated = _fact(thing, "desktop")
    if stated:
        return _VERSION.sub("", stated.strip())
    return thing.identity.get("edition") if thing else None


_Order = tuple[tuple[int, ...], bool]


def release_key(release: str) -> _Order:
    """Releases in order: numbers as numbers, and a candidate before its release."""
    parts = _PARTS.findall(release)
    numbers = tuple(int(part) for part in parts if part.isdigit())
    return numbers, not re.search(r"[A-Za-z]", release)


def _older(names: set[str], library: Mapping[str, Thing]) -> frozenset[str]:
    """Systems of which a newer release of the same edition was measured."""
    series: dict[tuple[str | None, str | None], list[tuple[_Order, str]]] = defaultdict(list)
    for name in names:
        own = library[name].identity if name in library else {}
        release = own.get("release")
        if release and own.get("distribution"):
            series[own.get("distribution"), own.get("edition")].append((release_key(release), name))
    return frozenset(
        name
        for members in series.values()
        for key, name in members
        if key < max(key for key, _ in members)
    )


def _filters(arms: Sequence[Arm], library: Mapping[str, Thing]) -> Filters:
    names = {arm.system for arm in arms}

    def stated(values: list[str | None]) -> list[str]:
        return sorted({value for value in values if value})

    return Filters(
        machines=sorted({arm.machine for arm in arms}),
        desktops=stated([_desktop(library.get(name)) for name in names]),
        bases=stated([_fact(library.get(name), "base") for name in names]),
        channels=stated([_fact(library.get(name), "channel") for name in names]),
        years=sorted({arm.newest.year for arm in arms}),
    )


def _is_within(arm: Arm, asked: Asked) -> bool:
    """Whether a study is of the machine and the years that are asked for."""
    is_then = (asked.since or 0) <= arm.newest.year <= (asked.until or arm.newest.year)
    return is_then and asked.machine in (None, arm.machine)


def _is_shown(
    system: str, asked: Asked, library: Mapping[str, Thing], older: frozenset[str]
) -> bool:
    """Whether a system is ranked; one that is not may still link others."""
    thing = library.get(system)
    wanted = (
        (asked.desktop, _desktop(thing)),
        (asked.base, _fact(thing, "base")),
        (asked.channel, _fact(thing, "channel")),
    )
    is_new = not (asked.newest_only and system in older)
    return is_new and all(one is None or one == own for one, own in wanted)


def _lines(
    found: Standings,
    arms: Sequence[Arm],
    library: Mapping[str, Thing],
    older: frozenset[str],
    question: Question,
) -> list[StandingLine]:
    own: dict[str, list[Arm]] = defaultdict(list)
    for arm in arms:
        own[arm.name].append(arm)
    lines = []
    for row in found.rows:
        mine = own[row.system]
        thing = library.get(mine[0].system)
        lines.append(
            StandingLine(
                row,
                thing.id if thing else None,
                _desktop(thing),
                mine[0].system in older,
                [_measured_in(arm, question) for arm in mine],
            )
        )
    return lines


def _measured_in(arm: Arm, question: Question) -> MeasuredIn:
    return MeasuredIn(
        study=arm.study,
        title=arm.title,
        machine=arm.machine,
        median=arm.median,
        readings=len(arm.values),
        failed=arm.failed,
        runs=arm.runs,
        newest=arm.newest,
        row=row_key(question.metric, arm.machine, question.method, arm.conditions[0]),
    )


def _apart_line(
    one: Apart, arms: Sequence[Arm], library: Mapping[str, Thing], machines: Mapping[str, UUID]
) -> ApartLine:
    of = {arm.name: arm.system for arm in arms}

    def key(name: str) -> UUID | None:
        thing = library.get(of[name])
        return thing.id if thing else None

    return ApartLine(
        one, apart_sentence(one), key(one.own), key(one.beside), machines.get(one.machine)
    )
