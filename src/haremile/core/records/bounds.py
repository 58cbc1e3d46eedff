"""What may come in at all: instants, values and texts, the same for every way in.

A value beyond these bounds is no measurement of anything we know, yet one of them would make every
statistic and every page of its study impossible to calculate or to write.
"""

import math
import re
from datetime import UTC, datetime

from haremile.errors import BadInputError

EARLIEST = datetime(2000, 1, 1, tzinfo=UTC)
LATEST = datetime(2100, 1, 1, tzinfo=UTC)
"""Instants between which something can have been measured."""

MOST_VALUE = 1e18
"""No canonical value is further from 0: an exabyte, or thirty thousand million years."""

LEAST_VALUE = 1e-18
"""No canonical value but 0 is nearer to 0: ratios of what is allowed stay finite."""

MOST_NUMBER = 2**31 - 1
"""The greatest whole number that is kept: block, repeat, attempt."""

MOST_TEXT = 2000
"""Characters of a text, evidence aside."""

HIDDEN = (
    "\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f"  # control characters but for tab and the ends of lines
    "\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069"  # marks that turn the direction of what follows
    "\ud800-\udfff"  # halves of characters
)
_HIDDEN = re.compile(f"[{HIDDEN}]")


def checked_instant(at: datetime) -> datetime:
    """The instant, if something can have been measured then.

    Raises
    ------
    BadInputError
        If it states no zone, or lies outside `EARLIEST` to `LATEST`.
    """
    if at.tzinfo is None:
        raise BadInputError(f"a time without its zone: {at.isoformat()}")
    try:
        is_possible = EARLIEST <= at < LATEST
    except OverflowError:  # its zone takes it beyond the calendar
        is_possible = False
    if not is_possible:
        raise BadInputError(
            f"{at.isoformat()} is no time at which something was measured; "
            f"expected one from {EARLIEST.year} on and before {LATEST.year}"
        )
    return at


def parse_instant(text: str) -> datetime:
    """Read an instant as ISO 8601 with its zone. Raises BadInputError."""
    try:
        at = datetime.fromisoformat(text)
    except ValueError:
        raise BadInputError(f"not a date and time: {text[:60]}") from None
    return checked_instant(at)


def checked_value(value: float, *, may_be_negative: bool) -> float:
    """A value in its canonical unit, if it can be a measurement.

    Raises
    ------
    BadInputError
        If it is not finite, further from 0 than `MOST_VALUE`, nearer than `LEAST_VALUE` though not
        0, or negative where nothing measured is.
    """
    if not math.isfinite(value) or abs(value) > MOST_VALUE:
        raise BadInputError(f"further from 0 than any measurement: {value:g}")
    if value != 0 and abs(value) < LEAST_VALUE:
        raise BadInputError(f"nearer to 0 than any measurement: {value:g}")
    if value < 0 and not may_be_negative:
        raise BadInputError("a negative value, which this metric cannot have")
    return value


def checked_resolution(resolution: float | None) -> float | None:
    """An instrument's step in the canonical unit; it is positive. Raises BadInputError."""
    if resolution is None:
        return None
    if resolution <= 0:
        raise BadInputError(f"a resolution is positive, not {resolution:g}")
    return checked_value(resolution, may_be_negative=False)


def checked_text(text: str, most: int = MOST_TEXT) -> str:
    """A text, if a person can read all that is in it.

    Raises
    ------
    BadInputError
        If it is longer than `most` characters, or holds control characters, marks that turn the
        direction of writing, or half a character.
    """
    if len(text) > most:
        raise BadInputError(f"longer than {most} characters: {text[:40]}…")
    hidden = _HIDDEN.search(text)
    if hidden is not None:
        raise BadInputError(f"holds a character that cannot be seen (U+{ord(hidden[0]):04X})")
    return text
