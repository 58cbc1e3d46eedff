"""Small differences of means and of the worst tenth of one row's readings, where they are asked
for."""

from collections import defaultdict
from dataclasses import dataclass
from uuid import UUID

import numpy as np

from haremile.core.comparison.records import FindingRow
from haremile.core.comparison.verdict import (
    ERROR_AHEAD,
    ERROR_LEVEL,
    Verdict,
    interval_verdict,
)
from haremile.core.records.metrics import GoodEnd, metric
from haremile.core.statistics.contrast import Estimate
from haremile.core.statistics.families import error_of_pair
from haremile.core.statistics.lane_statistics import Interval
from haremile.core.statistics.location_tests import welch
from haremile.core.statistics.tails import LEAST_READINGS, percentile_difference
from haremile.core.statistics.validation import FloatArray
from haremile.core.wording.tails import difference_said
from haremile.errors import BadInputError
from haremile.usecases.compare import row_of, study_findings
from haremile.usecases.ports import ReadingRepository, StudyRepository


@dataclass(frozen=True)
class Difference:
    """A difference in the canonical unit with its verdict, in figures and in words; the figures
    are None where `said` tells why there are none."""

    value: float | None
    low: float | None
    high: float | None
    verdict: Verdict | None
    said: str


@dataclass(frozen=True)
class LaneTails:
    """A contender against the other: of means, and of the worst tenth."""

    lane_no: int
    means: Difference
    worst_tenth: Difference


def row_tails(
    studies: StudyRepository, readings: ReadingRepository, study_id: UUID, key: str, against: int
) -> list[LaneTails]:
    """The differences of every contender of a row against one of them, all pairs sharing the error.

    Raises
    ------
    NotFoundError, BadInputError
        If there is no such study, row or contender.
    """
    rows = study_findings(studies, readings, study_id).rows
    row = row_of(rows, key)
    values: dict[int, list[float]] = defaultdict(list)
    for item in readings.observations(study_id):
        if item.row_key == key and not item.is_set_aside:
            values[item.lane_no].append(item.value)
    for lane in row.lanes:
        if lane.summary is not None:
            values[lane.lane_no] += [np.inf] * lane.summary.timed_out
    if against not in values:
        raise BadInputError(f"this row has no contender {against}")
    first = np.array(values[against])
    return [
        LaneTails(lane, _means(row, first, second), _worst(row, first, second))
        for lane, second in ((lane, np.array(found)) for lane, found in sorted(values.items()))
        if lane != against
    ]


def _errors(row: FindingRow) -> tuple[float, float]:
    lanes = max(sum(lane.summary is not None for lane in row.lanes), 2)
    return error_of_pair(ERROR_AHEAD, lanes), error_of_pair(ERROR_LEVEL, lanes)


def _means(row: FindingRow, a: FloatArray, b: FloatArray) -> Difference:
    if not (np.isfinite(a).all() and np.isfinite(b).all()):
        return Difference(None, None, None, None, "runs that timed out have no mean")
    found = []
    for error in _errors(row):
        means = welch(a, b, 1.0 - error)
        if means.low is None or means.high is None:
            return Difference(None, None, None, None, "too few readings, or none that vary")
        interval = Interval(means.low, means.high, 1.0 - error)
        found.append(Estimate(means.difference, interval))
    return _judged(row, a, found)


def _worst(row: FindingRow, a: FloatArray, b: FloatArray) -> Difference:
    share = 0.1 if row.good_end is GoodEnd.HIGH else 0.9
    fewest = min(a.size, b.size)
    found = [percentile_difference(a, b, share, 1.0 - error) for error in _errors(row)]
    outer, inner = found
    if outer is None or inner is None:
        why = (
            f"it takes {LEAST_READINGS} readings of each, not {fewest}"
            if fewest < LEAST_READINGS
            else "so many contenders take more readings, or too many runs timed out"
        )
        return Difference(None, None, None, None, why)
    return _judged(row, a, [outer, inner])


def _judged(row: FindingRow, a: FloatArray, found: list[Estimate]) -> Difference:
    outer, inner = found
    verdict = None
    if row.margin.is_stated and row.verdict is not Verdict.NOT_COMPARABLE and row.early is None:
        width = row.margin.width(float(np.median(a)))
        verdict = interval_verdict(outer.interval, inner.interval, width, row.good_end)
    said = difference_said(metric(row.metric), outer, verdict, row.scale)
    return Difference(outer.value, outer.interval.low, outer.interval.high, verdict, said)
