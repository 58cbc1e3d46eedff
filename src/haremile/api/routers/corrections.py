"""What a person changes of what is kept; every change can be taken back, but for deleting."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query

from haremile.api.dependencies import Bench, Owner
from haremile.api.schemas.corrections import (
    CorrectionIn,
    DeletedOut,
    FileChange,
    StudyChange,
    TitleIn,
)
from haremile.core.records.bounds import MOST_NUMBER
from haremile.usecases.access import Act
from haremile.usecases.ports import BroughtFile

router = APIRouter(tags=["corrections"])


@router.patch("/studies/{study_id}", status_code=204)
def change_study(study_id: UUID, asked: StudyChange, bench: Bench) -> None:
    """Rename or annotate a study, put it away, or bring it back; what is null stays."""
    if asked.title is not None:
        bench.corrections.rename_study(study_id, asked.title)
    if asked.is_put_away is not None:
        bench.corrections.put_study_away(study_id, asked.is_put_away)
    if asked.note is not None or asked.tags is not None:
        bench.corrections.annotate(study_id, asked.note, asked.tags)


@router.post("/studies/{study_id}/delete-for-good")
def delete_study(study_id: UUID, asked: TitleIn, bench: Bench, _: Owner) -> DeletedOut:
    """Delete a study that was put away, with its readings, for good; its title is typed again."""
    return DeletedOut(readings=bench.corrections.delete_study(study_id, asked.title))


@router.get("/studies/{study_id}/history")
def list_study_acts(
    study_id: UUID,
    bench: Bench,
    before: Annotated[int | None, Query(ge=1, le=MOST_NUMBER)] = None,
) -> list[Act]:
    """What was done to a study and by whom, the newest first."""
    bench.studies.get(study_id)
    return list(bench.access.acts(before, study_id=study_id))


@router.put("/readings/{reading_id}/correction", status_code=204)
def correct_reading(reading_id: UUID, asked: CorrectionIn, bench: Bench) -> None:
    """Another value of a reading that a person or a file stated; what stood there is kept."""
    bench.corrections.correct_reading(reading_id, asked.value, asked.unit, asked.reason)


@router.delete("/readings/{reading_id}/correction", status_code=204)
def take_correction_back(reading_id: UUID, bench: Bench) -> None:
    """The value that was brought in stands again."""
    bench.corrections.take_correction_back(reading_id)


@router.get("/readings/{reading_id}/history")
def list_reading_acts(reading_id: UUID, bench: Bench) -> list[Act]:
    """What was done to a reading and by whom, the newest first."""
    return list(bench.access.acts(reading_id=reading_id))


@router.get("/studies/{study_id}/files")
def list_files(study_id: UUID, bench: Bench) -> list[BroughtFile]:
    """What was brought into a study, the newest first."""
    bench.studies.get(study_id)
    return bench.corrections.brought(study_id)


@router.patch("/studies/{study_id}/files/{capture_id}", status_code=204)
def change_file(study_id: UUID, capture_id: UUID, asked: FileChange, bench: Bench) -> None:
    """Put a file's runs and readings away, or bring them back."""
    bench.corrections.put_file_away(study_id, capture_id, asked.is_put_away)
