"""What was carried, and the memory that each takes, from what was written down of a ramp."""

import json
from statistics import median
from typing import Any, Dict, List, NamedTuple, Optional, Sequence, Tuple

from haremile_probe.interpret.account import Account
from haremile_probe.load.kinds import KINDS, has_own_address, parse_mix
from haremile_probe.load.rules import REASONS, StopRules
from haremile_probe.parsers import UnreadableError
from haremile_probe.wire import CaptureReading

MOST_STEPS = 200
PAGE_SIZE = 4096.0
SWAP_BEGAN = 2**20
"""Bytes of swap more than before the first page with which it began."""

MOST_BYTES = 2**50


AFTER = (1, 4, 16)
"""Steps after which the application's own memory is told."""


class OwnMemory(NamedTuple):
    """Of the application alone, bytes: the PSS of its processes, how much of that is shared with
    others, and what the kernel counts for its group; None where it is not told."""

    tree: Optional[int]
    shared: Optional[int]
    group: Optional[int]


class RampStep(NamedTuple):
    """What was carried: memory in use, the application's own as soon as it was painted and once it
    had held, swap, bytes; seconds until it was painted and of the worst sign of life."""

    number: int
    used: int
    at_once: Optional[OwnMemory]
    own: OwnMemory
    swap_used: int
    painted_s: float
    delay_s: float


class RampNote(NamedTuple):
    """One ramp as it was written down."""

    command: List[str]
    page_set: str
    mix: List[str]
    swap_before: int
    limit: Optional[int]
    peak: Optional[int]
    steps: List[RampStep]
    carried: int
    ended: str
    rules: Dict[str, float]


def parse_ramp(text: str) -> RampNote:
    """Read the text ``ramp``; raises UnreadableError that names the fault."""
    try:
        found = json.loads(text)
        if len(found["steps"]) > MOST_STEPS:
            raise ValueError("more than %d steps" % MOST_STEPS)
        steps = [_step(item) for item in found["steps"] if item["sample"] is not None]
        if found["ended"] not in REASONS or found["carried"] != len(steps):
            raise ValueError("ended %r after %r" % (found["ended"], found["carried"]))
        return RampNote(
            [str(word) for word in found["command"]],
            str(found["page_set"])[:20],
            parse_mix(",".join(found.get("mix") or KINDS)),
            _bytes(found["before"]["swap_used"]),
            _if_told(found["limit"]),
            _if_told(found.get("peak")),
            steps,
            len(steps),
            str(found["ended"]),
            {key: float(found["rules"][key]) for key in StopRules._fields},
        )
    except (ValueError, KeyError, TypeError, IndexError) as error:
        raise UnreadableError("not a ramp: %s" % error) from None


def _bytes(value: Any) -> int:
    if isinstance(value, bool) or not 0 <= int(value) < MOST_BYTES:
        raise ValueError("no size: %r" % value)
    return int(value)


def _if_told(value: Any) -> Optional[int]:
    return None if value is None else _bytes(value)


def _own(sample: Dict[str, Any]) -> OwnMemory:
    return OwnMemory(*(_if_told(sample.get(key)) for key in ("tree", "shared", "own")))


def _seconds(value: Any) -> float:
    if isinstance(value, bool) or not 0.0 <= float(value) < 86400.0:
        raise ValueError("no time: %r" % value)
    return float(value)


def _step(item: Dict[str, Any]) -> RampStep:
    sample = item["sample"]
    return RampStep(
        int(item["number"]),
        _bytes(sample["used"]),
        _own(item["at_once"]) if item.get("at_once") else None,
        _own(sample),
        _bytes(sample["swap_used"]),
        _seconds(item["painted_s"]),
        _seconds(item["worst_delay_s"]),
    )


class Line(NamedTuple):
    """A straight line: what each step adds, and its value at no step."""

    slope: float
    at_zero: float


