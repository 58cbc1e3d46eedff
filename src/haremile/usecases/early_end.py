"""Studies that need no further runs: known precisely enough, or decided."""

from collections.abc import Sequence
from typing import Protocol
from uuid import UUID

from haremile.core.comparison.records import FindingRow
from haremile.core.comparison.verdict import Verdict
from haremile.core.records.procedures import headline_of
from haremile.core.records.study import Run, Study, split_procedure
from haremile.usecases.compare import kept_findings
from haremile.usecases.ports import ReadingRepository, RunQueue, StudyRepository

ENDED_EARLY = "study.ended_early"
"""The event of an end before the planned one."""

ALL_DECIDED = "not needed: all that was asked is decided"


class EndWatch(Protocol):
    """What looks after each complete block whether a study has come to its end."""

    def look(self, study_id: UUID) -> bool:
        """End the study where it has; return whether it was ended here."""


def complete_blocks_of(runs: Sequence[Run]) -> int:
    """How many blocks from the first on hold no run that is still to be done."""
    still = [run.block for run in runs if not run.state.is_finished]
    return (min(still) if still else max(run.block for run in runs) + 1) - 1


class DecidedWatch:
    """Ends a study whose verdicts are read after every block, once all it asks is decided."""

    def __init__(self, studies: StudyRepository, readings: ReadingRepository, queue: RunQueue):
        self._studies, self._readings, self._queue = studies, readings, queue
        self._looked_after: dict[UUID, int] = {}

    def look(self, study_id: UUID) -> bool:
        """End the study where it is so; return whether it was ended here."""
        study = self._studies.get(study_id)
        if study.interim_looks is None or not study.interim_looks.is_after_every_block:
            return False
        complete = complete_blocks_of(self._studies.runs(study_id))
        if not 1 <= complete < study.blocks or self._looked_after.get(study_id) == complete:
            return False
        self._looked_after[study_id] = complete
        rows = kept_findings(self._studies, self._readings, study_id).findings.rows
        if not is_all_decided(asked_of(study), rows):
            return False
        self._queue.end_after(study_id, complete, ALL_DECIDED)
        return True


def asked_of(study: Study) -> frozenset[str]:
    """The measures that a study is about: those with a margin of its own, else what stands for
    each of its procedures."""
    if study.margins:
        return frozenset(study.margins)
    return frozenset(headline_of(*split_procedure(text)) for text in study.procedures)


def is_all_decided(asked: frozenset[str], rows: Sequence[FindingRow]) -> bool:
    """Whether every row of these measures has its answer: a leader, or a verdict on every pair.

    Rows that cannot be compared never will have one, and wait for nothing.
    """
    mine = [
        row
        for row in rows
        if row.metric in asked and row.pairs and row.verdict is not Verdict.NOT_COMPARABLE
    ]
    return bool(mine) and all(_is_decided(row) for row in mine)


def _is_decided(row: FindingRow) -> bool:
    if row.early is not None:
        return False
    return row.verdict is not Verdict.UNDECIDED or not any(p.found.is_open for p in row.pairs)
