"""Login sessions, as ``loginctl`` and the processes' start times state them."""

from typing import NamedTuple, Optional, Sequence

from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.key_values import parse_environment
from haremile_probe.parsers.path_values import whole_number
from haremile_probe.parsers.process_stats import Process

SESSION_PROPERTIES = (
    "Id",
    "Name",
    "Type",
    "Desktop",
    "Service",
    "TimestampMonotonic",
    "Leader",
)


class Session(NamedTuple):
    """A login session; `opened_s` is seconds from the kernel's start."""

    kind: str
    desktop: Optional[str]
    service: Optional[str]
    opened_s: float


def parse_session(text: str) -> Session:
    """Read ``loginctl show-session``; raises UnreadableError where its time is not stated."""
    stated = parse_environment(text)
    if not stated.get("TimestampMonotonic") or not stated.get("Type"):
        raise UnreadableError("the session states no type or no time")
    opened = whole_number(stated["TimestampMonotonic"], "TimestampMonotonic")
    return Session(
        stated["Type"], stated.get("Desktop") or None, stated.get("Service") or None, opened * 1e-6
    )


def started_s(processes: Sequence[Process], name: str, ticks_per_s: int) -> Optional[float]:
    """When the first process of that name began, seconds from the kernel's start."""
    found = [p.start_ticks for p in processes if p.name == name[:15]]
    return min(found) / ticks_per_s if found else None
