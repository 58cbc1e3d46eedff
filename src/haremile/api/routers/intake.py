"""Intake: captures of the probe, gathered texts and readings files, dropped on a page."""

from collections import OrderedDict
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, File, Form, Query, Request, UploadFile
from pydantic import Field, ValidationError

from haremile.api.dependencies import Bench
from haremile.api.schemas.intake import (
    ColumnChoices,
    ColumnMapIn,
    IntakeOut,
    IntakeStage,
    MeasureChoice,
)
from haremile.core.records.metrics import CATALOGUE
from haremile.core.records.units import units_of
from haremile.errors import BadInputError
from haremile.formats.captures import too_large
from haremile.formats.column_map import OURS, ColumnMap
from haremile.formats.readings_csv import MOST_BYTES, REQUIRED
from haremile.usecases.intake import NEW_CONTENDER, FileColumns, IntakeItem, file_columns
from haremile.usecases.ports import Progress

router = APIRouter(prefix="/studies/{study_id}/intake", tags=["intake"])
stages = APIRouter(tags=["intake"])

MOST_FILES = 200
MOST_MAP = 2**16
"""Characters of what is said of columns."""

Files = Annotated[list[UploadFile], File(max_length=MOST_FILES)]
LaneChoice = Annotated[int, Field(ge=NEW_CONTENDER, le=10_000)]


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


class Intakes:
    """How far each intake is, by the name that its page gave it; the last few are known."""

    KEPT = 100

    def __init__(self) -> None:
        self._stages: OrderedDict[UUID, IntakeStage] = OrderedDict()

    def told(self, name: UUID | None) -> Progress:
        """What an intake of this name tells its progress to."""

        def tell(what: str, done: int, of: int) -> None:
            if name is not None:
                self._stages[name] = IntakeStage(what=what, done=done, of=of)
                self._stages.move_to_end(name)
                while len(self._stages) > self.KEPT:
                    self._stages.popitem(last=False)

        return tell

    def stage(self, name: UUID) -> IntakeStage | None:
        """Where it stands; None before its first word."""
        return self._stages.get(name)


def intakes_of(request: Request) -> Intakes:
    """The intakes of this application."""
    found: Intakes = request.app.state.intakes
    return found


Under = Annotated[Intakes, Depends(intakes_of)]
Named = Annotated[UUID | None, Query(description="A name under which its progress is told")]


@stages.get("/intakes/{name}")
def get_intake_stage(name: UUID, intakes: Under) -> IntakeStage | None:
    """How far the intake of this name is; null where nothing is told of it yet."""
    return intakes.stage(name)


def column_map_of(
    column_map: Annotated[
        str | None,
        Form(max_length=MOST_MAP, description="What the columns mean, as JSON of a ColumnMapIn"),
    ] = None,
) -> ColumnMap | None:
    """What the columns of tables mean that are none of ours. Raises BadInputError."""
    if column_map is None:
        return None
    try:
        asked = ColumnMapIn.model_validate_json(column_map)
    except ValidationError as error:
        raise BadInputError(f"column_map: {error.errors()[0]['msg']}") from None
    return ColumnMap.of(asked.model_dump())


Mapped = Annotated[ColumnMap | None, Depends(column_map_of)]


@stages.post("/intake/columns")
def list_columns(files: Files, bench: Bench) -> list[FileColumns]:
    """The columns of those files that are tables but none of ours; nothing is kept."""
    return file_columns(bench.column_maps, read_uploads(files))


@stages.get("/intake/choices")
def list_choices() -> ColumnChoices:
    """What a column of a table can mean: one of ours, or a measure in one of its units."""
    return ColumnChoices(
        columns=sorted(OURS),
        required=list(REQUIRED),
        measures=[
            MeasureChoice(metric=one.key, label=one.label, units=units_of(one.unit))
            for one in CATALOGUE.values()
        ],
    )


@router.post("/preview")
def preview_intake(
    study_id: UUID,
    files: Files,
    bench: Bench,
    intakes: Under,
    column_map: Mapped,
    progress: Named = None,
) -> list[IntakeItem]:
    """What the files hold and where it would go; nothing is kept."""
    told = intakes.told(progress)
    found = bench.intake.preview(study_id, read_uploads(files), told, column_map)
    return found


@router.post("")
def take_in(
    study_id: UUID,
    files: Files,
    bench: Bench,
    intakes: Under,
    column_map: Mapped,
    progress: Named = None,
    lanes: Annotated[list[LaneChoice] | None, Form(max_length=MOST_FILES)] = None,
) -> IntakeOut:
    """Keep what the files hold; `lanes` names a contender for each item of the preview, 0 for the
    one that fits, -1 for one that is to join the study."""
    chosen = {place: lane for place, lane in enumerate(lanes or ()) if lane}
    told = intakes.told(progress)
    result = bench.intake.take_in(study_id, read_uploads(files), chosen, told, column_map)
    return IntakeOut(taken=result.taken, known=result.known, notes=list(result.notes))
