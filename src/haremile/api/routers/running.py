"""A person's hand in a study that runs: stop, skip, plan again, note a disturbance."""

from uuid import UUID

from fastapi import APIRouter

from haremile.api.dependencies import Bench
from haremile.api.schemas.base import Reason, ReasonOrNone
from haremile.api.schemas.runs import Disturbance, DisturbanceOut, PlannedAgain
from haremile.usecases.ports import Event

router = APIRouter(tags=["running"])

KIND = "study.disturbed"


@router.post("/studies/{study_id}/stop", status_code=202)
def stop_study(study_id: UUID, bench: Bench) -> None:
    """End the run that is under way at once; it is planned again, and the study pauses."""
    bench.runner.stop_now(study_id)


@router.post("/studies/{study_id}/plan-failed-again")
def plan_failed_again(study_id: UUID, bench: Bench) -> PlannedAgain:
    """Plan every failed run as a new attempt."""
    bench.studies.get(study_id)
    return PlannedAgain(runs=bench.queue.plan_failed_again(study_id))


@router.post("/runs/{run_id}/skip", status_code=204)
def skip_run(run_id: UUID, asked: Reason, bench: Bench) -> None:
    """Leave a planned run out, with its reason."""
    bench.queue.skip(run_id, asked.reason)


@router.put("/runs/{run_id}/set-aside", status_code=204)
def set_failed_run_aside(run_id: UUID, asked: ReasonOrNone, bench: Bench) -> None:
    """Set a failed run aside with a reason, or (null) let it count again."""
    bench.queue.set_aside(run_id, asked.reason)


@router.post("/studies/{study_id}/disturbances", status_code=201)
def note_disturbance(study_id: UUID, asked: Disturbance, bench: Bench) -> list[DisturbanceOut]:
    """Note on the spot what disturbed the study; returns all that was noted."""
    bench.studies.get(study_id)
    under_way = [run for run in bench.studies.runs(study_id) if run.state.is_under_way]
    run_id = under_way[0].id if under_way else None
    bench.events.add(KIND, study_id, run_id, text=asked.text)
    return list_disturbances(study_id, bench)


@router.get("/studies/{study_id}/disturbances")
def list_disturbances(study_id: UUID, bench: Bench) -> list[DisturbanceOut]:
    """Everything that was noted, in order."""
    return [_out(event) for event in bench.events.of_kind(KIND, study_id)]


def _out(event: Event) -> DisturbanceOut:
    text = str(event.facts.get("text", ""))
    return DisturbanceOut(id=event.id, at=event.at, run_id=event.run_id, text=text)
