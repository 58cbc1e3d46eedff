"""What pictures need beyond findings."""

from uuid import UUID

from pydantic import BaseModel

from haremile.api.schemas.base import Out
from haremile.api.schemas.findings import IntervalOut
from haremile.usecases.boot_parts import OpenedBoot


class PartSourceOut(Out):
    metric: str
    label: str
    method: str


class BootPartOut(Out):
    metric: str
    label: str
    start: float
    end: float
    end_interval: IntervalOut | None


class LanePartsOut(Out):
    lane_no: int
    runs: int
    parts: list[BootPartOut]
    opened: list[OpenedBoot]


class BootPartsOut(Out):
    machine: str
    sources: list[PartSourceOut]
    lanes: list[LanePartsOut]
    headline: str
    sentence: str


class UnitOut(BaseModel):
    """A unit of the service manager; seconds since the kernel began."""

    name: str
    start_s: float
    ready_s: float | None


class BootUnitsOut(BaseModel):
    """What ran when in one boot."""

    run_id: UUID
    units: list[UnitOut]
