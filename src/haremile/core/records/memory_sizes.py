"""The sizes of memory among which the least one is looked for."""

import re

from haremile.errors import BadInputError

SOLD_MIB = (512, 768, 1024, 2048)
"""What machines are sold with, at the lower end."""

USUAL_BOOTS = 3
MOST_BOOTS = 30
USUAL_PAGES, MOST_PAGES = 4, 200
MOST_SIZES = 64
LEAST_MIB, MOST_MIB = 32, 2**20
_RANGE = re.compile(r"(\d{1,7})-(\d{1,7})/(\d{1,7})")


def parse_sizes(text: str) -> tuple[int, ...]:
    """Sizes in MiB as they are written: ``512,768,1024``, or ``64-256/16`` for every 16 from 64 to
    256; those that are sold where nothing is.

    Raises
    ------
    BadInputError
        If they are none, too many, too small or too large.
    """
    stated = text.strip()
    if not stated:
        return SOLD_MIB
    every = _RANGE.fullmatch(stated)
    if every:
        first, last, step = (int(part) for part in every.groups())
        if step < 1 or (last - first) // step > MOST_SIZES:
            raise BadInputError(f"at most {MOST_SIZES} sizes are tried, not {stated}")
        sizes = list(range(first, last + 1, step))
    else:
        parts = [part.strip() for part in stated.split(",")]
        if not all(part.isdecimal() and len(part) < 8 for part in parts):
            raise BadInputError(f"sizes are in MiB, as 512,768,1024 or 64-256/16; not {stated}")
        sizes = sorted({int(part) for part in parts})
    if len(sizes) < 2 or len(sizes) > MOST_SIZES:
        raise BadInputError(f"from 2 to {MOST_SIZES} sizes are tried, not {len(sizes)}: {stated}")
    if sizes[0] < LEAST_MIB or sizes[-1] > MOST_MIB:
        raise BadInputError(f"sizes lie between {LEAST_MIB} and {MOST_MIB} MiB, not {stated}")
    return tuple(sizes)


def parse_boots(text: str) -> int:
    """Boots that the answer has to stand, 3 where nothing is stated. Raises BadInputError."""
    stated = text.strip()
    boots = int(stated) if stated.isdecimal() and len(stated) < 4 else 0 if stated else USUAL_BOOTS
    if not 1 <= boots <= MOST_BOOTS:
        raise BadInputError(f"from 1 to {MOST_BOOTS} boots are asked of the answer, not {stated}")
    return boots


def parse_pages(text: str) -> int:
    """Pages that have to be carried, 4 where nothing is stated. Raises BadInputError."""
    stated = text.strip()
    pages = int(stated) if stated.isdecimal() and len(stated) < 4 else 0 if stated else USUAL_PAGES
    if not 1 <= pages <= MOST_PAGES:
        raise BadInputError(f"from 1 to {MOST_PAGES} pages are opened, not {stated}")
    return pages


def sizes_text(sizes: tuple[int, ...]) -> str:
    """Sizes as a condition value: ``512, 768, 1024, 2048 MiB``."""
    return f"{', '.join(map(str, sizes))} MiB"
