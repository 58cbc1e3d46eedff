"""What the run order of a row's readings tells, lane by lane."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from haremile.core.comparison.records import FindingRow, Observation
from haremile.core.records.metrics import metric
from haremile.core.statistics.modality import two_modes
from haremile.core.statistics.run_order import diagnose_sequence
from haremile.core.wording.run_order import order_sentences
from haremile.usecases.compare import row_of

MOST_TOLD = 600
"""Readings of a lane from which its order is told; of more, every second, third, … is taken."""


@dataclass(frozen=True)
class LaneNotes:
    """What stands out in one lane, in sentences; none where nothing does."""

    lane_no: int
    notes: tuple[str, ...]


def row_notes(
    rows: Sequence[FindingRow], observed: Sequence[Observation], key: str
) -> list[LaneNotes]:
    """The notes on every lane of the row with that key.

    Parameters
    ----------
    rows : sequence of FindingRow
    observed : readings of the study in run order
    key : str

    Raises
    ------
    BadInputError
        If the study has no such row.
    """
    row = row_of(rows, key)
    values: dict[int, list[float]] = defaultdict(list)
    for item in observed:
        if not item.is_set_aside and item.row_key == key:
            values[item.lane_no].append(item.value)
    what = metric(row.metric)
    found = []
    for lane in row.lanes:
        lane_values = values[lane.lane_no]
        said: list[str] = []
        if lane_values:
            step = -(-len(lane_values) // MOST_TOLD)
            kept = lane_values[::step]
            order = diagnose_sequence(kept)
            said = order_sentences(what, row.scale, order, two_modes(kept), row.margin)
        found.append(LaneNotes(lane.lane_no, tuple(said)))
    return found
