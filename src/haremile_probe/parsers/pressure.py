"""Pressure stall information: for how much of the time something waited for a processor."""

import re

from haremile_probe.parsers import UnreadableError


def parse_pressure(text: str) -> float:
    """The share of the last ten seconds for which some work waited, between 0 and 1.

    Source: Documentation/accounting/psi.rst of the kernel. Raises UnreadableError.
    """
    match = re.search(r"^some avg10=(\d{1,3}\.\d{2}) ", text, re.MULTILINE)
    if match is None or float(match.group(1)) > 100.0:
        raise UnreadableError("not a pressure: %r" % text[:80])
    return float(match.group(1)) / 100.0
