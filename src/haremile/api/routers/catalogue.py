"""Installs, procedures and metrics: what a plan is made from."""

from dataclasses import replace

from fastapi import APIRouter

from haremile.api.dependencies import Bench
from haremile.api.schemas.studies import InstallOut
from haremile.core.records.metrics import CATALOGUE, Metric
from haremile.core.records.procedures import PROCEDURES, Procedure

router = APIRouter(tags=["catalogue"])


@router.get("/installs")
def list_installs(bench: Bench) -> list[InstallOut]:
    """All installs, those that can run by themselves and those that cannot."""
    return [InstallOut.model_validate(item) for item in bench.library.installs()]


@router.get("/procedures")
def list_procedures() -> list[Procedure]:
    """What one run can do, in the order in which it is done within a block."""
    return list(PROCEDURES.values())


@router.get("/metrics")
def list_metrics(bench: Bench) -> list[Metric]:
    """The metric catalogue, and what testers defined."""
    own = [replace(one.metric, margin=one.margin) for one in bench.own_measures.all()]
    return [*CATALOGUE.values(), *own]
