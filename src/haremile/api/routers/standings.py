"""Standings: everything that was ever measured."""

from typing import Annotated

from fastapi import APIRouter, Depends, Query, Request, Response

from haremile.api.dependencies import Bench
from haremile.api.responses import KeptAnswer
from haremile.api.schemas.standings import BandsIn
from haremile.core.records.metrics import metric
from haremile.errors import BadInputError
from haremile.usecases.standings import Asked, StandingsPage, standings_page

router = APIRouter(tags=["standings"])

MOST_HELD = 20
MOST_LENGTH = 200
Word = Annotated[str | None, Query(max_length=MOST_LENGTH)]
Year = Annotated[int | None, Query(ge=1990, le=2200)]


def _asked(
    metric_key: Annotated[str | None, Query(alias="metric", max_length=MOST_LENGTH)] = None,
    method: Word = None,
    start: Word = None,
    facet: Word = None,
    machine: Word = None,
    level: Word = None,
    desktop: Word = None,
    base: Word = None,
    channel: Word = None,
    since: Year = None,
    until: Year = None,
    newest_only: bool = False,
    held: Annotated[list[str] | None, Query(max_length=MOST_HELD)] = None,
) -> Asked:
    """What is asked for; conditions are held as ``KEY:VALUE``."""
    return Asked(
        metric_key,
        method,
        start,
        facet,
        machine,
        level,
        desktop,
        base,
        channel,
        since,
        until,
        newest_only,
        dict(_held(one) for one in held or ()),
    )


def _held(text: str) -> tuple[str, str]:
    key, mark, value = text[:MOST_LENGTH].partition(":")
    if not mark:
        raise BadInputError(f"a condition is held as KEY:VALUE, not {text[:MOST_LENGTH]}")
    return key, value


@router.get("/standings", response_model=StandingsPage)
def get_standings(
    request: Request, bench: Bench, asked: Annotated[Asked, Depends(_asked)]
) -> Response:
    """Every system on one list, through studies that measured them side by side."""
    return KeptAnswer.of(standings_page(bench.ever, bench.things, asked)).answer(request)


@router.put("/standings/bands/{metric_key}", status_code=204)
def set_bands(metric_key: str, asked: BandsIn, bench: Bench) -> None:
    """Say where light ends and heavy begins; returns nothing."""
    known = metric(metric_key)
    bench.ever.set_bands(known.key, asked.bands(known))


@router.delete("/standings/bands/{metric_key}", status_code=204)
def remove_bands(metric_key: str, bench: Bench) -> None:
    """Take the bands out."""
    bench.ever.set_bands(metric(metric_key).key, None)
