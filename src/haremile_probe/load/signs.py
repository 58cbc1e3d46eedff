"""Serves the page set on loopback, and keeps what its pages say of themselves."""

import secrets
import threading
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any, Dict, List, NamedTuple, Optional
from urllib.parse import parse_qs, urlsplit

from haremile_probe.load.page_set import Item, items

MOST_SIGNS = 100_000
MOST_DELAY_MS = 10_000_000
MOST_DIGITS = 16


class Sign(NamedTuple):
    """What a page said: which page, when (monotonic, seconds), and its own delay in seconds."""

    page: int
    what: str
    at: float
    delay_s: float


class _Quiet(ThreadingHTTPServer):
    daemon_threads = True

    def handle_error(self, request: Any, client_address: Any) -> None:
        """A page that goes in the middle of a request is what a ramp is about."""


class PageServer:
    """The page set, and what is served beside it, at an address that only who is told it can guess.

    `counts` is what pages counted, by their number.
    """

    def __init__(self, beside: Optional[Dict[str, Item]] = None) -> None:
        self._beside = beside or {}
        self.counts: Dict[int, Dict[str, int]] = {}
        self._secret = secrets.token_hex(8)
        self._lock = threading.Lock()
        self._signs: List[Sign] = []
        self._server = _Quiet(("127.0.0.1", 0), self._handler())
        self._thread = threading.Thread(target=self._server.serve_forever, daemon=True)
        self._thread.start()

    def close(self) -> None:
        """Serve no more."""
        self._server.shutdown()
        self._server.server_close()
        self._thread.join()

    def address(self, page: int, kind: str) -> str:
        """Where a page of a kind is, by its number from 1."""
        port = self._server.server_address[1]
        return "http://127.0.0.1:%d/%s/%d/%s" % (port, self._secret, page, kind)

    def signs(self) -> List[Sign]:
        """Everything that was said, in order."""
        with self._lock:
            return list(self._signs)

    def said(self, page: int, what: str) -> Optional[Sign]:
        """When a page said something first; None if it did not."""
        return next((s for s in self.signs() if s.page == page and s.what == what), None)

    def last_heard(self) -> Dict[int, Sign]:
        """The last sign of each page."""
        return {sign.page: sign for sign in self.signs()}

    def _take(self, page: int, asked: Dict[str, List[str]]) -> None:
        what, delay = asked.get("what", [""])[0], asked.get("delay", ["0"])[0]
        if what not in ("loaded", "painted", "alive") or not delay.isdigit():
            return
        sign = Sign(page, what, time.monotonic(), min(int(delay), MOST_DELAY_MS) / 1000.0)
        with self._lock:
            if len(self._signs) < MOST_SIGNS:
                self._signs.append(sign)

    def _count(self, page: int, asked: Dict[str, List[str]]) -> None:
        counts = {name: given[0] for name, given in asked.items()}
        if all(text.isdigit() and len(text) <= MOST_DIGITS for text in counts.values()):
            self.counts[page] = {name[:MOST_DIGITS]: int(text) for name, text in counts.items()}

    def _handler(self) -> Any:
        outer = self

        class Handler(BaseHTTPRequestHandler):
            protocol_version = "HTTP/1.1"

            def _place(self) -> Optional["tuple[int, str]"]:
                """The page's number and what is asked of it; None for whoever guesses."""
                parts = urlsplit(self.path).path.split("/")
                if len(parts) < 4 or parts[1] != outer._secret or not parts[2].isdigit():
                    return None
                return int(parts[2]), "/".join(parts[3:])

            def _answer(self, code: int, body: bytes, kind: str = "text/plain") -> None:
                self.send_response(code)
                self.send_header("Content-Type", kind)
                self.send_header("Content-Length", str(len(body)))
                self.send_header("Cache-Control", "no-store")
                self.end_headers()
                self.wfile.write(body)

            def do_GET(self) -> None:
                place = self._place()
                every = {**items(), **outer._beside}
                found = every.get(place[1]) if place else None
                if found is None:
                    self._answer(404, b"")
                else:
                    self._answer(200, found.body, found.content_type)

            def do_POST(self) -> None:
                place = self._place()
                asked = parse_qs(urlsplit(self.path).query)
                if place is not None and place[1].endswith("/sign"):
                    outer._take(place[0], asked)
                elif place is not None and place[1].endswith("/counts"):
                    outer._count(place[0], asked)
                else:
                    self._answer(404, b"")
                    return
                self._answer(204, b"")

            def log_message(self, *words: Any) -> None:
                return  # what was asked for is none of the probe's own words

        return Handler
