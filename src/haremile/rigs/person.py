"""A person as a rig: what is to be done stands on their sheet, until they hand a result in."""

from uuid import UUID

from haremile.core.records.procedures import BY_A_PERSON
from haremile.rigs.queued import QueuedAnswers
from haremile.usecases.ports import MachineJob, MachineQueue, ReportPhase, RunOrder
from haremile_probe.wire import Capture, load_capture


class PersonRig:
    """Waits for what a person hands in; how long that takes is theirs."""

    def __init__(self, queue: MachineQueue):
        self._answers = QueuedAnswers(queue)

    @property
    def procedures(self) -> frozenset[str]:
        """What a person can do by hand."""
        return BY_A_PERSON

    def run(self, order: RunOrder, report_phase: ReportPhase) -> Capture:
        """Wait for the person."""
        told = False

        def seen(job: MachineJob) -> None:
            nonlocal told
            if not told:
                told = True
                report_phase("waiting for a person", None)

        _, body = self._answers.answer(order, seen)
        return load_capture(body)

    def interrupt(self, run_id: UUID | None = None) -> None:
        """Wait no longer for this run, or for all."""
        self._answers.interrupt(run_id)
