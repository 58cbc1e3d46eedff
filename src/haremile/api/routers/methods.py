"""The page of methods, for those who ask how a number was calculated."""

from pathlib import Path

from fastapi import APIRouter, Request

from haremile.api.schemas.methods import MethodsOut
from haremile.errors import MissingHereError
from haremile.formats.markdown import rendered

router = APIRouter(tags=["methods"])


@router.get("/methods")
def get_methods(request: Request) -> MethodsOut:
    """How Hare Mile calculates, as a page with an anchor at every heading."""
    page: Path = request.app.state.methods
    if not page.exists():
        raise MissingHereError(f"the page of methods is not there: {page}")
    return MethodsOut(html=rendered(page.read_text("utf-8")))
