"""The built pages: one document for every address, and the files that it asks for."""

import gzip
import json
import mimetypes
import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from html import escape
from pathlib import Path

from fastapi import FastAPI, Request, Response
from fastapi.responses import HTMLResponse

from haremile.api.headers import fresh_nonce
from haremile.errors import MissingHereError, NotFoundError

NONCE_PLACE = "__NONCE__"
"""Where the page awaits the nonce of its styles."""

OFFLINE = "/offline.js"
"""What lets a page be loaded anew without the network; its place is what it may speak for."""

FOR_GOOD = "private, max-age=31536000, immutable"
"""A file's name holds the digest of its content: what has it never asks again."""

SQUEEZABLE = ("text/", "application/javascript", "application/json", "image/svg+xml")


@dataclass(frozen=True)
class Document:
    """The page, with what its address lets the browser fetch beside the first script."""

    text: str
    preloads: tuple[tuple[re.Pattern[str], str], ...]

    @classmethod
    def read(cls, web: Path) -> "Document":
        """From a folder of built pages. Raises MissingHereError where there are none."""
        index, preloads = web / "index.html", web / "preloads.json"
        if not index.exists():
            raise MissingHereError(
                "the pages are not built; run ./haremile serve, which builds them"
            )
        lines = json.loads(preloads.read_text()) if preloads.exists() else []
        made = [(re.compile(line["address"]), _links(line["files"])) for line in lines]
        return cls(index.read_text(), tuple(made))

    def at(self, path: str, nonce: str) -> str:
        """The document of one answer, whose styles carry its nonce alone."""
        links = next((text for address, text in self.preloads if address.fullmatch(path)), "")
        return self.text.replace(NONCE_PLACE, nonce).replace("</head>", f"{links}</head>", 1)


def _links(files: list[str]) -> str:
    return "".join(
        f'<link rel="modulepreload" crossorigin href="/{escape(file, quote=True)}">'
        for file in files
    )


@dataclass(frozen=True)
class Asset:
    """A file of the pages as it goes over the wire."""

    kind: str
    plain: bytes
    squeezed: bytes | None

    @classmethod
    def read(cls, path: Path) -> "Asset":
        """Compressed once, for everybody, where that makes it smaller."""
        body = path.read_bytes()
        kind = mimetypes.guess_type(path.name)[0] or "application/octet-stream"
        kind = "application/javascript" if kind == "text/javascript" else kind
        return cls(kind, body, gzip.compress(body) if kind.startswith(SQUEEZABLE) else None)

    def answer(self, request: Request) -> Response:
        """To whoever asks."""
        headers = {"Cache-Control": FOR_GOOD, "Vary": "Accept-Encoding"}
        if self.squeezed is None or "gzip" not in request.headers.get("accept-encoding", ""):
            return Response(self.plain, media_type=self.kind, headers=headers)
        headers["Content-Encoding"] = "gzip"
        return Response(self.squeezed, media_type=self.kind, headers=headers)


def serve_pages(app: FastAPI, web: Path, asked: Callable[[str], None]) -> None:
    """Add the pages to an application; `asked` is told the path of each page that is opened."""
    document = Document.read(web)
    worker = (web / OFFLINE.lstrip("/")).read_bytes()
    names = frozenset(path.name for path in (web / "assets").iterdir())
    kept = lru_cache(maxsize=len(names) + 1)(lambda name: Asset.read(web / "assets" / name))

    @app.get("/assets/{name}", include_in_schema=False)
    def asset(name: str, request: Request) -> Response:
        if name not in names:
            raise NotFoundError("file", f"/assets/{name}")
        return kept(name).answer(request)

    @app.get(OFFLINE, include_in_schema=False)
    def offline() -> Response:
        # asked for anew each time: what it keeps stands until it says otherwise
        headers = {"Cache-Control": "no-cache"}
        return Response(worker, media_type="application/javascript", headers=headers)

    @app.get("/api/{path:path}", include_in_schema=False)
    def unknown_endpoint(path: str) -> None:
        raise NotFoundError("endpoint", f"/api/{path}")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str, request: Request) -> HTMLResponse:
        asked(path)
        body = document.at(path, fresh_nonce(request.scope))
        return HTMLResponse(body, headers={"Cache-Control": "no-store"})
