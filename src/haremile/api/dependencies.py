"""How endpoints get at the bench."""

from typing import Annotated
from urllib.parse import urlsplit

from fastapi import Depends, Request

from haremile.api.event_stream import EventBell
from haremile.api.ports import BenchParts
from haremile.errors import BadInputError, NotAllowedError
from haremile.usecases.access import Principal, Role

LOOPBACK_HOSTS = frozenset({"127.0.0.1", "localhost", "::1"})


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


def heard_at(bench: BenchParts) -> tuple[str, str | None] | None:
    """Address at which others reach this server, and its certificate's sha256; None where it is
    heard on its own host only."""
    try:
        address, pin = bench.serving()
    except BadInputError:
        return None
    return None if urlsplit(address).hostname in LOOPBACK_HOSTS else (address, pin)
