"""A terminal's output, pasted: recognised piece by piece, each with what it counts.

Nothing is guessed. What may mean two things becomes a question; a line that nobody here
understands is told as such.
"""

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from haremile.core.records.bounds import HIDDEN
from haremile.errors import BadInputError
from haremile.formats.pasted.boot import read_blame, read_chain, read_startup, read_time
from haremile.formats.pasted.machine import (
    read_count,
    read_lscpu,
    read_os_release,
    read_summary,
    read_uname,
    read_uptime,
)
from haremile.formats.pasted.memory import (
    read_free,
    read_meminfo,
    read_ps,
    read_swapon,
    read_top,
    read_vmstat,
    read_zramctl,
)
from haremile.formats.pasted.pieces import (
    PROMPT,
    Line,
    Piece,
    Question,
    Recognised,
    Stated,
    is_prompt,
)
from haremile.formats.pasted.storage import read_df, read_du, read_lsblk

MOST_CHARACTERS, MOST_LINES, MOST_WIDTH = 400_000, 8000, 2000

COLOURS = re.compile(r"\x1b\[[0-9;?]*[A-Za-z]|\x1b\][^\x07\x1b]*(?:\x07|\x1b\\)|\x1b[()][A-Z0-9]")
UNSEEN = re.compile(f"[{HIDDEN}]")
READERS: Sequence[Callable[[Sequence[Line], int, Recognised], int]] = (
    read_top,
    read_free,
    read_vmstat,
    read_meminfo,
    read_swapon,
    read_zramctl,
    read_ps,
    read_df,
    read_du,
    read_lsblk,
    read_startup,
    read_blame,
    read_chain,
    read_time,
    read_os_release,
    read_uname,
    read_lscpu,
    read_uptime,
    read_count,
    read_summary,
)


@dataclass(frozen=True)
class Pasted:
    """What a text holds; places count characters of `text`, which is the text without colours.

    Attributes
    ----------
    unread : tuple of (start, end)
        Lines that were not understood.
    """

    text: str
    pieces: tuple[Piece, ...]
    stated: tuple[Stated, ...]
    questions: tuple[Question, ...]
    unread: tuple[tuple[int, int], ...]
    system: str | None


def recognise(text: str) -> Pasted:
    """Recognise what a pasted text holds. Raises BadInputError where it is beyond the bounds."""
    if len(text) > MOST_CHARACTERS:
        raise BadInputError(f"{len(text)} characters; at most {MOST_CHARACTERS} are looked at")
    plain = UNSEEN.sub("", COLOURS.sub("", text.replace("\r\n", "\n").replace("\r", "\n")))
    lines = _lines(plain)
    if len(lines) > MOST_LINES:
        raise BadInputError(f"{len(lines)} lines; at most {MOST_LINES} are looked at")
    found, unread, at = Recognised(), [], 0
    while at < len(lines):
        line = lines[at]
        if not line.text.strip() or is_prompt(line.text):
            at += 1
            continue
        used = 0
        if len(line.text) <= MOST_WIDTH:
            used = next((n for read in READERS if (n := read(lines, at, found))), 0)
        if not used:
            unread.append((line.start, line.end))
        at += used or 1
    return Pasted(
        plain,
        tuple(found.pieces),
        tuple(found.stated),
        (*found.questions, *_contradictions(found.pieces)),
        tuple(unread),
        found.system,
    )


def _contradictions(pieces: Sequence[Piece]) -> list[Question]:
    """The same measure read twice: which of them counts is a person's to say."""
    by_metric: dict[str, list[Piece]] = {}
    for piece in pieces:
        by_metric.setdefault(piece.metric, []).append(piece)
    return [
        Question(
            same[-1].start,
            same[-1].end,
            f"{len(same)} readings of one measure: one of them belongs to a run",
            same,
        )
        for same in by_metric.values()
        if len(same) > 1
    ]


def _lines(text: str) -> list[Line]:
    found, start, command = [], 0, ""
    for piece in text.split("\n"):
        end = start + len(piece)
        prompt = PROMPT.fullmatch(piece) if len(piece) <= MOST_WIDTH else None
        if prompt is not None:
            command = prompt[1]
        found.append(Line(piece, start, end, command))
        start = end + 1
    return found
