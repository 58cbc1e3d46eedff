"""What pictures need beyond findings: the parts of the boot, and curves."""

from uuid import UUID

from fastapi import APIRouter

from haremile.api.dependencies import Bench
from haremile.api.schemas.pictures import (
    BootPartOut,
    BootPartsOut,
    BootUnitsOut,
    LanePartsOut,
    PartSourceOut,
    UnitOut,
)
from haremile.core.wording.boot_parts import part_label
from haremile.usecases.boot_parts import MachineParts, boot_units, study_boot_parts
from haremile.usecases.ports import StoredTrace

router = APIRouter(prefix="/studies", tags=["pictures"])


@router.get("/{study_id}/boot-parts")
def get_boot_parts(study_id: UUID, bench: Bench) -> list[BootPartsOut]:
    """Each lane's boot as a chain of its parts, machine by machine."""
    return [_parts(found) for found in study_boot_parts(bench.studies, bench.readings, study_id)]


@router.get("/{study_id}/traces")
def get_traces(study_id: UUID, metric: str, bench: Bench) -> list[StoredTrace]:
    """Every run's curve of one metric, in run order."""
    bench.studies.get(study_id)
    return bench.readings.traces(study_id, metric)


@router.get("/{study_id}/runs/{run_id}/boot-units")
def get_boot_units(study_id: UUID, run_id: UUID, bench: Bench) -> BootUnitsOut:
    """What ran when in one boot, from the evidence that its run brought."""
    bench.studies.get(study_id)
    units = boot_units(bench.readings, run_id)
    return BootUnitsOut(run_id=run_id, units=[UnitOut(**vars(one)) for one in units])


def _parts(found: MachineParts) -> BootPartsOut:
    sources = [
        PartSourceOut(metric=s.metric, label=part_label(s.metric), method=s.method)
        for s in found.sources
    ]
    lanes = [
        LanePartsOut(
            lane_no=lane.lane_no,
            runs=lane.runs,
            opened=list(lane.opened),
            parts=[
                BootPartOut.model_validate({**vars(part), "label": part_label(part.metric)})
                for part in lane.parts
            ],
        )
        for lane in found.lanes
    ]
    return BootPartsOut(
        machine=found.machine,
        sources=sources,
        lanes=lanes,
        headline=found.headline,
        sentence=found.sentence,
    )
