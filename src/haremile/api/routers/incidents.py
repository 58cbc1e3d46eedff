"""Incidents: what went wrong while systems were in use."""

from datetime import UTC, datetime
from uuid import UUID

from fastapi import APIRouter

from haremile.api.dependencies import Bench
from haremile.api.schemas.incidents import HoursIn, IncidentIn, NotedChange
from haremile.usecases.incidents import IncidentsPage, incidents_page

router = APIRouter(tags=["incidents"])


@router.get("/incidents")
def get_incidents(bench: Bench) -> IncidentsPage:
    """Incidents per 100 hours in use, system by system."""
    return incidents_page(bench.incidents, bench.things)


@router.post("/incidents", status_code=204)
def note_incident(asked: IncidentIn, bench: Bench) -> None:
    """Note what went wrong, once."""
    bench.incidents.note(asked.incident())


@router.post("/incidents/hours", status_code=204)
def note_hours(asked: HoursIn, bench: Bench) -> None:
    """Note hours for which a system was in use, once."""
    bench.incidents.note_hours(asked.in_use(datetime.now(UTC)))


@router.patch("/incidents/{noted_id}", status_code=204)
def change_noted(noted_id: UUID, asked: NotedChange, bench: Bench) -> None:
    """Take an incident or hours out of the count, or bring them back."""
    bench.incidents.put_away(noted_id, asked.is_put_away)
