"""Rates from what our own native program printed of each phase."""

import re
from typing import Dict, List, NamedTuple, Tuple

from haremile_probe.interpret.account import Account
from haremile_probe.parsers import UnreadableError

UNITS: Dict[str, str] = {
    "cpu_one": "1/s",
    "float_one": "1/s",
    "cpu_all": "1/s",
    "float_all": "1/s",
    "handover": "1/s",
    "mem_read": "B/s",
    "mem_write": "B/s",
    "mem_copy": "B/s",
    "disk_write": "B/s",
    "disk_seq": "B/s",
    "disk_rand": "1/s",
    "disk_sync": "1/s",
}
PINNED = ("cpu_one", "float_one", "handover")
"""What is also told with its threads bound to one processor."""

PHASES: List[Tuple[str, bool]] = [
    (phase, is_pinned)
    for phase in UNITS
    for is_pinned in ((False, True) if phase in PINNED else (False,))
]
LINE = re.compile(r"([a-z_]{1,20}) ([01]) ([0-9]{1,18}) ([0-9]{1,6}\.[0-9]{1,9}) ([a-z-]{1,30})")


class Rate(NamedTuple):
    """One phase: how much was done in how many seconds; `how` is how a file was written."""

    phase: str
    is_pinned: bool
    amount: float
    seconds: float
    how: str


def parse_rates(text: str) -> List[Rate]:
    """Read the text ``rates``; raises UnreadableError that names the line."""
    found = []
    for line in text.splitlines():
        match = LINE.fullmatch(line.strip())
        if match is None or match[1] not in UNITS or float(match[4]) <= 0.0:
            raise UnreadableError("no phase of rates: %s" % line[:80])
        found.append(Rate(match[1], match[2] == "1", float(match[3]), float(match[4]), match[5]))
    return found


def tell(account: Account) -> None:
    """A reading of each phase; what was worked on is a condition, and how the file was reached."""
    found = account.read("rates", parse_rates) or []
    work = (account.text("rate-work") or "").strip()
    how = sorted({one.how for one in found if one.phase.startswith("disk_")})
    account.condition("rate_work", ", ".join([work, *how]) if work else None)
    for one in found:
        method = "native-pinned" if one.is_pinned else "native"
        account.add("rate." + one.phase, one.amount / one.seconds, UNITS[one.phase], method)
