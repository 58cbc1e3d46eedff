"""The library's pages: what is known of a system or a machine, and claims beside measurements."""

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from haremile.core.comparison.claims import MeasuredAgainst, held_against
from haremile.core.records.library import CLAIM_KEYS, FACTS, Claim, Fact, FactKey, Noun, Thing
from haremile.core.records.metrics import Kind, metric
from haremile.core.records.units import Scale, scale_for
from haremile.usecases.ports import Things


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
