"""Tells waiting pages that events were added, as soon as PostgreSQL says so."""

import asyncio
import logging
import threading
import time

import psycopg

from haremile.usecases.ports import EVENT_CHANNEL

log = logging.getLogger(__name__)

RETRY_S = 1.0


class EventBell:
    """Listens on a connection of its own, in a thread, and wakes everyone who waits."""

    def __init__(self, url: str):
        self._url = url
        self._loop: asyncio.AbstractEventLoop | None = None
        self._rung = asyncio.Event()
        self._heard_at: float | None = None
        self._closing = threading.Event()
        self._thread = threading.Thread(target=self._listen, name="event-bell", daemon=True)

    def start(self) -> None:
        """Begin to listen; to be called on the event loop."""
        self._loop = asyncio.get_running_loop()
        self._thread.start()

    def close(self) -> None:
        """Stop listening and wake everyone for the last time."""
        self._closing.set()
        self._thread.join(5)
        self._ring()

    @property
    def is_closing(self) -> bool:
        """Whether the server is ending."""
        return self._closing.is_set()

    @property
    def silence_s(self) -> float | None:
        """Seconds since the database was heard last; None where it never was. It is asked twice a
        second, so that more than a few mean that pages are told nothing."""
        return None if self._heard_at is None else time.monotonic() - self._heard_at

    async def wait(self, seconds: float) -> None:
        """Wait for the next ring, at most `seconds`."""
        try:
            await asyncio.wait_for(self._rung.wait(), seconds)
        except TimeoutError:
            pass  # nothing happened in that time, which the caller expects

    def _ring(self) -> None:
        waiting, self._rung = self._rung, asyncio.Event()
        waiting.set()

    def _ring_from_thread(self) -> None:
        if self._loop is not None and not self._loop.is_closed():
            self._loop.call_soon_threadsafe(self._ring)

    def _listen(self) -> None:
        while not self._closing.is_set():
            try:
                with psycopg.connect(self._url, autocommit=True) as link:
                    link.execute(f"listen {EVENT_CHANNEL}")
                    self._ring_from_thread()  # what was added while nobody listened
                    while not self._closing.is_set():
                        self._heard_at = time.monotonic()
                        for _ in link.notifies(timeout=0.5, stop_after=1):
                            self._ring_from_thread()
            except psycopg.OperationalError as error:
                log.warning("events are not heard at the moment: %s", error)
                self._closing.wait(RETRY_S)
