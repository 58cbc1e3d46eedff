"""Scorecards: what a tester says of systems, and what works on them."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Response

from haremile.api.dependencies import Bench
from haremile.api.ports import BenchParts
from haremile.api.schemas.incidents import NotedChange
from haremile.api.schemas.scorecards import KeptVersionOut, ScorecardIn, WorksIn
from haremile.errors import NotFoundError
from haremile.formats.tryout import TRYOUTS
from haremile.usecases.scorecards import (
    ScorecardList,
    ScorecardPage,
    TieChoice,
    TiePlaces,
    scorecard_list,
    scorecard_page,
)

router = APIRouter(prefix="/scorecards", tags=["scorecards"])

Version = Annotated[int | None, Query(ge=1, le=10_000)]


def _places(bench: BenchParts, system: UUID) -> TiePlaces:
    return TiePlaces(
        bench.studies, bench.readings, bench.scorecards, bench.incidents, bench.things, system
    )


@router.get("")
def get_scorecards(bench: Bench) -> ScorecardList:
    """All systems with what is said of them."""
    return scorecard_list(bench.scorecards, bench.things)


@router.get("/files/{name}")
def get_tryout(name: str) -> Response:
    """One of our small files that a system is asked to open."""
    if name not in TRYOUTS:
        raise NotFoundError("file to try", name)
    kind, make = TRYOUTS[name]
    return Response(
        make(), media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


@router.patch("/works/{works_id}", status_code=204)
def change_works(works_id: UUID, asked: NotedChange, bench: Bench) -> None:
    """Take a line out of the works list, or bring it back."""
    bench.scorecards.put_works_away(works_id, asked.is_put_away)


@router.get("/{system_id}")
def get_scorecard(system_id: UUID, bench: Bench, version: Version = None) -> ScorecardPage:
    """Everything that is said of a system."""
    places = _places(bench, system_id)
    return scorecard_page(bench.scorecards, bench.things, places, system_id, version)


@router.get("/{system_id}/ties")
def get_ties(system_id: UUID, bench: Bench) -> list[TieChoice]:
    """What a point can rest on."""
    return _places(bench, system_id).all()


@router.put("/{system_id}")
def keep_scorecard(system_id: UUID, asked: ScorecardIn, bench: Bench) -> KeptVersionOut:
    """Keep another version of a card."""
    newest = next(iter(bench.scorecards.versions(system_id)), None)
    card = _places(bench, system_id).checked(asked.card(), newest.card if newest else None)
    return KeptVersionOut(version=bench.scorecards.keep(system_id, card, asked.after))


@router.post("/{system_id}/works", status_code=204)
def note_works(system_id: UUID, asked: WorksIn, bench: Bench) -> None:
    """Note what works, and what does not."""
    bench.scorecards.note_works(asked.item(system_id))
