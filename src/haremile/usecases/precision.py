"""Studies that end as soon as their differences are known precisely enough."""

from collections import Counter, defaultdict
from uuid import UUID

import numpy as np

from haremile.core.planning.stopping import LEAST_BLOCKS, PrecisionStopping, StoppingState
from haremile.core.records.metrics import metric
from haremile.core.records.precision import PrecisionPlan
from haremile.core.records.study import Study
from haremile.core.records.units import scale_for
from haremile.core.statistics.validation import FloatArray
from haremile.usecases.early_end import complete_blocks_of
from haremile.usecases.ports import ReadingRepository, RunQueue, StudyRepository


class PrecisionWatch:
    """Ends a study that stops on precision, after the block from which on all is known."""

    def __init__(self, studies: StudyRepository, readings: ReadingRepository, queue: RunQueue):
        self._studies, self._readings, self._queue = studies, readings, queue

    def look(self, study_id: UUID) -> bool:
        """End the study where all differences are known; return whether it was ended here."""
        study = self._studies.get(study_id)
        if study.stopping is None:
            return False
        complete = complete_blocks_of(self._studies.runs(study_id))
        if complete < LEAST_BLOCKS or complete >= study.blocks:
            return False
        state = self._replayed(study, study.stopping, complete)
        if state is None or state.state is not StoppingState.PRECISE:
            return False
        reached, wanted = (_shown(study.stopping, w) for w in (state.widest, state.target_width))
        reason = f"not needed: the widest interval is {reached} wide, {wanted} was asked for"
        self._queue.end_after(study_id, complete, reason)
        return True

    def _replayed(
        self, study: Study, plan: PrecisionPlan, complete: int
    ) -> PrecisionStopping | None:
        """The state after so many blocks; None where a contender has too few readings to tell."""
        by_lane: dict[int, list[tuple[int, float]]] = defaultdict(list)
        found = self._readings.readings(study.id, plan.metric)
        methods = Counter(item.method for item in found).most_common(1)
        for item in found:
            if item.set_aside is None and item.block <= complete and item.method == methods[0][0]:
                by_lane[item.lane_no].append((item.block, item.value))
        stopping = PrecisionStopping(plan.width, max(study.blocks, LEAST_BLOCKS))
        for block in range(1, complete + 1):
            lanes: list[FloatArray] = [
                np.array([value for at, value in by_lane[contender.lane_no] if at <= block])
                for contender in study.contenders
            ]
            if block >= LEAST_BLOCKS and min(lane.size for lane in lanes) < 2:
                return None
            stopping = stopping.after_block(lanes)
            if stopping.state.is_end:
                return stopping
        return stopping


def _shown(plan: PrecisionPlan, width: float | None) -> str:
    value = width or 0.0
    scale = scale_for(metric(plan.metric).unit, value)
    return f"{value / scale.factor:.3g} {scale.label}".rstrip()
