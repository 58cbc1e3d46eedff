"""Amounts as people write them: ``1:45``, ``47 s``, ``2 min 5 s``, ``1.18 GiB``, ``505M``,
``30 % of 1 GiB``, ``11:42 to 12:35``.

What can be read in two ways is not read at all: a person is asked. To which step it was read
follows from the last place written, in the unit as written.
"""

import re
import unicodedata
from dataclasses import dataclass

from haremile.core.records.units import CANONICAL, to_canonical, units_of
from haremile.errors import BadInputError, UnitError

LONGEST = 60
"""Characters of an amount."""

_NUMBER = r"\d+(?:[.,]\d+)*"
_CLOCK = re.compile(r"(\d{1,3}):(\d{2})(?::(\d{2}))?([.,]\d{1,3})?")
_SPAN = re.compile(
    r"(\d{1,2}:\d{2}(?::\d{2})?)\s*(?:-|–|to|until|bis|→)\s*(\d{1,2}:\d{2}(?::\d{2})?)"
)
_PART = re.compile(rf"({_NUMBER})\s*([a-zµ%]+)?", re.IGNORECASE)
_SHARE = re.compile(rf"({_NUMBER})\s*%\s*(?:of|von|de)\s*(.+)", re.IGNORECASE)

_TIME = {
    **dict.fromkeys(("s", "sec", "secs", "second", "seconds", "sek"), "s"),
    **dict.fromkeys(("ms", "msec"), "ms"),
    **dict.fromkeys(("m", "min", "mins", "minute", "minutes"), "min"),
}
_HOUR = ("h", "hr", "hrs", "hour", "hours", "std")
_SIZE = {
    **dict.fromkeys(("b", "byte", "bytes"), "B"),
    **dict.fromkeys(("k", "ki", "kib"), "KiB"),
    **dict.fromkeys(("m", "mi", "mib"), "MiB"),
    **dict.fromkeys(("g", "gi", "gib"), "GiB"),
    "kb": "kB",
    "mb": "MB",
    "gb": "GB",
}
"""Single letters are powers of 1024, as the system's own tools write them."""

DAY_S = 86400.0


@dataclass(frozen=True)
class Amount:
    """An amount in a canonical unit.

    Attributes
    ----------
    value : float
    unit : str
        One of `haremile.core.records.units.CANONICAL`.
    resolution : float
        The step to which it was read, in that unit.
    """

    value: float
    unit: str
    resolution: float


def read_amount(text: str, unit: str, bare: str | None = None) -> Amount:
    """Read what a person wrote.

    Parameters
    ----------
    text : str
    unit : str
        The canonical unit that is wanted.
    bare : str, optional
        In which unit a figure is taken that names none; None where it has to name one, unless the
        canonical unit has no name.

    Raises
    ------
    BadInputError
        If it is no such amount, or can be read in more than one way; the message says which.
    """
    if len(text) > LONGEST:
        raise BadInputError(f"longer than {LONGEST} characters: {text[:30]}…")
    plain = unicodedata.normalize("NFKC", text).strip().replace("−", "-")
    if plain.startswith("-"):
        raise BadInputError(f"negative: {plain}; nothing that is measured here can be")
    share = _SHARE.fullmatch(plain)
    if share is not None:
        whole = read_amount(share[2], unit, bare)
        part, step = _number(share[1])
        return Amount(whole.value * part / 100, unit, whole.value * step / 100)
    if unit == "s" and (found := _span(plain) or _clock(plain)) is not None:
        return found
    return _of_parts(plain, unit, bare)


def _span(text: str) -> Amount | None:
    """From one time of day to another, perhaps over midnight."""
    match = _SPAN.fullmatch(text)
    if match is None:
        return None
    begin, end = (_time_of_day(one) for one in match.groups())
    step = 1.0 if all(one.count(":") == 2 for one in match.groups()) else 60.0
    return Amount((end - begin) % DAY_S, "s", step)


def _time_of_day(text: str) -> float:
    hour, minute, second = [*map(int, text.split(":")), 0][:3]
    if hour > 23 or minute > 59 or second > 59:
        raise BadInputError(f"{text} is no time of day")
    return hour * 3600.0 + minute * 60.0 + second


