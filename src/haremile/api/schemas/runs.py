"""The run sheet and what a person does with it."""

from datetime import datetime
from uuid import UUID

from pydantic import BaseModel

from haremile.api.schemas.base import Out, Text
from haremile.core.records.metrics import GoodEnd
from haremile.core.records.study import RunState
from haremile.core.records.units import Scale
from haremile.usecases.sheet import LaneStand


class RunOut(Out):
    id: UUID
    lane_no: int
    block: int
    position: int
    procedure: str
    state: RunState
    attempt: int
    reason: str | None
    conditions: dict[str, str]
    started_at: datetime | None
    finished_at: datetime | None
    value: float | None
    is_set_aside: bool


class PlannedAgain(BaseModel):
    runs: int


class Disturbance(BaseModel):
    text: Text


class DisturbanceOut(Out):
    """What was noted, with the run that was under way then, if one was."""

    id: int
    at: datetime
    run_id: UUID | None
    text: str


class RunSheetOut(Out):
    """A page of the run sheet; after `next_after` runs the next one begins, null on the last."""

    metric: str | None
    procedure: str | None
    label: str | None
    scale: Scale | None
    good_end: GoodEnd | None
    margin_amount: float | None
    runs: list[RunOut]
    lanes: list[LaneStand]
    last_event: int
    next_after: int | None
