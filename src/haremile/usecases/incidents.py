"""The page of incidents: what went wrong, over hours in use."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from haremile.core.records.library import Noun
from haremile.core.standing.incidents import (
    IncidentKind,
    IncidentRate,
    incident_rate,
    rate_places,
)
from haremile.core.standing.places import Place
from haremile.core.wording.numbers import count, listed
from haremile.usecases.ports import Incidents, Things


@dataclass(frozen=True)
class NotedIncident:
    """An incident with the name of its machine."""

    id: UUID
    kind: IncidentKind
    what: str
    machine: str | None
    at: datetime


@dataclass(frozen=True)
class NotedHours:
    """Hours in use with the name of the machine."""

    id: UUID
    hours: float
    machine: str | None
    at: datetime


@dataclass(frozen=True)
class IncidentLine:
    """A system; `rate` and `place` are None where no hours are noted."""

    system: str
    system_id: UUID
    rate: IncidentRate | None
    place: Place | None
    incidents: Sequence[NotedIncident]
    hours: Sequence[NotedHours]


@dataclass(frozen=True)
class Named:
    """Something that may be chosen."""

    id: UUID
    name: str


@dataclass(frozen=True)
class IncidentsPage:
    """The whole page, fewest incidents first; those without hours last."""

    headline: str
    sentence: str
    lines: Sequence[IncidentLine]
    systems: Sequence[Named]
    machines: Sequence[Named]


def incidents_page(noted: Incidents, things: Things) -> IncidentsPage:
    """Every system of which something was noted."""
    systems = {one.id: one for one in things.all(Noun.SYSTEM)}
    machines = {one.id: one for one in things.all(Noun.MACHINE)}

    def machine_of(key: UUID | None) -> str | None:
        found = machines.get(key) if key else None
        return found.name if found else None

    incidents: dict[UUID, list[NotedIncident]] = defaultdict(list)
    for one in noted.incidents():
        made = NotedIncident(one.id, one.kind, one.what, machine_of(one.machine), one.at)
        incidents[one.system].append(made)
    hours: dict[UUID, list[NotedHours]] = defaultdict(list)
    for use in noted.hours():
        hours[use.system].append(NotedHours(use.id, use.hours, machine_of(use.machine), use.at))
    rated = {
        key: incident_rate(len(incidents[key]), sum(one.hours for one in own))
        for key, own in hours.items()
    }
    ordered = sorted(rated, key=lambda key: (rated[key].rate, rated[key].high))
    found = dict(zip(ordered, rate_places([rated[key] for key in ordered]), strict=True))
    keys = [*ordered, *(key for key in incidents if key not in rated)]
    lines = [
        IncidentLine(
            systems[key].name,
            key,
            rated.get(key),
            found.get(key),
            incidents.get(key, []),
            hours.get(key, []),
        )
        for key in keys
        if key in systems
    ]
    return IncidentsPage(
        *_words(lines),
        lines,
        [Named(one.id, one.name) for one in systems.values() if not one.is_put_away],
        [Named(one.id, one.name) for one in machines.values() if not one.is_put_away],
    )


def _words(lines: Sequence[IncidentLine]) -> tuple[str, str]:
    rated = [line for line in lines if line.rate is not None and line.place is not None]
    bare = [line.system for line in lines if line.rate is None]
    beside = f" No hours in use are noted for {listed(bare)}: no rate." if bare else ""
    if not rated:
        return "No rate yet", "A rate needs hours in use: note them (U)." + beside
    first = rated[0]
    if first.rate is None or first.place is None:
        return "No rate yet", beside.strip()
    text = (
        f"{first.system}: {count(first.rate.incidents, 'incident')} in {first.rate.hours:g} hours, "
        f"{first.rate.rate:.2g} per 100 hours ({first.rate.low:.2g} to {first.rate.high:.2g})."
    )
    if len(rated) > 1 and first.place.last == 1:
        return f"{first.system} has the fewest incidents", text + beside
    if len(rated) == 1:
        return f"{first.system} alone so far", text + beside
    return "Undecided who has the fewest incidents", text + beside
