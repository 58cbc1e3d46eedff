"""Standings and totals: everything that was ever measured."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Query, Request, Response
from pydantic import StringConstraints

from haremile.api.dependencies import Bench
from haremile.api.responses import KeptAnswer
from haremile.api.schemas.standings import BandsIn, MadeSetOut, PutAwayIn, WeightSetIn
from haremile.core.records.metrics import metric
from haremile.core.standing.total import Ends
from haremile.errors import BadInputError
from haremile.usecases.fitting import AskedFit, FitsPage, fits_page
from haremile.usecases.series import AskedSeries, SeriesPage, series_page
from haremile.usecases.standings import Asked, StandingsPage, standings_page
from haremile.usecases.totals import MOST_PARTS, AskedTotals, TotalsPage, kept_set, totals_page

router = APIRouter(tags=["standings"])

MOST_HELD = 20
MOST_LENGTH = 200
Word = Annotated[str | None, Query(max_length=MOST_LENGTH)]
Held = Annotated[str, StringConstraints(max_length=MOST_LENGTH)]
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


def _asked_series(
    metric_key: Annotated[str | None, Query(alias="metric", max_length=MOST_LENGTH)] = None,
    method: Word = None,
    start: Word = None,
    facet: Word = None,
    series: Annotated[str | None, Query(max_length=3 * MOST_LENGTH)] = None,
) -> AskedSeries:
    """Which question, and which series of it."""
    return AskedSeries(metric_key, method, start, facet, series)


@router.get("/series")
def get_series(bench: Bench, asked: Annotated[AskedSeries, Depends(_asked_series)]) -> SeriesPage:
    """An edition over its releases, or an install over the months."""
    return series_page(bench.ever, bench.things, asked)


def _asked_fit(
    machine: UUID | None = None,
    memory: Word = None,
    space: Word = None,
    cores: Annotated[float | None, Query(ge=1, le=4096)] = None,
    architecture: Word = None,
    need: Annotated[list[Held] | None, Query(max_length=MOST_HELD)] = None,
    set_id: UUID | None = None,
) -> AskedFit:
    """A machine, or what one has: ``4 GiB``; each `need` is what has to work on it."""
    return AskedFit(machine, memory, space, cores, architecture, tuple(need or ()), set_id)


@router.get("/fits")
def get_fits(bench: Bench, asked: Annotated[AskedFit, Depends(_asked_fit)]) -> FitsPage:
    """Which system for this machine: each no with its reason, each maybe with what settles it."""
    return fits_page(bench.ever, bench.things, bench.weight_sets, bench.scorecards, asked)


def _asked_totals(
    study: UUID | None = None,
    machine: Word = None,
    weight: Annotated[list[str] | None, Query(max_length=MOST_PARTS)] = None,
    reference: Word = None,
    set_id: UUID | None = None,
    nothing: float | None = None,
    hundred: float | None = None,
) -> AskedTotals:
    """What is asked for; weights are given as ``PART:WEIGHT``, ends are the index at 0 and 100."""
    ends = None if nothing is None or hundred is None else Ends(nothing, hundred)
    weights = dict(_weight(one) for one in weight or ())
    return AskedTotals(study, machine, weights, reference, set_id, ends)


def _weight(text: str) -> tuple[str, float]:
    part, _, number = text[:MOST_LENGTH].rpartition(":")
    try:
        return part, float(number)
    except ValueError:
        raise BadInputError(f"a weight is given as PART:WEIGHT, not {text}") from None


@router.get("/totals")
def get_totals(bench: Bench, asked: Annotated[AskedTotals, Depends(_asked_totals)]) -> TotalsPage:
    """Several measures as one index, 100 at the reference; more is better."""
    return totals_page(bench.ever, bench.weight_sets, asked)


@router.post("/totals/sets", status_code=201)
def keep_set(asked: WeightSetIn, bench: Bench) -> MadeSetOut:
    """Keep weights under a name, with the reference as it is now; one of that name is replaced."""
    ends = None if asked.ends is None else Ends(*asked.ends)
    wanted = AskedTotals(asked.study, asked.machine, asked.weights, asked.reference, None, ends)
    made = kept_set(bench.ever, bench.weight_sets, wanted, asked.name, asked.use or "")
    return MadeSetOut(id=made)


@router.patch("/totals/sets/{set_id}", status_code=204)
def change_set(set_id: UUID, asked: PutAwayIn, bench: Bench) -> None:
    """Put a set of weights away, or bring it back."""
    bench.weight_sets.put_away(set_id, asked.is_put_away)


@router.put("/standings/bands/{metric_key}", status_code=204)
def set_bands(metric_key: str, asked: BandsIn, bench: Bench) -> None:
    """Say where light ends and heavy begins; returns nothing."""
    known = metric(metric_key)
    bench.ever.set_bands(known.key, asked.bands(known))


@router.delete("/standings/bands/{metric_key}", status_code=204)
def remove_bands(metric_key: str, bench: Bench) -> None:
    """Take the bands out."""
    bench.ever.set_bands(metric(metric_key).key, None)
