"""Whether the bench is well, for persons, for what watches it, and in figures."""

from fastapi import APIRouter, Response
from prometheus_client import CollectorRegistry, Gauge
from prometheus_client.exposition import CONTENT_TYPE_LATEST, generate_latest
from pydantic import BaseModel

from haremile.api.dependencies import Bell, Bench, Who
from haremile.api.event_stream import EventBell
from haremile.api.ports import BenchParts
from haremile.core.wording.disk import disk_word
from haremile.errors import NotAllowedError, StoreUnavailableError
from haremile.usecases.access import Way

router = APIRouter(tags=["health"])
own = APIRouter(tags=["health"])


class WellOut(BaseModel):
    """`disk` is what has to be said of it, null where there is room enough."""

    disk: str | None


@own.get("/health")
def get_health(bench: Bench) -> WellOut:
    """What every page says beside what it is about."""
    return WellOut(disk=disk_word(*bench.disk()))


@router.get("/healthz")
def is_well(bench: Bench) -> Response:
    """Whether server and database answer, and nothing else: open to everyone."""
    try:
        bench.health.is_up()
    except StoreUnavailableError:
        return Response("the database does not answer\n", 503, media_type="text/plain")
    return Response("ok\n", media_type="text/plain")


@router.get("/metrics", include_in_schema=False)
def get_figures(bench: Bench, bell: Bell, who: Who) -> Response:
    """Figures in the Prometheus text format, to a key; a cookie reaches every port of a host."""
    if who.way is not Way.KEY:
        raise NotAllowedError("figures are told to a key: ./haremile key add NAME --role look")
    return Response(generate_latest(_figures(bench, bell)), media_type=CONTENT_TYPE_LATEST)


def _figures(bench: BenchParts, bell: EventBell) -> CollectorRegistry:
    registry = CollectorRegistry()

    def told(name: str, says: str, value: float | None) -> None:
        if value is not None:
            Gauge(f"haremile_{name}", says, registry=registry).set(value)

    free, total = bench.disk()
    told("disk_free_bytes", "Free where the bench book stands.", free)
    told("disk_total_bytes", "Size of the disk on which the bench book stands.", total)
    silence = "Seconds since the database was heard last for the event stream."
    told("event_lag_seconds", silence, bell.silence_s)
    try:
        found = bench.health.figures()
    except StoreUnavailableError:
        told("database_up", "1 where the database answers.", 0.0)
        return registry
    told("database_up", "1 where the database answers.", 1.0)
    told("database_bytes", "Size of the database.", found.database_bytes)
    told("queue_length", "Runs of running studies that wait for their turn.", found.queued)
    waited = "Seconds for which a machine has been waited for at longest; 0 where none is."
    told("oldest_waiting_machine_seconds", waited, found.waiting_s or 0.0)
    told("last_event", "Number of the newest event.", found.event)
    runs = Gauge("haremile_runs", "Runs by their state.", ["state"], registry=registry)
    for state, number in found.runs.items():
        runs.labels(str(state)).set(number)
    return registry
