"""What a pasted text is cut into: readings with their definition, conditions, questions."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

KIB, MIB, GIB = 2.0**10, 2.0**20, 2.0**30

SUFFIXES: Mapping[str, float] = {
    "": 1.0,
    "b": 1.0,
    "k": KIB,
    "m": MIB,
    "g": GIB,
    "t": 2.0**40,
    "kb": 1e3,
    "mb": 1e6,
    "gb": 1e9,
}
PROMPT = re.compile(
    r"(?:\(\S+\)\s*)?(?:\[?[\w.-]+@[\w.-]+[: ][^$#%\]]*\]?[$#%]|[\w.-]+:[\w~/.-]*[$#]|[$#>❯➜])"
    r"\s+(\S.*)"
)
SIZE = re.compile(r"(\d+(?:[.,]\d+)?)\s?(?:([KMGTkmgt])(i?)B?|B)?")


@dataclass(frozen=True)
class Line:
    """A line of the text, without colours; where it begins and ends in it; the command of the
    prompt above it, "" where none is known."""

    text: str
    start: int
    end: int
    command: str = ""


@dataclass(frozen=True)
class Piece:
    """A reading that a text gives, canonical; `definition` tells what it counts."""

    start: int
    end: int
    tool: str
    metric: str
    value: float
    unit: str
    resolution: float | None
    definition: str


@dataclass(frozen=True)
class Stated:
    """A condition that a text states."""

    start: int
    end: int
    key: str
    value: str


@dataclass(frozen=True)
class Question:
    """What can be understood in more than one way, or not without being told."""

    start: int
    end: int
    says: str
    choices: Sequence[Piece] = ()


@dataclass
class Recognised:
    """Everything found in a text; `seen` are the numbers of the lines that were understood."""

    pieces: list[Piece] = field(default_factory=list)
    stated: list[Stated] = field(default_factory=list)
    questions: list[Question] = field(default_factory=list)
    seen: set[int] = field(default_factory=set)
    system: str | None = None


def is_prompt(text: str) -> bool:
    """Whether a line is a prompt with a command behind it."""
    return PROMPT.fullmatch(text) is not None


def size(text: str, usual: float = 1.0, is_decimal: bool = False) -> tuple[float, float] | None:
    """Bytes and their step: ``1.2Gi``, ``512M``, ``98304``; `usual` are the bytes of one where no
    unit stands. None for what is no size."""
    match = SIZE.fullmatch(text)
    if match is None:
        return None
    _, mark, rest = match[1].replace(",", ".").partition(".")
    value, step = float(match[1].replace(",", ".")), 10.0 ** -len(rest) if mark else 1.0
    letter = (match[2] or "").lower()
    if letter:
        factor = SUFFIXES[letter]
        if is_decimal and not match[3]:
            factor = SUFFIXES[f"{letter}b"]
    else:
        factor = 1.0 if text.endswith("B") else usual
    return value * factor, step * factor
