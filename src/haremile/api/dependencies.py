"""How endpoints get at the bench."""

from typing import Annotated

from fastapi import Depends, Request

from haremile.api.event_stream import EventBell
from haremile.api.ports import BenchParts


def bench_of(request: Request) -> BenchParts:
    """The bench that the application was made with."""
    parts: BenchParts = request.app.state.bench
    return parts


def bell_of(request: Request) -> EventBell:
    """The bell that rings when events are added."""
    bell: EventBell = request.app.state.bell
    return bell


Bench = Annotated[BenchParts, Depends(bench_of)]
Bell = Annotated[EventBell, Depends(bell_of)]
