"""Launch times from what was written down of each launch, and what became of the others."""

import json
from typing import Any, Dict, List, NamedTuple, Optional

from haremile_probe.interpret.account import Account
from haremile_probe.jobs import WAYS
from haremile_probe.parsers import UnreadableError
from haremile_probe.wire import NOT_MEASURED, CaptureReading, Fault

TIMES = {
    "launch.window": "window_s",
    "launch.main": "main_s",
    "launch.paint": "paint_s",
    "launch.settled": "settled_s",
}
SIZES = {"app.memory": "memory"}
PAGE_SIZE = 4096.0
MOST_BYTES = 2**50
MOST_LAUNCHES = 1000
NOT_ITS_FAULT = (
    "command not found",
    "not executable",
    "cannot be seen this way",
    "held, to be seen from outside",
)
NOT_QUIET = "processor busy before launches"


class LaunchNote(NamedTuple):
    """One launch as it was written down; `reason` is None where it gave readings, and `outcome`
    says whose fault it was where it did not."""

    outcome: str
    reason: Optional[str]
    times_s: Dict[str, float]
    sizes: Dict[str, float]
    was_quiet: bool


class LaunchSeries(NamedTuple):
    """All launches of one capture, in order; `method` is what their windows were seen by."""

    method: str
    start: str
    command: List[str]
    resolution_s: Optional[float]
    launches: List[LaunchNote]


def parse_launches(text: str) -> LaunchSeries:
    """Read the text ``launches``; raises UnreadableError that names the fault."""
    try:
        found = json.loads(text)
        if len(found["launches"]) > MOST_LAUNCHES:
            raise ValueError("more than %d launches" % MOST_LAUNCHES)
        notes = [_note(item) for item in found["launches"]]
        resolution = found["resolution_s"]
        if resolution is not None and not 0.0 < float(resolution) < 60.0:
            raise ValueError("resolution %r" % resolution)
        method = WAYS[found.get("seen_by", "x")]
        words = [str(word) for word in found["command"]]
        return LaunchSeries(method, str(found["start"]), words, resolution, notes)
    except (ValueError, KeyError, TypeError) as error:
        raise UnreadableError("not a series of launches: %s" % error) from None


def _note(item: Dict[str, Any]) -> LaunchNote:
    times = {}
    for metric, key in TIMES.items():
        value = item[key]
        if value is not None:
            if isinstance(value, bool) or not 0.0 <= float(value) < 86400.0:
                raise ValueError("%s is no time: %r" % (key, value))
            times[metric] = float(value)
    sizes = {}
    for metric, key in SIZES.items():
        value = item.get(key)
        if value is not None:
            if isinstance(value, bool) or not 0 <= float(value) < MOST_BYTES:
                raise ValueError("%s is no size: %r" % (key, value))
            sizes[metric] = float(value)
    reason = None
    if item["measured"] is not True:
        reason = ", ".join(part for part in (str(item["outcome"]), str(item["detail"])) if part)
        times, sizes = {}, {}
    outcome = "done"
    if reason is not None:
        outcome = NOT_MEASURED if item["outcome"] in NOT_ITS_FAULT else "failed"
    return LaunchNote(outcome, reason, times, sizes, bool(item["was_quiet"]))


def tell(account: Account) -> None:
    """A reading of each time of each launch; `step` is the launch's number, from 0."""
    series = account.read("launches", parse_launches)
    if series is None:
        return
    account.condition("start", series.start)
    account.condition("app", series.command[0].rpartition("/")[2])
    application = (account.facts.get("applications") or [{}])[0]
    account.condition("app_version", application.get("version"))
    account.condition("app_packaging", application.get("packaging"))
    if not all(note.was_quiet for note in series.launches):
        account.condition("background", NOT_QUIET)
    failed = [note.reason for note in series.launches if note.outcome == "failed"]
    account.failure = failed[-1] if failed else None
    for step, note in enumerate(series.launches):
        for metric, value in note.times_s.items():
            account.readings.append(
                CaptureReading(metric, value, "s", series.method, series.resolution_s, step)
            )
        for metric, size in note.sizes.items():
            account.readings.append(
                CaptureReading(metric, size, "B", "probe", PAGE_SIZE, step, {"pages_open": "none"})
            )
        if note.reason is not None:
            kind = "timed-out" if note.reason.startswith("timed out") else "unreadable"
            account.faults.append(Fault(kind, "launch %d: %s" % (step + 1, note.reason)))
