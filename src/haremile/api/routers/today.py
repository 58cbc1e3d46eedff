"""Today: machines, and what needs a hand."""

from fastapi import APIRouter

from haremile.api.dependencies import Bench
from haremile.api.schemas import TodayOut
from haremile.usecases.today import today

router = APIRouter(tags=["today"])


@router.get("/today")
def get_today(bench: Bench) -> TodayOut:
    """What each machine is doing, what comes next, and what waits for a person."""
    return TodayOut.model_validate(today(bench.studies, bench.events))
