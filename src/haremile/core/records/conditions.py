"""The conditions a run was taken under, and which of them keep readings apart."""

import hashlib
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from haremile.errors import BadInputError

Conditions = Mapping[str, str]
"""Condition key to stated value. An absent key is unknown, which is not the same as equal."""

KEYS: dict[str, str] = {
    "medium": "medium",
    "start": "start",
    "boot_no": "boot number",
    "updates_pending": "updates pending",
    "session": "session",
    "autostart": "started by the session itself",
    "autologin": "autologin",
    "waits": "waits",
    "power": "power source",
    "governor": "processor governor",
    "throttled": "throttled",
    "accelerator": "accelerator",
    "clock": "clock",
    "cores": "cores",
    "memory": "memory",
    "firmware": "firmware",
    "kernel": "kernel",
    "memory_steps": "sizes of memory tried",
    "boots_each": "boots that the answer stood",
    "app": "application",
    "measure": "measure of your own",
    "measure_step": "steps in which it tells",
    "rate_work": "fixed work of the rates",
    "app_version": "application version",
    "app_packaging": "application packaging",
    "page_set": "page set",
    "opens": "what the steps open, in turns",
    "own_addresses": "addresses of the tester's own",
    "pages_open": "pages or documents open",
    "stop_rules": "stop rules",
    "opened_before": "opened before",
    "background": "background load",
    "recorder": "screen recorder",
    "settle_rule": "settle rule",
    "since_boot": "time since boot",
    "switching": "switching",
    "probe_version": "probe version",
    "person": "who measured by hand",
    "reaction": "their reaction",
    "host_load": "load of the host",
    "host_wait": "time for which work waited for a processor of the host",
    "pressure": "time for which work waited for a processor just before the run",
    "host_steal": "processor time that the host's own host gave to others",
}

OF_THE_RUN = frozenset(
    {"reaction", "boot_no", "since_boot", "host_load", "host_wait", "host_steal", "pressure"}
)
"""Keys that differ from run to run; they are kept with the run and do not split a lane."""


def checked(conditions: Mapping[str, object]) -> dict[str, str]:
    """Return `conditions` as text by known key, in order of key.

    Raises
    ------
    BadInputError
        If a key is not one of `KEYS`.
    """
    unknown = sorted(set(conditions) - set(KEYS))
    if unknown:
        raise BadInputError(
            f"unknown condition: {unknown[0]}; expected one of {', '.join(sorted(KEYS))}"
        )
    return {key: str(conditions[key]) for key in sorted(conditions)}


def of_the_lane(conditions: Conditions) -> dict[str, str]:
    """The conditions that hold for a whole lane: without those `OF_THE_RUN`."""
    return {key: value for key, value in sorted(conditions.items()) if key not in OF_THE_RUN}


@dataclass(frozen=True)
class ConditionBreak:
    """A condition of a lane that changed on the way: a break, behind which other readings stand.

    `block` is that of the first run with the new value, None where none is stated.
    """

    key: str
    before: str
    after: str
    block: int | None

    @property
    def label(self) -> str:
        """The condition's shown name."""
        return KEYS[self.key]


def condition_breaks(
    stated: Sequence[tuple[int | None, Conditions]],
) -> tuple[ConditionBreak, ...]:
    """Where conditions that hold for a whole lane changed, in run order.

    Parameters
    ----------
    stated : sequence of block and conditions, one for each run in its order
        A condition that a run does not state is unknown there, and neither begins nor ends a break.
    """
    last: dict[str, str] = {}
    before: Conditions = {}
    found = []
    for block, conditions in stated:
        if conditions == before:
            continue
        before = conditions
        for key, value in of_the_lane(conditions).items():
            if key in last and last[key] != value:
                found.append(ConditionBreak(key, last[key], value, block))
            last[key] = value
    return tuple(found)


def condition_hash(conditions: Conditions) -> str:
    """Short stable name of a lane's conditions: 16 hex digits."""
    text = json.dumps(of_the_lane(conditions), sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()[:16]
