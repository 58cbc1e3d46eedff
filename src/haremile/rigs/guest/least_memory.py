"""The least memory in which a guest still gets ready, or carries so many pages: one boot after
another, each with less or more of it."""

import json
from collections.abc import Callable
from dataclasses import dataclass, replace

from haremile.core.planning.least_memory import LeastMemorySearch
from haremile.core.records.memory_sizes import parse_boots, parse_sizes, sizes_text
from haremile.core.records.units import MIB
from haremile.errors import GuestHungError, NotMeasuredError, RunFailedError
from haremile.rigs.answers import fresh_capture
from haremile.usecases.ports import ReportPhase, RunOrder
from haremile_probe.interpret.ramp import parse_ramp
from haremile_probe.load.rules import ALL_CARRIED, REASONS
from haremile_probe.wire import Capture, CaptureReading, Evidence

PAGES = "pages_open"
SLOWEST_TIMES = 5.0
LEAST_LIMIT_S = 20
"""A boot with less memory is given five times as long as that with the most, and no less."""

OF_ONE_SIZE = frozenset({"memory", "settle_rule"})
"""Conditions of a boot that do not hold for the search."""

SIGNS = (
    (
        "out of memory",
        ("Out of memory", "oom-kill", "Cannot allocate memory", "deadlocked on memory"),
    ),
    ("panic", ("Kernel panic", "end Kernel panic")),
    ("does not fit", ("initrd too large", "not enough memory", "too small")),
)
"""What a log tells of why a boot ended, the first that fits."""

ENDED = "ended by itself"
NOT_STARTED = "QEMU did not start"

Boot = Callable[[RunOrder], Capture]


@dataclass(frozen=True)
class Try:
    """One boot of the search; `failure` is None where it got ready."""

    memory_mib: int
    failure: str | None
    said: str
    seconds: float | None


def least_memory(order: RunOrder, boot: Boot, report_phase: ReportPhase) -> Capture:
    """Search by boots of the same install with other memory.

    Raises
    ------
    RunFailedError
        If it does not get ready even with the most; its evidence holds every try.
    NotMeasuredError
        If a boot could not be judged.
    """
    sizes = parse_sizes(order.conditions.get("memory_steps", "").removesuffix("MiB"))
    boots = parse_boots(order.conditions.get("boots_each", ""))
    search, tries = LeastMemorySearch(sizes, boots), list[Try]()
    kept: list[Evidence] = []
    ready: Capture | None = None
    limit_s: int | None = None
    while (size := search.next_size()) is not None:
        report_phase(f"boot {len(tries) + 1} with {size} MiB", None)
        try:
            found = _carried(boot(_order(order, size, limit_s)))
        except NotMeasuredError:
            raise
        except RunFailedError as error:
            kind = _kind(error)
            if kind == ENDED and NOT_STARTED in str(error):
                raise NotMeasuredError(str(error)) from error  # no fault of the system's
            tries.append(Try(size, kind, str(error), None))
            search.note(size, False)
            kept.append(Evidence(f"boot {len(tries)}, {size} MiB, {kind}", error.log_tail or ""))
            continue
        ready, seconds = found, _seconds(found)
        tries.append(Try(size, None, "ready", seconds))
        search.note(size, True)
        if limit_s is None and seconds is not None:
            limit_s = max(LEAST_LIMIT_S, round(SLOWEST_TIMES * seconds))
    evidence = [Evidence("tries", _table(tries)), *kept]
    answer = search.answer()
    if answer is None or ready is None:
        raise RunFailedError(
            f"{_wanted(order)} {boots} times of {boots} even with {sizes[-1]} MiB",
            evidence=tuple(evidence),
        )
    below = search.below()
    step = None if below is None else (answer - below) * MIB
    metric = "least.pages" if PAGES in order.conditions else "least.memory"
    reading = CaptureReading(metric, answer * MIB, "B", ready.readings[0].method, step)
    conditions = {key: value for key, value in ready.conditions.items() if key not in OF_ONE_SIZE}
    stated = {"memory_steps": sizes_text(sizes), "boots_each": str(boots)}
    return fresh_capture(order, {**conditions, **stated}, [reading], evidence=evidence)


def _wanted(order: RunOrder) -> str:
    if PAGES not in order.conditions:
        return "not ready"
    return f"{order.conditions[PAGES]} pages of {order.conditions['app']} not carried"


def _order(order: RunOrder, size: int, limit_s: int | None) -> RunOrder:
    recipe = {**order.install.recipe, "memory_mib": str(size), "then": ""}
    if limit_s is not None:
        recipe["ready_limit_s"] = str(limit_s)
    install = replace(order.install, recipe=recipe)
    if PAGES not in order.conditions:
        return replace(order, procedure="boot", install=install, conditions={})
    asked = {key: order.conditions[key] for key in ("app", PAGES)}
    return replace(order, procedure="ramp", install=install, conditions=asked)


def _carried(found: Capture) -> Capture:
    """The same; raises RunFailedError where a ramp ended before all of its pages were carried, and
    NotMeasuredError where it says nothing of that."""
    text = found.text_of("ramp")
    if found.asked != "ramp":
        return found
    if text is None:
        raise NotMeasuredError("the ramp inside left no record")
    note = parse_ramp(text)
    if note.ended != ALL_CARRIED:
        said = f"{note.ended} at page {note.carried + 1}"
        raise RunFailedError(said, evidence=(Evidence("ramp", text),))
    return found


def _kind(error: RunFailedError) -> str:
    text = f"{error}\n{error.log_tail or ''}"
    if any(str(error).startswith(f"{reason} at page") for reason in REASONS):
        return str(error)
    for kind, signs in SIGNS:
        if any(sign in text for sign in signs):
            return kind
    return "never ready" if isinstance(error, GuestHungError) else ENDED


def _seconds(found: Capture) -> float | None:
    return next((one.value for one in found.readings if one.metric == "boot.total"), None)


def _table(tries: list[Try]) -> str:
    columns = ["memory_mib", "outcome", "seconds", "said"]
    rows = [[one.memory_mib, one.failure or "ready", one.seconds, one.said] for one in tries]
    return json.dumps({"columns": columns, "rows": rows})
