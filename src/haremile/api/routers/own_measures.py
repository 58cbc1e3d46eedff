"""Measures that testers define."""

from fastapi import APIRouter

from haremile.api.dependencies import Bench
from haremile.api.schemas.own_measures import OwnMeasureIn, OwnMeasureOut
from haremile.api.schemas.standings import PutAwayIn

router = APIRouter(prefix="/own-measures", tags=["own measures"])


@router.get("")
def list_own_measures(bench: Bench) -> list[OwnMeasureOut]:
    """All that are defined, by name."""
    return [OwnMeasureOut.of(one) for one in bench.own_measures.all()]


@router.put("")
def define_own_measure(asked: OwnMeasureIn, bench: Bench) -> OwnMeasureOut:
    """Define a measure, or change what is said of one."""
    made = asked.measure()
    bench.own_measures.keep(made)
    return OwnMeasureOut.of(made)


@router.patch("/{key}", status_code=204)
def change_own_measure(key: str, asked: PutAwayIn, bench: Bench) -> None:
    """Take a measure out of the list, or bring it back; its readings always stay."""
    bench.own_measures.put_away(key, asked.is_put_away)
