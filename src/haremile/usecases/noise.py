"""The noise budget of one row of a study's verdict sheet."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from haremile.core.comparison.block_table import BlockTable
from haremile.core.comparison.comparability import RULES
from haremile.core.comparison.records import FindingRow, Observation
from haremile.core.records.study import Contender, Run, RunState
from haremile.core.records.units import Scale
from haremile.core.statistics.noise import LEAST_BLOCKS, NoiseBudget, NoisePart, noise_budget
from haremile.core.wording.noise import noise_advice, noise_headline
from haremile.core.wording.numbers import finer_scale
from haremile.usecases.compare import row_of, study_findings
from haremile.usecases.ports import ReadingRepository, StudyRepository


@dataclass(frozen=True)
class RowNoise:
    """Where the noise of a row sits, in figures (canonical unit) and words.

    Attributes
    ----------
    parts : sequence of NoisePart
        Empty where there are too few complete blocks; the headline says so.
    scale : Scale
    headline : str
    advice : sequence of str
        What would make the next study shorter, and what would not.
    blocks, lanes : int
        What it was calculated from.
    """

    parts: Sequence[NoisePart]
    scale: Scale
    headline: str
    advice: Sequence[str]
    blocks: int
    lanes: int


def row_noise(
    studies: StudyRepository, readings: ReadingRepository, study_id: UUID, key: str
) -> RowNoise:
    """The noise budget of the row with that key.

    Raises
    ------
    NotFoundError, BadInputError
        If there is no such study, or it has no such row.
    """
    rows = study_findings(studies, readings, study_id).rows
    row = row_of(rows, key)
    contenders = studies.get(study_id).contenders
    found = _budget(readings.observations(study_id), contenders, key)
    if found is None:
        few = f"Too few complete blocks to tell: it takes {LEAST_BLOCKS}"
        return RowNoise((), row.scale, few, (), 0, len(row.lanes))
    scale = finer_scale(row.scale, *(part.sd for part in found.parts if part.sd))
    advice = noise_advice(found, scale, _seconds(studies.runs(study_id), row), row.procedure)
    return RowNoise(found.parts, scale, noise_headline(found), advice, found.blocks, found.lanes)


def _budget(
    observed: Sequence[Observation], contenders: Sequence[Contender], key: str
) -> NoiseBudget | None:
    items = [item for item in observed if item.row_key == key and item.block is not None]
    table = BlockTable(items)
    complete = table.complete()
    if len(complete.values) < LEAST_BLOCKS:
        return None
    stated: dict[int, tuple[tuple[str, str], ...]] = {}
    for item in items:
        if not item.is_set_aside and item.lane_no not in stated:
            # installs of one system are alike in all that a comparison goes by
            alike = ((name, value) for name, value in item.conditions.items() if name in RULES)
            stated[item.lane_no] = tuple(sorted(alike))
    systems = {one.lane_no: one.install.system.name for one in contenders}
    installs = [(systems[lane], stated[lane]) for lane in table.lanes]
    return noise_budget(complete.values, installs, complete.places.astype(float))


def _seconds(runs: Sequence[Run], row: FindingRow) -> dict[str, float]:
    """Mean time of the finished runs of each procedure of the row's lanes."""
    lanes = {lane.lane_no for lane in row.lanes}
    spent: dict[str, list[float]] = defaultdict(list)
    for run in runs:
        is_done = run.state is RunState.DONE and run.lane_no in lanes
        if is_done and run.started_at is not None and run.finished_at is not None:
            spent[run.procedure].append((run.finished_at - run.started_at).total_seconds())
    return {name: sum(found) / len(found) for name, found in spent.items()}
