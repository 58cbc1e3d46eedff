"""Intake: captures of the probe, gathered texts and readings files, dropped on a page."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, File, Form, UploadFile

from haremile.api.dependencies import Bench
from haremile.api.schemas import IntakeItemOut, IntakeOut
from haremile.bench.intake import Intake
from haremile.errors import BadInputError
from haremile.formats.captures import too_large
from haremile.formats.readings_csv import MOST_BYTES

router = APIRouter(prefix="/studies/{study_id}/intake", tags=["intake"])

MOST_FILES = 200
Files = Annotated[list[UploadFile], File()]


def read_uploads(files: list[UploadFile]) -> list[tuple[str, bytes]]:
    """Names and bytes of the uploads.

    Raises
    ------
    BadInputError
        If there are too many, or one is too large; the size is named.
    """
    if len(files) > MOST_FILES:
        raise BadInputError(f"{len(files)} files at once; at most {MOST_FILES} are taken")
    found = []
    for upload in files:
        name = upload.filename or "a file without a name"
        if upload.size is not None and upload.size > MOST_BYTES:
            raise too_large(name, upload.size)
        found.append((name, upload.file.read(MOST_BYTES + 1)))
    return found


def _intake(bench: Bench) -> Intake:
    return Intake(bench.studies, bench.readings, bench.library)


@router.post("/preview")
def preview_intake(study_id: UUID, files: Files, bench: Bench) -> list[IntakeItemOut]:
    """What the files hold and where it would go; nothing is kept."""
    found = _intake(bench).preview(study_id, read_uploads(files))
    return [IntakeItemOut.model_validate(item) for item in found]


@router.post("")
def take_in(
    study_id: UUID,
    files: Files,
    bench: Bench,
    lanes: Annotated[list[int] | None, Form()] = None,
) -> IntakeOut:
    """Keep what the files hold; `lanes` names a contender for each item of the preview, 0 for the
    one that fits."""
    chosen = {place: lane for place, lane in enumerate(lanes or ()) if lane}
    result = _intake(bench).take_in(study_id, read_uploads(files), chosen)
    return IntakeOut(taken=result.taken, known=result.known)
