"""Packages: studies or the whole bench book handed on, and taken in."""

import os
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, File, Form, Query, UploadFile
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from haremile.api.dependencies import Bench
from haremile.api.schemas.packages import ApproveIn, PackageTakenOut
from haremile.errors import BadInputError
from haremile.usecases.package import hand_on
from haremile.usecases.ports import OfferedCommands, PackageChoices

router = APIRouter(prefix="/packages", tags=["packages"])

MOST_STUDIES = 500
MOST_RENAMED = 500

Brought = Annotated[UploadFile, File()]
Renamed = Annotated[list[UUID] | None, Form(max_length=MOST_RENAMED)]


@router.get("/export", response_class=FileResponse)
def export_package(
    bench: Bench, study: Annotated[list[UUID] | None, Query(max_length=MOST_STUDIES)] = None
) -> FileResponse:
    """These studies, or with none the whole bench book, as one data package."""
    place, name = tempfile.mkstemp(prefix="haremile-package-", suffix=".zip")
    os.close(place)
    target = Path(name)
    try:
        at = datetime.now(UTC)
        hand_on(bench.packages, bench.publishing, study, bench.host, at, target)
    except BaseException:
        target.unlink()
        raise
    shown = "study" if study and len(study) == 1 else "bench-book"
    return FileResponse(
        target,
        media_type="application/zip",
        filename=f"haremile-{shown}-{at:%Y-%m-%d}.zip",
        background=BackgroundTask(target.unlink),
    )


@router.post("/preview")
def preview_package(
    file: Brought, bench: Bench, renamed: Renamed = None, is_theirs: Annotated[bool, Form()] = False
) -> PackageTakenOut:
    """What a package would bring; nothing is kept."""
    with _on_disk(file) as path:
        taken = bench.packing.look(path, PackageChoices(frozenset(renamed or ()), is_theirs))
    return PackageTakenOut.model_validate(taken)


@router.post("")
def take_package_in(
    file: Brought, bench: Bench, renamed: Renamed = None, is_theirs: Annotated[bool, Form()] = False
) -> PackageTakenOut:
    """Keep everything of a package, or nothing."""
    with _on_disk(file) as path:
        taken = bench.packing.take_in(path, PackageChoices(frozenset(renamed or ()), is_theirs))
    return PackageTakenOut.model_validate(taken)


@router.get("/commands")
def get_offered_commands(bench: Bench) -> list[OfferedCommands]:
    """Commands of installs from elsewhere that nobody approved yet."""
    return bench.packages.offered()


@router.post("/commands/{install_id}", status_code=204)
def approve_commands(install_id: UUID, asked: ApproveIn, bench: Bench) -> None:
    """Let an install's commands be run, or forget them."""
    bench.packages.approve(install_id, asked.is_approved)


@contextmanager
def _on_disk(file: UploadFile) -> Iterator[Path]:
    """The upload as a file, which another process reads."""
    if not file.size:
        raise BadInputError("the file is empty")
    with tempfile.NamedTemporaryFile(prefix="haremile-package-", suffix=".zip") as kept:
        shutil.copyfileobj(file.file, kept)
        kept.flush()
        yield Path(kept.name)
