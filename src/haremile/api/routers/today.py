"""Today: machines, and what needs a hand."""

from fastapi import APIRouter

from haremile.api.dependencies import Bench
from haremile.usecases.today import Today, today

router = APIRouter(tags=["today"])


@router.get("/today")
def get_today(bench: Bench) -> Today:
    """What each machine is doing, what comes next, and what waits for a person."""
    return today(bench.studies, bench.events)
