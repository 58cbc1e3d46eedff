"""Readings and their evidence."""

from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from pydantic import BaseModel

from haremile.api.schemas.base import Out, Text
from haremile.usecases.ports import StoredReading


class ReadingOut(Out):
    """A reading; `row_key` names the row of the verdict sheet that it belongs to."""

    id: UUID
    run_id: UUID
    block: int
    lane_no: int
    metric: str
    method: str
    value: float
    unit: str
    resolution: float | None
    conditions: dict[str, str]
    at: datetime | None
    capture_id: UUID | None
    set_aside: str | None
    value_before: float | None
    row_key: str


class ReadingColumns(BaseModel):
    """Many readings, column by column: quick to write and to read. `row` is the key of its row;
    `value_before` what stood there before a person corrected it; `half_width` to which it is good
    on either side."""

    id: list[UUID]
    run_id: list[UUID]
    block: list[int]
    lane_no: list[int]
    value: list[float]
    set_aside: list[str | None]
    value_before: list[float | None]
    half_width: list[float | None]
    row: list[str]

    @classmethod
    def of(cls, found: Sequence[StoredReading]) -> "ReadingColumns":
        """Readings as they stand in the bench book."""
        return cls.model_construct(
            id=[item.id for item in found],
            run_id=[item.run_id for item in found],
            block=[item.block for item in found],
            lane_no=[item.lane_no for item in found],
            value=[item.value for item in found],
            set_aside=[item.set_aside for item in found],
            value_before=[item.value_before for item in found],
            half_width=[item.half_width for item in found],
            row=[item.row_key for item in found],
        )


class ReadingChange(BaseModel):
    """Set aside with a reason, or take that back with null."""

    set_aside: Text | None


class EvidenceOut(BaseModel):
    name: str
    text: str


class CaptureOut(BaseModel):
    """Evidence; `evidence` holds the texts of a machine's capture, or the file as it came."""

    id: UUID
    sha256: str
    made_at: datetime | None
    kind: str
    conditions: dict[str, str]
    evidence: list[EvidenceOut]
    faults: list[str]
    reason: str | None
