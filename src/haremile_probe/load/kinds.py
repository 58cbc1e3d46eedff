"""What a step of a ramp can open: a page, a document, an application, an address of the tester's.

Names alone, which server and probe both check; what they stand for is made elsewhere.
"""

import re
from typing import Dict, List, NamedTuple, Sequence

KINDS = ("reading", "gallery", "clip", "workshop")
"""Our pages, in their usual turns: the third plays."""

NAMES: Dict[str, str] = {
    "text": "text.odt",
    "sheet": "sheet.ods",
    "drawing": "drawing.svg",
    "picture": "picture.png",
}
"""Our documents: the name of each one's file, by its kind."""

APP = "app:"
ADDRESS = re.compile(r"^https?://[A-Za-z0-9._~:/?#@!$&()*+;=%\[\]-]{1,500}$")
MOST_KINDS = 12


class Opening(NamedTuple):
    """One step: its kind as it is written down, and whether it tells of itself."""

    kind: str
    tells: bool


def is_kind(word: str) -> bool:
    """Whether a word names something that a step can open."""
    is_app = word.startswith(APP) and bool(word[len(APP) :].strip())
    return word in KINDS or word in NAMES or is_app or bool(ADDRESS.match(word))


def parse_mix(text: str) -> List[str]:
    """Kinds in turns, as they are asked for: ``reading,clip,text``. Raises ValueError."""
    words = [word.strip() for word in text.split(",")]
    if not 0 < len(words) <= MOST_KINDS or not all(map(is_kind, words)):
        known = ", ".join([*KINDS, *NAMES, APP + "NAME", "http://ADDRESS"])
        raise ValueError(
            "%s: a step opens one of %s; %d in turns at most" % (text[:80], known, MOST_KINDS)
        )
    return words


def applications_of(text: str) -> List[str]:
    """The other applications that steps start, by name; `text` was checked, or is empty."""
    words = [word.strip() for word in text.split(",")]
    return sorted({word[len(APP) :] for word in words if word.startswith(APP)})


def opening_of(mix: Sequence[str], number: int) -> Opening:
    """What the step with a number, from 1, opens."""
    kind = mix[(number - 1) % len(mix)]
    return Opening(kind, kind in KINDS)


def has_own_address(mix: Sequence[str]) -> bool:
    """Whether anything of it is not ours, and may be another thing tomorrow."""
    return any(ADDRESS.match(kind) for kind in mix)
