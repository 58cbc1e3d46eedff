"""What pictures need beyond findings: the parts of the boot, and curves."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query

from haremile.api.dependencies import Bench
from haremile.api.schemas.pictures import (
    BootPartsOut,
    BootUnitsOut,
    RampsOut,
    UnitOut,
)
from haremile.core.records.units import MIB
from haremile.usecases.boot_parts import boot_units, study_boot_parts
from haremile.usecases.ports import StoredTrace
from haremile.usecases.ramps import Asked, study_ramps

router = APIRouter(prefix="/studies", tags=["pictures"])


@router.get("/{study_id}/boot-parts")
def get_boot_parts(study_id: UUID, bench: Bench) -> list[BootPartsOut]:
    """Each lane's boot as a chain of its parts, machine by machine."""
    return [
        BootPartsOut.of(found)
        for found in study_boot_parts(bench.studies, bench.readings, study_id)
    ]


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


SIZES_GIB = (1.0, 2.0, 4.0, 8.0)


@router.get("/{study_id}/ramps")
def get_ramps(
    study_id: UUID,
    bench: Bench,
    pages: Annotated[int, Query(ge=1, le=1000)] = 10,
    reserve_mib: Annotated[float, Query(ge=0, le=1e6)] = 100.0,
    swap_mib: Annotated[float, Query(ge=0, le=1e6)] = 0.0,
) -> RampsOut:
    """Every ramp of a study, and whether so many pages fit into machines of 1, 2, 4 and 8 GiB."""
    asked = Asked(pages, reserve_mib * MIB, swap_mib * MIB, [size * 2**30 for size in SIZES_GIB])
    return RampsOut.model_validate(study_ramps(bench.studies, bench.readings, study_id, asked))