def _clock(text: str) -> Amount | None:
    """Minutes and seconds, or hours, minutes and seconds."""
    match = _CLOCK.fullmatch(text)
    if match is None:
        return None
    first, second, third, rest = match.groups()
    seconds = int(third if third is not None else second)
    minutes = int(second) if third is not None else int(first)
    hours = int(first) if third is not None else 0
    if seconds > 59 or (third is not None and minutes > 59):
        raise BadInputError(f"{text} is no time: minutes and seconds go up to 59")
    tail = 0.0 if rest is None else float("0." + rest[1:])
    step = 1.0 if rest is None else 10.0 ** -(len(rest) - 1)
    return Amount(hours * 3600.0 + minutes * 60.0 + seconds + tail, "s", step)


def _of_parts(text: str, unit: str, bare: str | None) -> Amount:
    """One figure with its unit, or several that fall, as hours, minutes, seconds."""
    parts = _PART.findall(text)
    if not parts or _PART.sub("", text).strip():
        raise BadInputError(f"not an amount: {text}; write for example {_example(unit)}")
    if len(parts) > 1 and unit != "s":
        raise BadInputError(f"two figures where one is meant: {text}")
    total, step, last = 0.0, 0.0, float("inf")
    for figure, written in parts:
        value, place = _number(figure)
        factor = _factor(written, unit, bare if len(parts) == 1 else None)
        if factor >= last:
            raise BadInputError(f"{text}: write the larger unit first, as in 2 min 5 s")
        total, step, last = total + value * factor, place * factor, factor
    return Amount(total, unit, step)


def _factor(written: str, unit: str, bare: str | None) -> float:
    """Canonical units in one of the unit as written."""
    name = written.casefold()
    if not name:
        if unit not in CANONICAL or unit == "1":
            return 1.0
        if bare is None:
            raise BadInputError(f"which unit? expected one of {', '.join(units_of(unit))}")
        return to_canonical(1.0, bare)[0]
    if written == unit:
        return 1.0
    if unit == "s" and name in _HOUR:
        return 3600.0
    known = {"s": _TIME, "B": _SIZE}.get(unit, {}).get(name, written)
    try:
        factor, meant = to_canonical(1.0, known)
    except UnitError:
        meant = ""
    if meant != unit:
        raise BadInputError(
            f"{written} is no unit here; expected one of {', '.join(units_of(unit))}"
        )
    return factor


def _number(text: str) -> tuple[float, float]:
    """A figure and the step of its last place; a comma is a decimal one where it can be nothing
    else.

    Raises
    ------
    BadInputError
        Where a comma or a point may part thousands as well.
    """
    points, commas = text.count("."), text.count(",")
    if points and commas:
        decimal = max(text.rfind("."), text.rfind(","))
        mark = text[decimal]
        if text.count(mark) > 1:
            raise BadInputError(f"{text}: which of its marks is the decimal one?")
        whole, rest = text[:decimal], text[decimal + 1 :]
        _check_groups(whole, "," if mark == "." else ".", text)
        return _figure(re.sub("[.,]", "", whole), rest)
    if points + commas > 1:
        mark = "." if points else ","
        _check_groups(text, mark, text)
        return _figure(text.replace(mark, ""), "")
    whole, _, rest = text.replace(",", ".").partition(".")
    if commas and len(rest) == 3 and 1 <= len(whole) <= 3 and whole != "0":
        raise BadInputError(
            f"{text} may be {whole}{rest} or {whole}.{rest}: write it without the comma, or with a "
            "point"
        )
    return _figure(whole, rest)


def _check_groups(text: str, mark: str, shown: str) -> None:
    first, *groups = text.split(mark)
    if not 1 <= len(first) <= 3 or any(len(one) != 3 for one in groups):
        raise BadInputError(f"{shown} is no figure: its thousands are not parted as such")


def _figure(whole: str, rest: str) -> tuple[float, float]:
    return float(f"{whole}.{rest}" if rest else whole), 10.0 ** -len(rest)


def _example(unit: str) -> str:
    return {"s": "47 s or 1:45", "B": "1.18 GiB or 505M", "share": "3 %"}.get(unit, "42")
