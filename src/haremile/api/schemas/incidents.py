"""Incidents as they are noted."""

from datetime import datetime
from typing import Annotated
from uuid import UUID

from pydantic import AwareDatetime, BaseModel, StringConstraints

from haremile.api.schemas.base import TEXT_PATTERN, Number
from haremile.core.standing.incidents import HoursInUse, Incident, IncidentKind, checked_hours

Told = Annotated[
    str, StringConstraints(strip_whitespace=True, max_length=500, pattern=TEXT_PATTERN)
]


class IncidentIn(BaseModel):
    """What went wrong; its id comes from the page, so that the same sent twice is one."""

    id: UUID
    system: UUID
    machine: UUID | None = None
    kind: IncidentKind
    what: Told = ""
    at: AwareDatetime

    def incident(self) -> Incident:
        """The same as a record."""
        return Incident(self.id, self.system, self.machine, self.kind, self.what, self.at)


class HoursIn(BaseModel):
    """Hours in use; the id comes from the page."""

    id: UUID
    system: UUID
    machine: UUID | None = None
    hours: Number

    def in_use(self, at: datetime) -> HoursInUse:
        """The same as a record, noted at this instant."""
        return HoursInUse(self.id, self.system, self.machine, checked_hours(self.hours), at)


class NotedChange(BaseModel):
    is_put_away: bool
