"""Events as they happen, server-sent."""

import asyncio
from collections.abc import AsyncIterator
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Header, Query
from pydantic import TypeAdapter
from sse_starlette import EventSourceResponse, ServerSentEvent

from haremile.api.dependencies import Bell, Bench, Who
from haremile.api.event_stream import EventBell
from haremile.api.ports import BenchParts
from haremile.usecases.access import Principal
from haremile.usecases.ports import Event

router = APIRouter(tags=["events"])
EVENT = TypeAdapter(Event)

LONGEST_WAIT_S = 15.0
MOST_ID = 2**63 - 1


@router.get(
    "/events",
    response_class=EventSourceResponse,
    responses={200: {"model": Event, "description": "One event each"}},
)
async def stream_events(
    bench: Bench,
    bell: Bell,
    who: Who,
    study: UUID | None = None,
    after: Annotated[int, Query(ge=0, le=MOST_ID)] = 0,
    from_now: bool = False,
    last_event_id: Annotated[int | None, Header(ge=0, le=MOST_ID)] = None,
) -> EventSourceResponse:
    """Events after the one named, or from now on, then every further one; a page that was away
    catches up."""
    start = after if last_event_id is None else last_event_id
    if from_now and last_event_id is None:
        start = await asyncio.to_thread(bench.events.last_id)
    return EventSourceResponse(_events(bench, bell, who, study, start), ping=20)


async def _events(
    bench: BenchParts, bell: EventBell, who: Principal, study: UUID | None, last: int
) -> AsyncIterator[ServerSentEvent]:
    while not bell.is_closing and await asyncio.to_thread(bench.access.is_open, who):
        found = await asyncio.to_thread(bench.events.after, last, study)
        for event in found:
            last = event.id
            data = EVENT.dump_json(event).decode()
            yield ServerSentEvent(id=str(event.id), data=data)
        if not found:
            await bell.wait(LONGEST_WAIT_S)
