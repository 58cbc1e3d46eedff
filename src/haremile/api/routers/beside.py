"""What stands beside measurements: figures quoted from elsewhere, photographs of a run."""

from datetime import UTC, datetime
from uuid import UUID

from fastapi import APIRouter

from haremile.api.dependencies import Bench
from haremile.api.schemas.beside import (
    BesideChange,
    PhotographBesideIn,
    PhotographOut,
    QuotedOut,
    QuoteIn,
)
from haremile.formats.photographs import checked_photograph
from haremile.usecases.quoted import Quote, quoted_figure

router = APIRouter(tags=["beside"])


@router.post("/studies/{study_id}/quoted", status_code=201)
def quote_figure(study_id: UUID, asked: QuoteIn, bench: Bench) -> list[QuotedOut]:
    """Keep a figure from elsewhere beside a row; returns all of the study."""
    study = bench.studies.get(study_id)
    figure = quoted_figure(Quote(**asked.model_dump()), study, datetime.now(UTC))
    bench.beside.quote(figure)
    return list_quoted(study_id, bench)


@router.get("/studies/{study_id}/quoted")
def list_quoted(study_id: UUID, bench: Bench) -> list[QuotedOut]:
    """Figures that are quoted in a study, the oldest first."""
    return [QuotedOut.model_validate(one) for one in bench.beside.quoted(study_id)]


@router.patch("/quoted/{quoted_id}", status_code=204)
def change_quoted(quoted_id: UUID, asked: BesideChange, bench: Bench) -> None:
    """Take a quoted figure out, or bring it back."""
    bench.beside.withdraw_quoted(quoted_id, asked.is_withdrawn)


@router.post("/runs/{run_id}/photographs", status_code=201)
def add_photograph(run_id: UUID, asked: PhotographBesideIn, bench: Bench) -> list[PhotographOut]:
    """Keep a photograph beside a run; returns all that stand there."""
    bench.beside.photograph(asked.id, run_id, asked.name, checked_photograph(asked.image))
    return list_photographs(run_id, bench)


@router.get("/runs/{run_id}/photographs")
def list_photographs(run_id: UUID, bench: Bench) -> list[PhotographOut]:
    """Photographs beside a run, the oldest first."""
    return [PhotographOut.model_validate(one) for one in bench.beside.photographs(run_id)]


@router.patch("/photographs/{photograph_id}", status_code=204)
def change_photograph(photograph_id: UUID, asked: BesideChange, bench: Bench) -> None:
    """Take a photograph out, or bring it back."""
    bench.beside.withdraw_photograph(photograph_id, asked.is_withdrawn)
