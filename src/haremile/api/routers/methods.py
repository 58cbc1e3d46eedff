"""The page of methods, for those who ask how a number was calculated."""

import re
from functools import lru_cache
from itertools import pairwise
from pathlib import Path

from fastapi import APIRouter, Request
from markdown_it import MarkdownIt

from haremile.api.schemas.methods import MethodsOut
from haremile.errors import MissingHereError

router = APIRouter(tags=["methods"])


@router.get("/methods")
def get_methods(request: Request) -> MethodsOut:
    """How Hare Mile calculates, as a page with an anchor at every heading."""
    page: Path = request.app.state.methods
    if not page.exists():
        raise MissingHereError(f"the page of methods is not there: {page}")
    return MethodsOut(html=rendered(page.read_text("utf-8")))


@lru_cache(maxsize=4)
def rendered(text: str) -> str:
    """Markdown as HTML; raw HTML in it stays text."""
    markdown = MarkdownIt("commonmark", {"html": False}).enable("table")
    tokens = markdown.parse(text)
    for opened, content in pairwise(tokens):
        if opened.type == "heading_open":
            opened.attrSet("id", anchor(content.content))
    html: str = markdown.renderer.render(tokens, markdown.options, {})
    return html


def anchor(heading: str) -> str:
    """The name by which a heading is linked: ``The verdict`` is ``the-verdict``."""
    return re.sub(r"[^a-z0-9]+", "-", heading.lower()).strip("-")
