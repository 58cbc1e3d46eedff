"""Which system for this machine: those that fit, in the order of a total."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from uuid import UUID

from haremile.core.records.library import Noun, Thing
from haremile.core.records.metrics import metric, stated_size
from haremile.core.records.units import parse_amount
from haremile.core.standing.fitting import (
    Fit,
    FitReason,
    architecture_fits,
    cores_fit,
    memory_fits,
    overall,
    space_fits,
)
from haremile.core.standing.works import SUBJECTS, WorksItem, newest, works_fit
from haremile.core.wording.numbers import count
from haremile.errors import UnitError
from haremile.usecases.ports import EverMeasured, Scorecards, Things, WeightSet, WeightSets
from haremile.usecases.totals import AskedTotals, totals_page

MOST_LEAST, MOST_IDLE, MOST_SPACE = "least.memory", "memory.used", "disk.used"


@dataclass(frozen=True)
class AskedFit:
    """A machine of the library, or what one has: amounts as they are typed, with their unit.
    `needs` names what has to work on it."""

    machine: UUID | None = None
    memory: str | None = None
    space: str | None = None
    cores: float | None = None
    architecture: str | None = None
    needs: tuple[str, ...] = ()
    set_id: UUID | None = None


@dataclass(frozen=True)
class FitLine:
    """A system; `index` is of the chosen total, `settles` names what would settle a maybe, with the
    procedure that gives it; `tries` is what would have to be tried."""

    system: str
    system_id: UUID
    fit: Fit
    reasons: Sequence[FitReason]
    index: float | None
    settles: str | None
    procedure: str | None
    tries: str | None


@dataclass(frozen=True)
class FitMachine:
    """A machine that can be chosen."""

    id: UUID
    name: str


@dataclass(frozen=True)
class FitsPage:
    """The whole page; `memory` and `space` are what was looked at, bytes; `subjects` can be
    needed."""

    memory: float | None
    space: float | None
    cores: float | None
    architectures: Sequence[str]
    subjects: Sequence[str]
    machines: Sequence[FitMachine]
    sets: Sequence[WeightSet]
    reference: str | None
    headline: str
    sentence: str
    lines: Sequence[FitLine]


def fits_page(
    ever: EverMeasured, things: Things, sets: WeightSets, cards: Scorecards, asked: AskedFit
) -> FitsPage:
    """Which systems fit.

    Raises
    ------
    NotFoundError
        If there is no such machine or set.
    UnitError
        If an amount is none of memory or space.
    """
    systems = [one for one in things.all(Noun.SYSTEM) if not one.is_put_away]
    machines = [one for one in things.all(Noun.MACHINE) if not one.is_put_away]
    memory, space, cores = _bytes(asked.memory), _bytes(asked.space), asked.cores
    if asked.machine is not None:
        machine = things.get(Noun.MACHINE, asked.machine)
        memory = _memory_of(machine) if memory is None else memory
        cores = _cores_of(machine) if cores is None else cores
    totals = totals_page(ever, sets, AskedTotals(set_id=asked.set_id))
    indexes = {line.system: line.index for line in totals.lines}
    measured = {key: _highest(ever, key) for key in (MOST_LEAST, MOST_IDLE, MOST_SPACE)}
    seen = newest(cards.works())
    wanted = _Wanted(memory, space, cores, asked.architecture, asked.needs, asked.machine)
    lines = [_line(things, one, wanted, measured, indexes, seen) for one in systems]
    if wanted.is_nothing():
        lines = []
    order = list(Fit)
    lines.sort(key=lambda line: (order.index(line.fit), -(line.index or 0.0), line.system))
    return FitsPage(
        memory=memory,
        space=space,
        cores=cores,
        subjects=sorted({*SUBJECTS, *(one.subject for one in seen)}, key=str.casefold),
        architectures=sorted(
            {str(one.identity["architecture"]) for one in systems if one.identity["architecture"]}
        ),
        machines=[FitMachine(one.id, one.name) for one in machines],
        sets=totals.sets,
        reference=totals.reference,
        headline=_headline(lines),
        sentence=_sentence(lines),
        lines=lines,
    )


@dataclass(frozen=True)
class _Wanted:
    memory: float | None
    space: float | None
    cores: float | None
    architecture: str | None
    needs: tuple[str, ...]
    machine: UUID | None

    def is_nothing(self) -> bool:
        """Whether nothing was asked that a system could fit."""
        amounts = (self.memory, self.space, self.cores, self.architecture)
        return all(one is None for one in amounts) and not self.needs


def _cores_of(machine: Thing) -> float | None:
    """As it is stated, else as its own runs found it: the number with which the text begins."""
    fact = machine.present().get("cores")
    text = fact.value if fact and fact.value else machine.found.get("cores")
    found = re.match(r"[0-9]{1,4}", text or "")
    return float(found[0]) if found else None


def _memory_of(machine: Thing) -> float | None:
    """As it is stated, else as its own runs found it; bytes."""
    fact = machine.present().get("memory")
    text = fact.value if fact and fact.value else machine.found.get("memory")
    return stated_size(text) if text else None


def _bytes(text: str | None) -> float | None:
    if text is None:
        return None
    value, unit = parse_amount(text)
    if unit != "B":
        raise UnitError(f"memory and space are written as 4 GiB or 512 MiB, not {text}")
    return value


def _highest(ever: EverMeasured, key: str) -> dict[str, float]:
    """The highest median of each system over its studies: what it takes at most."""
    found: dict[str, float] = {}
    for question in ever.questions():
        if question.metric == key and not question.facet:
            for arm in ever.measured(question):
                found[arm.system] = max(found.get(arm.system, 0.0), arm.median)
    return found


def _line(
    things: Things,
    system: Thing,
    wanted: _Wanted,
    measured: Mapping[str, Mapping[str, float]],
    indexes: Mapping[str, float | None],
    seen: Sequence[WorksItem],
) -> FitLine:
    reasons = _reasons(things, system, wanted, measured, seen)
    fit = overall(reasons)
    maybe = [one for one in reasons if one.fit is Fit.MAYBE and fit is Fit.MAYBE]
    settles = next((metric(one.metric) for one in maybe if one.metric), None)
    return FitLine(
        system.name,
        system.id,
        fit,
        reasons,
        indexes.get(system.name),
        settles.label if settles else None,
        settles.procedures[0] if settles else None,
        next((one.works for one in maybe if one.works), None),
    )


def _reasons(
    things: Things,
    system: Thing,
    wanted: _Wanted,
    measured: Mapping[str, Mapping[str, float]],
    seen: Sequence[WorksItem],
) -> list[FitReason]:
    claims = {
        one.key: one.amount
        for one in things.claims(system.id)
        if not one.is_put_away and not one.is_own_guess
    }
    reasons: list[FitReason] = []
    if wanted.memory is not None:
        reasons.append(
            memory_fits(
                wanted.memory,
                measured[MOST_LEAST].get(system.name),
                measured[MOST_IDLE].get(system.name),
                claims.get("least_memory"),
            )
        )
    if wanted.space is not None:
        used = measured[MOST_SPACE].get(system.name)
        reasons.append(space_fits(wanted.space, used, claims.get("space")))
    if wanted.cores is not None and "cores" in claims:
        reasons.append(cores_fit(wanted.cores, claims["cores"]))
    if wanted.architecture is not None:
        reasons.append(architecture_fits(wanted.architecture, system.identity.get("architecture")))
    own = [one for one in seen if one.system == system.id and one.machine == wanted.machine]
    return [*reasons, *(works_fit(need, own) for need in wanted.needs)]


def _headline(lines: Sequence[FitLine]) -> str:
    fitting = [line for line in lines if line.fit is Fit.YES]
    if not lines:
        return "Say what the machine has"
    if not fitting:
        return "No system is known to fit"
    first = fitting[0]
    if len(fitting) == 1:
        return f"{first.system} alone is known to fit"
    if first.index is None:
        return f"{count(len(fitting), 'system')} fit"
    return f"{first.system} fits, with the highest index"


def _sentence(lines: Sequence[FitLine]) -> str:
    if not lines:
        return "Choose a machine of the library, or type its memory and space."
    fits = [sum(line.fit is fit for line in lines) for fit in Fit]
    return (
        f"{fits[0]} fit, {fits[1]} may, {fits[2]} do not. To fit is to get ready; whether it "
        "is pleasant to use then is another question."
    )
