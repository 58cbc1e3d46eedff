"""The run sheet as it is looked at: each run with the reading that stands for it."""

from dataclasses import dataclass
from uuid import UUID

import numpy as np

from haremile.bench.ports import ReadingBook, StoredReading, StudyBook
from haremile.core.metrics import Metric, metric, sheet_position
from haremile.core.study import Run
from haremile.core.units import Scale, scale_for


@dataclass(frozen=True)
class SheetLineView:
    """A run with its headline reading, None where it has none."""

    run: Run
    value: float | None
    is_set_aside: bool


@dataclass(frozen=True)
class SheetView:
    """The sheet; `headline` is None while nothing was measured."""

    headline: Metric | None
    scale: Scale | None
    margin_amount: float | None
    lines: list[SheetLineView]


def run_sheet_view(studies: StudyBook, readings: ReadingBook, study_id: UUID) -> SheetView:
    """The run sheet in order, with the first of the catalogue's metrics that was read."""
    study = studies.get(study_id)
    runs = studies.runs(study_id)
    every = readings.readings(study_id)
    if not every:
        return SheetView(None, None, None, [SheetLineView(run, None, False) for run in runs])
    headline = metric(min({item.metric for item in every}, key=sheet_position))
    values: dict[UUID, StoredReading] = {}
    for item in every:
        if item.metric == headline.key:
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
    return SheetView(headline, scale_for(headline.unit, typical), margin.amount, lines)
