"""How endpoints get at the bench."""

from typing import Annotated

from fastapi import Depends, Request

from haremile.api.event_stream import EventBell
from haremile.api.ports import BenchParts
from haremile.errors import NotAllowedError
from haremile.usecases.access import Principal, Role


def bench_of(request: Request) -> BenchParts:
    """The bench that the application was made with."""
    parts: BenchParts = request.app.state.bench
    return parts


def bell_of(request: Request) -> EventBell:
    """The bell that rings when events are added."""
    bell: EventBell = request.app.state.bell
    return bell


def who_of(request: Request) -> Principal:
    """Who asks, as the guard recognised them."""
    found: Principal = request.state.principal
    return found


def owner_of(request: Request) -> Principal:
    """Who asks, where only the owner may. Raises NotAllowedError."""
    found = who_of(request)
    if not found.role.may(Role.OWN):
        raise NotAllowedError("only somebody with the role own may see or change this")
    return found


Bench = Annotated[BenchParts, Depends(bench_of)]
Who = Annotated[Principal, Depends(who_of)]
Owner = Annotated[Principal, Depends(owner_of)]
Bell = Annotated[EventBell, Depends(bell_of)]
