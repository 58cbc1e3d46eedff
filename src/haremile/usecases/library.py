"""The library's pages: what is known of a system or a machine, and claims beside measurements."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from haremile.core.comparison.claims import MeasuredAgainst, held_against
from haremile.core.records.library import (
    CLAIM_KEYS,
    FACTS,
    Claim,
    Fact,
    FactKey,
    Noun,
    Source,
    Thing,
)
from haremile.core.records.metrics import Kind, metric
from haremile.core.records.procedures import PROCEDURES
from haremile.core.records.units import Scale, scale_for
from haremile.core.statistics.lane_statistics import summarise_lane
from haremile.formats.about_facts import about_facts
from haremile.usecases.ports import PastStudy, Things
from haremile_probe.wire import Capture


@dataclass(frozen=True)
class FactLine:
    """One line of what is known: what holds now, what its runs stated, and what was stated before.

    `differs` tells that what is stated and what was found are not the same text.
    """

    key: str
    label: str
    says: str
    stated: Fact | None
    found: str | None
    before: Sequence[Fact]
    differs: bool


@dataclass(frozen=True)
class ClaimLine:
    """A claim, and what each machine gave; nothing where it was not measured yet.

    `metric` is what it is held against, None where nothing that is measured answers it; `beside` is
    what is said with every figure of it.
    """

    claim: Claim
    label: str
    beside: str
    scale: Scale
    metric: str | None
    measured: Sequence[MeasuredAgainst]


@dataclass(frozen=True)
class PlacedStudy:
    """A study in which it takes part."""

    id: UUID
    title: str


@dataclass(frozen=True)
class LibraryPage:
    """Everything that is known of one system or machine."""

    thing: Thing
    lines: Sequence[FactLine]
    claims: Sequence[ClaimLine]
    studies: Sequence[PlacedStudy]


def library_page(things: Things, noun: Noun, key: UUID) -> LibraryPage:
    """Everything that is known of one. Raises NotFoundError."""
    thing = things.get(noun, key)
    claims = things.claims(key) if noun is Noun.SYSTEM else []
    return LibraryPage(
        thing=thing,
        lines=[_line(thing, one) for one in FACTS[noun]],
        claims=[_claim(things, key, one) for one in claims],
        studies=[PlacedStudy(*one) for one in things.studies_of(key)],
    )


@dataclass(frozen=True)
class TimedMedian:
    """What one study found; the interval is None where it holds too few readings."""

    study: UUID
    title: str
    at: datetime
    n: int
    median: float
    low: float | None
    high: float | None


@dataclass(frozen=True)
class OverTime:
    """One measure by one method, study after study; `other` is the machine of a system, or the
    system on a machine."""

    metric: str
    label: str
    scale: Scale
    other: str
    method: str
    medium: str
    studies: Sequence[TimedMedian]


def over_time(things: Things, noun: Noun, key: UUID) -> list[OverTime]:
    """The main measures of one, study after study."""
    headlines = [one.headline for one in PROCEDURES.values() if not one.is_named]
    groups: dict[tuple[str, str, str, str], list[PastStudy]] = {}
    for one in things.over_time(noun, key, headlines):
        groups.setdefault((one.metric, one.other, one.method, one.medium), []).append(one)
    found = []
    for (name, other, method, medium), studies in sorted(
        groups.items(), key=lambda item: (headlines.index(item[0][0]), item[0][1:])
    ):
        known, points = metric(name), [_timed(one) for one in studies]
        scale = scale_for(known.unit, max(abs(one.median) for one in points))
        found.append(OverTime(name, known.label, scale, other, method, medium, points))
    return found


def _timed(one: PastStudy) -> TimedMedian:
    summary = summarise_lane(one.values)
    interval = summary.median_interval
    low, high = (interval.low, interval.high) if interval else (None, None)
    return TimedMedian(one.study, one.title, one.at, summary.n, summary.median, low, high)


def fill_from_about(things: Things, noun: Noun, key: UUID, capture: Capture) -> list[str]:
    """State what a capture tells of one, where it is not stated so already; return the labels of
    what was stated.

    Raises
    ------
    NotFoundError
    BadInputError
        If the capture tells nothing of it.
    """
    present = things.get(noun, key).present()
    labels = {one.key: one.label for one in FACTS[noun]}
    source = Source("an about capture", datetime.fromisoformat(capture.made_at).date())
    filled = []
    for fact, value in about_facts(capture, noun).items():
        if fact not in present or present[fact].value != value:
            things.state(noun, key, fact, value, source)
            filled.append(labels[fact])
    return filled


def _line(thing: Thing, known: FactKey) -> FactLine:
    every = [fact for fact in thing.facts if fact.key == known.key]
    stated = thing.present().get(known.key)
    found = thing.found.get(known.key)
    differs = found is not None and stated is not None and found != stated.value
    before = every[1:] if stated is not None else every
    return FactLine(known.key, known.label, known.says, stated, found, before, differs)


def _claim(things: Things, system: UUID, claim: Claim) -> ClaimLine:
    known = CLAIM_KEYS[claim.key]
    groups = things.measured(system, known.metric) if known.metric else []
    measured = metric(known.metric) if known.metric else None
    unit = measured.unit if measured else known.unit
    is_counted = measured is not None and measured.kind is Kind.COUNTED
    return ClaimLine(
        claim,
        known.label,
        known.beside,
        scale_for(unit, claim.amount),
        known.metric,
        [held_against(claim.amount, *group, is_counted=is_counted) for group in groups],
    )
