"""Connections: so many, and none that is held open without a request."""

import asyncio
import time
from typing import Any

import h11
from uvicorn.protocols.http.h11_impl import H11Protocol

MOST_CONNECTIONS = 256
HEADER_S = 10.0
"""How long a request's head may take from its first byte, and a connection until that byte."""


class BoundedProtocol(H11Protocol):
    """uvicorn's own protocol, with a deadline for heads and a bound on connections.

    Where there are too many, the oldest that still owes a request gives way: whoever holds
    connections open without asking anything cannot keep others out.
    """

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """A connection begins; its first request is awaited."""
        super().connection_made(transport)
        self._since = time.monotonic()
        self._deadline: asyncio.TimerHandle | None = None
        self._await_head()
        if len(self.connections) > MOST_CONNECTIONS:
            owing = [one for one in self.connections if getattr(one, "_deadline", None)]
            oldest = min(owing, key=lambda one: one._since, default=self)  # type: ignore[union-attr]
            oldest.transport.abort()

    def data_received(self, data: bytes) -> None:
        """Bytes arrived: they are of a head, or of the body of the request under way."""
        if self._deadline is None and self.conn.their_state is h11.IDLE:
            self._await_head()
        super().data_received(data)
        if self.conn.their_state is not h11.IDLE:
            self._no_longer()

    def connection_lost(self, exc: Exception | None) -> None:
        """It is over."""
        self._no_longer()
        super().connection_lost(exc)

    def _await_head(self) -> None:
        self._since = time.monotonic()
        self._deadline = self.loop.call_later(HEADER_S, self._too_late)

    def _no_longer(self) -> None:
        if self._deadline is not None:
            self._deadline.cancel()
            self._deadline = None

    def _too_late(self) -> None:
        self._deadline = None
        if not self.transport.is_closing():
            self.transport.abort()


def server_settings() -> dict[str, Any]:
    """What our server is told beside its application."""
    return {
        "http": BoundedProtocol,
        "ws": "none",
        "log_level": "warning",
        "access_log": False,
        "server_header": False,
        "proxy_headers": False,  # nobody says for others who they are
        "timeout_graceful_shutdown": 2,
        "timeout_keep_alive": 5,
        "h11_max_incomplete_event_size": 32 * 2**10,
    }