def line(points: Sequence[Tuple[float, float]]) -> Optional[Line]:
    """The line whose slope is the median of the slopes between all pairs, and which leaves as many
    points above as below (Theil 1950; Sen, JASA 63, 1968); None of fewer than two points."""
    slopes = [
        (v - u) / (b - a) for i, (a, u) in enumerate(points) for b, v in points[i + 1 :] if b != a
    ]
    if not slopes:
        return None
    rise = median(slopes)
    return Line(rise, median(value - rise * at for at, value in points))


def before_swap(note: RampNote) -> List[RampStep]:
    """The steps until swap began: later memory tells of the swap too."""
    at = swap_at(note)
    return [step for step in note.steps if at is None or step.number < at]


def swap_at(note: RampNote) -> Optional[int]:
    """The step at which swap began; None where it did not."""
    for step in note.steps:
        if step.swap_used - note.swap_before > SWAP_BEGAN:
            return step.number
    return None


def tell(account: Account) -> None:
    """Readings of one ramp. Its end is a result, whatever ended it."""
    note = account.read("ramp", parse_ramp)
    if note is None:
        return
    account.condition("app", note.command[0].rpartition("/")[2])
    application = (account.facts.get("applications") or [{}])[0]
    account.condition("app_version", application.get("version"))
    account.condition("app_packaging", application.get("packaging"))
    account.condition("page_set", note.page_set)
    account.condition("opens", ", ".join(note.mix))
    if has_own_address(note.mix):
        account.condition("own_addresses", "yes")
    account.condition("stop_rules", _stated(note))
    account.facts["ramp_ended"] = note.ended
    account.add("ramp.steps", float(note.carried), "1", "probe")
    held = before_swap(note)
    used = line([(s.number, s.used) for s in held])
    tree = line([(s.number, s.own.tree) for s in held if s.own.tree is not None])
    if used is not None and used.slope > 0:
        account.add("ramp.base", used.at_zero, "B", "probe", PAGE_SIZE)
        account.add("ramp.memory", used.slope, "B", "probe", PAGE_SIZE)
    if tree is not None and tree.slope > 0:
        account.add("ramp.tree", tree.slope, "B", "probe", PAGE_SIZE)
    _tell_own(account, note)
    if note.steps:
        account.add("ramp.window", median(s.painted_s for s in note.steps), "s", "probe", 0.5)
    if note.steps and any(kind in KINDS for kind in note.mix):
        account.add("ramp.delay", note.steps[-1].delay_s, "s", "probe", 0.5)
    began = swap_at(note)
    account.add("ramp.swap_at", None if began is None else float(began), "1", "probe")


def _tell_own(account: Account, note: RampNote) -> None:
    """The application's own memory as soon as the first page is painted, and at rest after some."""
    told = [("%d" % step.number, step.own) for step in note.steps if step.number in AFTER]
    if note.steps and note.steps[0].at_once is not None:
        told.insert(0, ("1 at once", note.steps[0].at_once))
    for place, (opened, own) in enumerate(told):
        for metric, value, method in (
            ("app.memory", own.tree, "probe"),
            ("app.memory", own.group, "scope"),
            ("app.memory_shared", own.shared, "probe"),
        ):
            if value is not None:
                held = {"pages_open": opened}
                account.readings.append(
                    CaptureReading(metric, float(value), "B", method, PAGE_SIZE, place, held)
                )
    account.add("app.memory_peak", note.peak, "B", "scope", PAGE_SIZE)


def _stated(note: RampNote) -> str:
    """The limits, in the order in which they were stated."""
    rules = note.rules
    size = "" if note.limit is None else ", within %d MiB" % (note.limit / 2**20)
    return "at most %d pages, %d MiB free, %d MiB swap, %.0f s late, %.0f s silent%s" % (
        rules["steps"],
        rules["floor"] / 2**20,
        rules["swap_growth"] / 2**20,
        rules["delay_s"],
        rules["silence_s"],
        size,
    )
