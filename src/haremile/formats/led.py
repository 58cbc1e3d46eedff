"""Figures in a report's sentences as links to what they rest on, in the same file."""

import re
from collections.abc import Mapping, Sequence
from typing import Any

from markupsafe import Markup, escape

_NUMBER = r"[+−]?\d[\d,]*(?:\.\d+)?"
_OF = "|".join(
    (
        "s",
        "ms",
        "min",
        "h",
        "B",
        "KiB",
        "MiB",
        "GiB",
        "B/s",
        "KiB/s",
        "MiB/s",
        "GiB/s",
        "W",
        "runs?",
        "boots?",
        "launches",
        "ramps?",
        "readings?",
        "pages?",
        "repeats?",
    )
)
FIGURE = re.compile(
    rf"(?<=\(){_NUMBER} to {_NUMBER}(?=\))|"
    rf"(?:{_NUMBER}\s(?:to|of|and)\s)?{_NUMBER}(?:\s?%|/s|\s(?:counted )?(?:{_OF})(?![\w/]))"
)
"""A figure with what it counts or its unit; a number alone may be part of a name."""

_TAG = re.compile(r"(<[^>]*>)")


def anchors_of(section: Mapping[str, Any]) -> dict[str, str]:
    """To which readings the cells of a section's table lead, by their text; of a text that stands
    in several none."""
    found: dict[str, str] = {}
    for row in section["rows"]:
        for cell in row:
            if cell["anchor"]:
                known = found.setdefault(cell["text"], cell["anchor"])
                found[cell["text"]] = cell["anchor"] if known == cell["anchor"] else ""
    return found


def led(
    text: str, section: Mapping[str, Any], table: str, known: frozenset[str] | None = None
) -> Markup:
    """A sentence, its figures as links: to a lane's readings where the table has just that figure,
    else to the table, whose figures lead there. A section that rests on no readings stays as it is.

    Parameters
    ----------
    text : str
    section : mapping
        As a report's content has it.
    table : str
        The id of the section's table in the file.
    known : frozenset of str, optional
        Figures that were measured; without it all that stand there.
    """
    anchors = anchors_of(section)
    if not anchors:
        return escape(text)
    parts, at = [], 0
    for match in FIGURE.finditer(text):
        if known is not None and match[0] not in known:
            continue
        target = anchors.get(match[0]) or table
        parts.append(escape(text[at : match.start()]))
        parts.append(Markup('<a href="#{}">{}</a>').format(target, match[0]))
        at = match.end()
    return Markup("").join([*parts, escape(text[at:])])


def leading(sections: Sequence[Mapping[str, Any]], headline: str) -> int | None:
    """Which section a headline is of: the one that has it too, else the first that rests on
    readings; its place, None for none."""
    rested = [place for place, one in enumerate(sections) if anchors_of(one)]
    same = [place for place in rested if sections[place]["headline"] == headline]
    return next(iter([*same, *rested]), None)


def led_html(html: str, sections: Sequence[Mapping[str, Any]], place: int, table: str) -> Markup:
    """The same of a tester's words, rendered already: of the figures that any section says too.
    Within links and code nothing is changed."""
    known = frozenset(
        match[0]
        for one in sections
        for text in (one["headline"], *one["paragraphs"])
        for match in FIGURE.finditer(text)
    )
    section = sections[place]
    parts, kept = [], 0
    for piece in _TAG.split(html):
        if piece.startswith("<"):
            kept += piece.startswith(("<a", "<code", "<pre"))
            kept -= piece.startswith(("</a", "</code", "</pre"))
            parts.append(Markup(piece))
        else:
            parts.append(
                Markup(piece) if kept else led(Markup(piece).unescape(), section, table, known)
            )
    return Markup("").join(parts)
