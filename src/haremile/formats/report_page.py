"""A report as one file that needs no server: words, tables, and what draws its pictures."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from pathlib import Path
from typing import Any

from jinja2 import Environment, PackageLoader, StrictUndefined

from haremile.errors import MissingHereError
from haremile.formats.led import leading, led, led_html

SCRIPT, LOOKS = "report.js", "report.css"


@dataclass(frozen=True)
class Stamp:
    """Which version a page is, None where none was published; and what the one before said
    otherwise."""

    version: int | None
    at: datetime
    sha256: str
    changes: tuple[str, ...]


@lru_cache(maxsize=1)
def _environment() -> Environment:
    made = Environment(
        loader=PackageLoader("haremile.formats", "templates"),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    made.filters["moment"] = _moment
    made.filters["led"] = led
    made.filters["led_html"] = led_html
    return made


def _moment(text: str | None) -> str:
    """An instant as persons read it, with its offset: that of the file does not matter."""
    return "" if text is None else datetime.fromisoformat(text).strftime("%-d %b %Y, %H:%M %Z")


def report_page(folder: Path, content: Mapping[str, Any], stamp: Stamp) -> bytes:
    """The whole file.

    Parameters
    ----------
    folder : Path
        Where the build put what draws the pictures.
    content : mapping
        As JSON would have it; every text in it is written as text, but for `lead_html`.
    stamp : Stamp

    Raises
    ------
    MissingHereError
        If the pages were not built.
    """
    script, looks = folder / SCRIPT, folder / LOOKS
    if not script.exists() or not looks.exists():
        raise MissingHereError(
            "what draws a report's pictures is not built; run ./haremile serve, which builds it"
        )
    figures = {
        "lanes": content["lanes"],
        "figures": [section["figure"] for section in content["sections"]],
    }
    page = _environment().get_template("report.html")
    text: str = page.render(
        report=content,
        first=leading(content["sections"], content["headline"]),
        stamp=stamp,
        figures=figures,
        script=script.read_text("utf-8").replace("</script", "<\\/script"),
        looks=looks.read_text("utf-8"),
    )
    return text.encode()


def index_page(
    title: str, origin: str, at: datetime, studies: Sequence[tuple[str, str, str]]
) -> bytes:
    """The first page of a package: each study's title, what it answers, and its page's name."""
    page = _environment().get_template("package.html")
    text: str = page.render(title=title, origin=origin, at=at.isoformat(), studies=studies)
    return text.encode()
