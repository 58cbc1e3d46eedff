"""``/proc/meminfo``."""

import re
from typing import Dict

from haremile_probe.parsers import UnreadableError

_LINE = re.compile(r"^([A-Za-z_()0-9]+):\s+(\d+)( kB)?$")


def parse_meminfo(text: str) -> Dict[str, int]:
    """Read the kernel's memory figures.

    Returns a mapping of name to bytes; counts without a unit (huge pages) stay counts. Raises
    UnreadableError on a line of another shape, or where there is no ``MemTotal``.
    """
    figures = {}
    for line in text.splitlines():
        if not line.strip():
            continue
        match = _LINE.match(line.strip())
        if match is None:
            raise UnreadableError("not a line of meminfo: %r" % line[:80])
        figures[match.group(1)] = int(match.group(2)) * (1024 if match.group(3) else 1)
    if "MemTotal" not in figures:
        raise UnreadableError("meminfo holds no MemTotal")
    return figures
