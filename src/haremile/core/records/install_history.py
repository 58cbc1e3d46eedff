"""How an install came to be what it is: what its runs found, and where that changed."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

STATE_KEYS: Mapping[str, str] = {
    "kernel": "kernel",
    "updates_pending": "updates pending",
    "packages": "packages installed",
    "session": "session",
    "autologin": "autologin",
    "medium": "medium",
    "autostart": "started by the session itself",
    "background": "background load",
}
"""What makes up the state of an install, with its shown name."""


@dataclass(frozen=True)
class StateChange:
    """One line of a history: `before` is None where it was not known until then."""

    at: datetime | None
    key: str
    label: str
    before: str | None
    after: str


def state_changes(
    stated: Sequence[tuple[datetime | None, Mapping[str, str]]],
) -> list[StateChange]:
    """Where the state of an install changed, the newest first.

    Parameters
    ----------
    stated : sequence of (instant, what a run found), in run order
        What a run does not state is unknown there, and ends nothing.
    """
    last: dict[str, str] = {}
    found = []
    for at, state in stated:
        for key, label in STATE_KEYS.items():
            value = state.get(key)
            if value is not None and last.get(key) != value:
                found.append(StateChange(at, key, label, last.get(key), value))
                last[key] = value
    return found[::-1]
