"""Waiting for an answer that lies on a queue until it is brought."""

import logging
import threading
from collections.abc import Callable
from uuid import UUID

from haremile.errors import NotMeasuredError, StoreUnavailableError
from haremile.usecases.ports import MachineJob, MachineQueue, RunOrder

log = logging.getLogger(__name__)

LOOK_S = 0.25


class QueuedAnswers:
    """Puts jobs on a queue and waits until they are answered.

    A job stays open until its run is written: should this conductor go away first, the next one
    finds the answer on the queue.

    Parameters
    ----------
    queue : MachineQueue
    wait : callable
        Waits for an event, for so many seconds at most; a test hands in its own.
    """

    def __init__(
        self,
        queue: MachineQueue,
        wait: Callable[[threading.Event, float], object] = threading.Event.wait,
    ):
        self._queue, self._wait = queue, wait
        self._ended: dict[UUID, threading.Event] = {}

    def answer(
        self, order: RunOrder, seen: Callable[[MachineJob], object] = lambda job: None
    ) -> tuple[MachineJob, bytes]:
        """The job of an order and what was brought for it; `seen` is shown the job as it changes.

        Raises
        ------
        NotMeasuredError
            If the wait is ended, or the attempt was given up.
        """
        ended = self._ended.setdefault(order.run_id, threading.Event())
        try:
            job = self._queue.put(order)
            while job.body is None:
                if ended.is_set():
                    raise NotMeasuredError("ended before an answer came", _said(job))
                if job.stage == "over":
                    raise NotMeasuredError("this attempt was given up")
                seen(job)
                self._wait(ended, LOOK_S)
                job = self._looked(order, job)
            seen(job)
            return job, job.body
        finally:
            del self._ended[order.run_id]

    def _looked(self, order: RunOrder, last: MachineJob) -> MachineJob:
        try:
            return self._queue.job(order.run_id, order.attempt) or last
        except StoreUnavailableError as error:
            log.warning("%s; the job stays where it is", error)
            return last

    def interrupt(self, run_id: UUID | None = None) -> None:
        """Wait no longer for this run, or for all."""
        for key, ended in list(self._ended.items()):
            if run_id in (None, key):
                ended.set()


def _said(job: MachineJob) -> str:
    return str(job.stamps.get("waits", ""))
