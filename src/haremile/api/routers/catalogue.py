"""Installs and metrics: what a plan is made from."""

from fastapi import APIRouter

from haremile.api.dependencies import Bench
from haremile.api.schemas.studies import InstallOut
from haremile.core.records.metrics import CATALOGUE, Metric

router = APIRouter(tags=["catalogue"])


@router.get("/installs")
def list_installs(bench: Bench) -> list[InstallOut]:
    """All installs, those that can run by themselves and those that cannot."""
    return [InstallOut.model_validate(item) for item in bench.library.installs()]


@router.get("/metrics")
def list_metrics() -> list[Metric]:
    """The metric catalogue."""
    return list(CATALOGUE.values())
