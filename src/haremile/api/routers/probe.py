"""The probe and the gatherer, for machines that fetch them from here."""

from fastapi import APIRouter, Response

from haremile.formats.probe_archive import GATHERER, NAME, read_gatherer, read_probe_archive

router = APIRouter(tags=["probe"])


@router.get(f"/{NAME}", response_class=Response)
def get_probe() -> Response:
    """The probe: one file for any machine's own Python from 3.8 on."""
    return _file(NAME, read_probe_archive(), "application/octet-stream")


@router.get(f"/{GATHERER}", response_class=Response)
def get_gatherer() -> Response:
    """The shell script for a machine without Python."""
    return _file(GATHERER, read_gatherer(), "text/x-shellscript; charset=utf-8")


def _file(name: str, body: bytes, kind: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(body, media_type=kind, headers=headers)
