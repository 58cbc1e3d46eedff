"""Markdown as HTML that can do no harm."""

import re
from functools import lru_cache
from itertools import pairwise

from markdown_it import MarkdownIt


@lru_cache(maxsize=16)
def rendered(text: str) -> str:
    """Markdown as HTML with an anchor at every heading; raw HTML in it stays text."""
    markdown = MarkdownIt("commonmark", {"html": False}).enable("table")
    tokens = markdown.parse(text)
    for opened, content in pairwise(tokens):
        if opened.type == "heading_open":
            opened.attrSet("id", anchor(content.content))
    html: str = markdown.renderer.render(tokens, markdown.options, {})
    return html


@lru_cache(maxsize=16)
def rendered_words(text: str) -> str:
    """A tester's words as HTML: neither raw HTML nor pictures, which would be fetched from
    elsewhere; links stay."""
    markdown = MarkdownIt("commonmark", {"html": False}).enable("table").disable("image")
    html: str = markdown.render(text)
    return html


def anchor(heading: str) -> str:
    """The name by which a heading is linked: ``The verdict`` is ``the-verdict``."""
    return re.sub(r"[^a-z0-9]+", "-", heading.lower()).strip("-")
