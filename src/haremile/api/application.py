"""Puts the application together."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import APIRouter, FastAPI
from starlette.middleware.gzip import GZipMiddleware
from starlette.types import Lifespan

from haremile import __version__
from haremile.api.event_stream import EventBell
from haremile.api.guard import Access, Guard
from haremile.api.head import HeadAnswers
from haremile.api.pages import serve_pages
from haremile.api.ports import BenchParts
from haremile.api.problems import add_problem_handlers
from haremile.api.recognition import MachineMessages
from haremile.api.routers import (
    beside,
    by_hand,
    catalogue,
    corrections,
    document,
    entry,
    events,
    guests,
    health,
    incidents,
    intake,
    library,
    methods,
    own_measures,
    packages,
    people,
    pictures,
    probe,
    readings,
    reports,
    rigs,
    running,
    scorecards,
    standings,
    studies,
    today,
)

DESCRIPTION = """The bench over HTTP. Everything needs a session or a key; errors are problem
details (RFC 9457)."""

METHODS = Path(__file__).resolve().parents[3] / "docs" / "methods.md"


PARTS = (
    today,
    studies,
    running,
    intake,
    readings,
    reports,
    catalogue,
    own_measures,
    events,
    by_hand,
    beside,
    guests,
    methods,
    pictures,
    rigs,
    packages,
    people,
    corrections,
    library,
    standings,
    incidents,
    scorecards,
)


def interface(lifespan: Lifespan[FastAPI] | None = None) -> FastAPI:
    """Every endpoint, wired to nothing yet."""
    app = FastAPI(
        title="Hare Mile",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
        description=DESCRIPTION,
    )
    add_problem_handlers(app)
    api = APIRouter(prefix="/api")
    for part in PARTS:
        api.include_router(part.router)
    for router in (intake.stages, entry.own, health.own, document.router):
        api.include_router(router)
    app.include_router(api)
    app.include_router(probe.router)
    app.include_router(entry.router)
    app.include_router(health.router)
    return app


def create_app(
    bench: BenchParts, url: str, web: Path | None, access: Access | None = None
) -> FastAPI:
    """The application on a wired bench.

    Parameters
    ----------
    bench : BenchParts
    url : str
        Address of the database, to listen for events.
    web : Path or None
        The built pages; None serves the interface only.
    access : Access, optional
        Which names it answers for; those of loopback where none is stated.
    """

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        bell = EventBell(url)
        bell.start()
        app.state.bell = bell
        bench.runner.take_up_interrupted()
        yield
        bell.close()

    app = interface(lifespan)
    app.state.bench = bench
    app.state.methods = METHODS
    app.state.intakes = intake.Intakes()
    app.add_middleware(GZipMiddleware, minimum_size=2000, compresslevel=1)
    app.add_middleware(HeadAnswers)
    messages = MachineMessages(bench.machines.key_named)
    app.add_middleware(Guard, book=bench.access, machines=messages, access=access)
    if web is not None:
        serve_pages(app, web, lambda path: studies.findings_ahead(bench, path))
    return app
