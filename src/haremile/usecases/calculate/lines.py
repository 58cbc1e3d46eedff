"""Rows of a readings file as lanes, and records as documents."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

import numpy as np

from haremile.core.comparison.comparability import Difference
from haremile.core.comparison.reliability import WHOLE_RUN, is_time_out
from haremile.core.records.conditions import of_the_lane
from haremile.core.records.study import RunState, run_end
from haremile.core.statistics.contrast import Estimate
from haremile.core.statistics.lane_statistics import Interval
from haremile.core.statistics.validation import FloatArray
from haremile.errors import BadInputError
from haremile.formats.readings_csv import DONE, ReadingLine

Document = dict[str, Any]
Lines = Sequence[ReadingLine]


def counting(lines: Lines) -> list[ReadingLine]:
    """The rows whose readings count: done, and not set aside."""
    return [
        line
        for line in lines
        if line.value is not None and line.outcome == DONE and line.set_aside is None
    ]


def timed_out(lines: Lines) -> list[ReadingLine]:
    """The rows of runs that were slower than their time limit, in what such a run is slow in."""
    return [
        line
        for line in lines
        if line.value is None
        and line.metric in WHOLE_RUN
        and line.set_aside is None
        and is_time_out(line.outcome, line.reason)
    ]


def values_of(lines: Lines) -> FloatArray:
    """Readings that count, then +infinity for each run that timed out, if any reading counts."""
    found = [line.value for line in counting(lines) if line.value is not None]
    late = [math.inf] * (len(timed_out(lines)) if found else 0)
    return np.array([*found, *late], dtype=np.float64)


def resolution_of(lines: Lines) -> float | None:
    """The coarsest stated step of the instruments."""
    return max((line.resolution or 0.0 for line in lines), default=0.0) or None


def failures(lines: Lines) -> int:
    """Runs that failed, timed out ones included; what could not be measured is no failure."""
    return sum(run_end(line.outcome) is RunState.FAILED for line in lines)


def measured(lines: Lines) -> list[ReadingLine]:
    """The rows of runs that came to an end of their own: without what could not be measured."""
    return [line for line in lines if run_end(line.outcome) is not RunState.VOID]


def only_one(what: str, found: set[str], then: str) -> None:
    """Raise BadInputError where there are several."""
    if len(found) > 1:
        raise BadInputError(f"more than one {what}: {', '.join(sorted(found))}; {then}")


def one_kind(lines: Lines) -> None:
    """Raise BadInputError where readings of several methods or starts would be pooled."""
    every = counting(lines)
    only_one("method", {line.method for line in every}, "give a file with one of them")
    starts = {line.conditions.get("start", "not stated") for line in every}
    only_one("start", starts, "cold and warm never pool: give a file with one of them")


def lane_conditions(lanes: Mapping[str, Lines]) -> dict[int, list[dict[str, str]]]:
    """The distinct conditions of each lane, numbered in order."""
    found: dict[int, list[dict[str, str]]] = {}
    for number, lines in enumerate(lanes.values(), 1):
        distinct = {}
        for line in counting(lines):
            stated = of_the_lane(line.conditions)
            distinct[tuple(stated.items())] = stated
        found[number] = list(distinct.values())
    return found


def interval_document(found: Interval | None) -> Document | None:
    """Limits with their level; the raw ones beside them where a step widened them."""
    if found is None:
        return None
    document: Document = {"low": found.low, "high": found.high, "level": found.level}
    if found.raw is not None:
        document["raw"] = {"low": found.raw[0], "high": found.raw[1]}
    return document


def estimate_document(found: Estimate | None) -> Document | None:
    """An estimate with its limits."""
    if found is None:
        return None
    return {"estimate": found.value, **(interval_document(found.interval) or {})}


def difference_document(found: Difference) -> Document:
    """One graded condition."""
    return {
        "key": found.key,
        "grade": found.grade,
        "values": list(found.values),
        "remedy": found.remedy or None,
        "overridden": found.overridden,
    }


def record(found: Any) -> Document:
    """A frozen record as a document."""
    return asdict(found)


def plain(value: Any) -> Any:
    """A document with None in place of what is infinite, so that it is JSON."""
    if isinstance(value, dict):
        return {key: plain(item) for key, item in value.items()}
    if isinstance(value, list | tuple):
        return [plain(item) for item in value]
    if isinstance(value, float) and not math.isfinite(value):
        return None
    return value
