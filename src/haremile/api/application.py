"""Puts the application together."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import APIRouter, FastAPI
from fastapi.responses import FileResponse
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles

from haremile import __version__
from haremile.api.event_stream import EventBell
from haremile.api.guard import Access, Guard
from haremile.api.ports import BenchParts
from haremile.api.problems import add_problem_handlers
from haremile.api.routers import (
    catalogue,
    events,
    intake,
    methods,
    pictures,
    probe,
    readings,
    rigs,
    running,
    studies,
    today,
)
from haremile.errors import MissingHereError, NotFoundError

METHODS = Path(__file__).resolve().parents[3] / "docs" / "methods.md"


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
        Who may speak with it; on loopback where none is stated.
    """

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        bell = EventBell(url)
        bell.start()
        app.state.bell = bell
        bench.runner.take_up_interrupted()
        yield
        bell.close()

    app = FastAPI(
        title="Hare Mile", version=__version__, lifespan=lifespan, docs_url=None, redoc_url=None,
        openapi_url="/api/openapi.json",
    )  # fmt: skip
    app.state.bench = bench
    app.state.methods = METHODS
    app.state.intakes = intake.Intakes()
    add_problem_handlers(app)
    app.add_middleware(GZipMiddleware, minimum_size=2000, compresslevel=1)
    app.add_middleware(Guard, access=access)
    api = APIRouter(prefix="/api")
    for part in (
        today,
        studies,
        running,
        intake,
        readings,
        catalogue,
        events,
        methods,
        pictures,
        rigs,
    ):
        api.include_router(part.router)
    api.include_router(intake.stages)
    app.include_router(api)
    app.include_router(probe.router)
    if web is not None:
        _serve_pages(app, web)
    return app


def _serve_pages(app: FastAPI, web: Path) -> None:
    index = web / "index.html"
    if not index.exists():
        raise MissingHereError("the pages are not built; run ./haremile serve, which builds them")
    app.mount("/assets", StaticFiles(directory=web / "assets"), name="assets")

    @app.get("/api/{path:path}", include_in_schema=False)
    def unknown_endpoint(path: str) -> None:
        raise NotFoundError("endpoint", f"/api/{path}")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> FileResponse:
        return FileResponse(index, headers={"Cache-Control": "no-cache"})
