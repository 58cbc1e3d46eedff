"""What a tester's own command printed: one number, or lines of ``name=number``, each with a unit
where it likes."""

import re
from typing import Dict, Tuple

from haremile_probe.parsers import UnreadableError

FACTORS: Dict[str, Tuple[str, float]] = {
    "ms": ("s", 1e-3),
    "us": ("s", 1e-6),
    "min": ("s", 60.0),
    "kB": ("B", 1e3),
    "MB": ("B", 1e6),
    "GB": ("B", 1e9),
    "KiB": ("B", 2.0**10),
    "MiB": ("B", 2.0**20),
    "GiB": ("B", 2.0**30),
    "MB/s": ("B/s", 1e6),
    "MiB/s": ("B/s", 2.0**20),
    "%": ("share", 0.01),
}
"""Units that are turned into the one in which something is measured."""

_NUMBER = r"([+-]?(?:[0-9]{1,18}(?:\.[0-9]{0,18})?|\.[0-9]{1,18})(?:[eE][+-]?[0-9]{1,2})?)"
_ALONE = re.compile(_NUMBER + r"[ \t]*([^\s=]{0,16})")
_NAMED = re.compile(r"(\w{1,80})[ \t]*=[ \t]*(.*)")
SHOWN = 60


def parse_own_output(text: str, name: str, unit: str) -> float:
    """The value in `unit`: of the line ``name=…`` where lines are named, else of the one line.

    Raises UnreadableError that says what was met.
    """
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    named = [match for match in map(_NAMED.fullmatch, lines) if match]
    if named:
        found = [match[2] for match in named if match[1] == name]
        if len(found) != 1:
            raise UnreadableError("it printed %s=… %s" % (name, _times(len(found))))
        return _value(found[0], unit)
    if len(lines) != 1:
        what = "%d lines" % len(lines) if lines else "nothing"
        raise UnreadableError("it printed %s; one number is wanted, or %s=NUMBER" % (what, name))
    return _value(lines[0], unit)


def _times(number: int) -> str:
    return "not at all" if number == 0 else "%d times" % number


def _value(text: str, unit: str) -> float:
    match = _ALONE.fullmatch(text)
    if match is None:
        raise UnreadableError("it printed no number: %s" % text[:SHOWN])
    number, said = float(match[1]), match[2]
    if not said or said == unit:
        return number
    meant, factor = FACTORS.get(said, (said, 1.0))
    if meant != unit:
        raise UnreadableError("it says %s, and is measured in %s" % (text[:SHOWN], unit))
    return number * factor
