"""The run sheet as it is looked at: each run with the reading that stands for it."""

import threading
from collections import OrderedDict, defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, field
from uuid import UUID

import numpy as np

from haremile.core.records.metrics import Metric, metric, sheet_position
from haremile.core.records.study import Run
from haremile.core.records.units import Scale, scale_for
from haremile.core.statistics.lane_statistics import median_interval
from haremile.usecases.ports import ReadingRepository, StoredReading, StudyRepository


@dataclass(frozen=True)
class SheetLineView:
    """A run with its headline reading, None where it has none."""

    run: Run
    value: float | None
    is_set_aside: bool


@dataclass(frozen=True)
class LaneStand:
    """How surely a lane's median is known so far.

    `half_width_share` is half of the median's interval as a share of the median, None while there
    are too few readings for one. `observed_conditions`
    are those under which its newest reading was taken.
    """

    lane_no: int
    half_width_share: float | None
    observed_conditions: Mapping[str, str]


@dataclass(frozen=True)
class SheetView:
    """The sheet; `headline` is None while nothing was measured."""

    headline: Metric | None
    scale: Scale | None
    margin_amount: float | None
    lines: list[SheetLineView]
    lanes: list[LaneStand] = field(default_factory=list)


MOST_KEPT = 8
_kept: OrderedDict[tuple[object, ...], SheetView] = OrderedDict()
_guard = threading.Lock()


def kept_run_sheet(
    studies: StudyRepository, readings: ReadingRepository, study_id: UUID
) -> SheetView:
    """As `run_sheet_view`, made once for each change of the study: its pages are parts of one."""
    since = (study_id, studies.last_change(study_id))
    with _guard:
        if since in _kept:
            _kept.move_to_end(since)
            return _kept[since]
    made = run_sheet_view(studies, readings, study_id)
    with _guard:
        _kept[since] = made
        while len(_kept) > MOST_KEPT:
            _kept.popitem(last=False)
    return made


def run_sheet_view(
    studies: StudyRepository, readings: ReadingRepository, study_id: UUID
) -> SheetView:
    """The run sheet in order, with the first of the catalogue's metrics that was read."""
    study = studies.get(study_id)
    runs = studies.runs(study_id)
    read = readings.metrics_read(study_id)
    if not read:
        return SheetView(None, None, None, [SheetLineView(run, None, False) for run in runs])
    headline = metric(min(read, key=sheet_position))
    values: dict[UUID, StoredReading] = {}
    for item in readings.readings(study_id, headline.key):
        values.setdefault(item.run_id, item)
    lines = []
    for run in runs:
        found = values.get(run.id)
        lines.append(
            SheetLineView(
                run, found.value if found else None, bool(found and found.set_aside is not None)
            )
        )
    typical = float(np.median([item.value for item in values.values()]))
    margin = study.margins.get(headline.key, headline.margin)
    observed_conditions = readings.observed_conditions(study_id)
    counted: dict[int, list[float]] = defaultdict(list)
    for line in lines:
        if line.value is not None and not line.is_set_aside:
            counted[line.run.lane_no].append(line.value)
    lanes = [
        _stand(one.lane_no, observed_conditions.get(one.lane_no, {}), counted[one.lane_no])
        for one in study.contenders
    ]
    return SheetView(headline, scale_for(headline.unit, typical), margin.amount, lines, lanes)


def _stand(lane_no: int, observed_conditions: Mapping[str, str], values: list[float]) -> LaneStand:
    interval = median_interval(values) if values else None
    middle = float(np.median(values)) if values else 0.0
    share = interval.width / 2.0 / middle if interval is not None and middle > 0.0 else None
    return LaneStand(lane_no, share, observed_conditions)
