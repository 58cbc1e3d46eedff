"""Readings and their evidence."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Response

from haremile.api.dependencies import Bench
from haremile.api.responses import serialised
from haremile.api.schemas.readings import (
    CaptureOut,
    EvidenceOut,
    ReadingChange,
    ReadingColumns,
    ReadingOut,
)
from haremile.formats.captures import parse_stored
from haremile.usecases.ports import StoredCapture

router = APIRouter(tags=["readings"])


@router.get("/studies/{study_id}/readings")
def get_readings(
    study_id: UUID, metric: Annotated[str, Query(max_length=100)], bench: Bench
) -> list[ReadingOut]:
    """All readings of one metric, in run order."""
    bench.studies.get(study_id)
    found = bench.readings.readings(study_id, metric)
    return [ReadingOut.model_validate(item) for item in found]


@router.get("/studies/{study_id}/reading-columns", response_model=ReadingColumns)
def get_reading_columns(
    study_id: UUID, metric: Annotated[str, Query(max_length=100)], bench: Bench
) -> Response:
    """The same as columns, for pictures."""
    bench.studies.get(study_id)
    found = bench.readings.readings(study_id, metric)
    return serialised(ReadingColumns.of(found))


@router.patch("/readings/{reading_id}", status_code=204)
def change_reading(reading_id: UUID, change: ReadingChange, bench: Bench) -> None:
    """Set a reading aside with its reason, or take that back."""
    bench.readings.set_aside(reading_id, change.set_aside)


@router.get("/runs/{run_id}/capture")
def get_run_capture(run_id: UUID, bench: Bench) -> CaptureOut:
    """The evidence behind a run."""
    return _out(bench.readings.capture_of_run(run_id))


@router.post("/runs/{run_id}/plan-again", status_code=204)
def plan_run_again(run_id: UUID, bench: Bench) -> None:
    """Plan a failed or void run as a new attempt."""
    bench.queue.plan_again(run_id)


def _out(capture: StoredCapture) -> CaptureOut:
    base = {"id": capture.id, "sha256": capture.sha256, "made_at": capture.made_at}
    document = parse_stored(capture.kind, capture.body)
    if document is None:
        text = capture.body.decode("utf-8", "replace")
        return CaptureOut(
            **base,
            kind=capture.kind,
            conditions={},
            faults=[],
            reason=None,
            evidence=[EvidenceOut(name="the file as it was taken in", text=text)],
        )
    return CaptureOut(
        **base,
        kind=capture.kind,
        conditions=document.conditions,
        reason=document.reason,
        evidence=[EvidenceOut(name=e.name, text=e.text) for e in document.evidence],
        faults=[f"{fault.kind}: {fault.what}" for fault in document.faults],
    )
