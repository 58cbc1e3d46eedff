"""Small kernel files read together: one line ``PATH: VALUE`` each."""

import re
from typing import Dict, Iterator, Tuple

from haremile_probe.parsers import UnreadableError


def parse_path_values(text: str) -> Dict[str, str]:
    """Read ``/sys/…: value`` lines; raises UnreadableError on a line of another shape."""
    found: Dict[str, str] = {}
    for line in text.splitlines():
        if not line.strip():
            continue
        path, colon, value = line.partition(": ")
        if not line.startswith("/") or not (colon or line.endswith(":")):
            raise UnreadableError("not a line PATH: VALUE: %r" % line[:80])
        found[path.rstrip(":")] = value.strip()
    return found


def values_like(values: Dict[str, str], pattern: str) -> Iterator[Tuple[str, str]]:
    """Pairs of the path's part that the pattern's ``*`` stands for, and the value, in order."""
    shape = re.compile("".join("([^/]*)" if c == "*" else re.escape(c) for c in pattern) + "$")
    for path in sorted(values):
        match = shape.match(path)
        if match is not None:
            yield "/".join(match.groups()), values[path]


def whole_number(text: str, what: str) -> int:
    """The text as a whole number; raises UnreadableError that names what it was."""
    try:
        return int(text.strip())
    except ValueError:
        raise UnreadableError("%s is no whole number: %r" % (what, text[:40])) from None
