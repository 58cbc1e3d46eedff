"""Conducting a study: what is next, run after run, until it is done or paused."""

import logging
import threading
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import FIRST_EXCEPTION, Future, ThreadPoolExecutor, wait
from functools import partial
from uuid import UUID

from haremile.core.records.rigs import rig_traits
from haremile.core.records.study import Install, Study, StudyState, split_procedure
from haremile.errors import (
    ConflictError,
    StaleAttemptError,
    StoreUnavailableError,
)
from haremile.usecases.carry_out import RunCarrier, Timer
from haremile.usecases.early_end import ENDED_EARLY, EndWatch
from haremile.usecases.ports import EventLog, Lease, Rig, RunQueue, StudyRepository
from haremile.usecases.worker import Worker

log = logging.getLogger(__name__)


class Conductor:
    """Drives the rigs from the run sheet.

    Parameters
    ----------
    studies, queue, events : the bench book
    rigs : mapping of a rig's name to the rig
    host : str
        Name of this host; machines of other hosts are left to their own conductors. Empty where
        all are within reach.
    end_watches : sequence of EndWatch
        End studies that need no further runs.
    timer : callable
        Makes the timer of a run from seconds and what is then done.
    """

    def __init__(
        self,
        studies: StudyRepository,
        queue: RunQueue,
        events: EventLog,
        rigs: Mapping[str, Rig],
        *,
        host: str = "",
        end_watches: Sequence[EndWatch] = (),
        timer: Callable[[float, Callable[[], None]], Timer] = threading.Timer,
    ):
        self._studies, self._queue, self._events, self._rigs = studies, queue, events, rigs
        self._host, self._end_watches = host, end_watches
        self._runs = RunCarrier(queue, events, rigs, timer)
        self._abandoned = threading.Event()
        self._workers: dict[UUID, Worker] = {}

    def is_at_work(self, study_id: UUID) -> bool:
        """Whether some conductor, here or elsewhere, works on the study."""
        return self._queue.is_held(study_id)

    def cut(self, study_id: UUID) -> None:
        """End the study's runs that are under way at once, wherever; they are planned again, and
        the study pauses."""
        worker = self._workers.get(study_id)
        if worker is not None:
            worker.cut |= set(worker.under_way)
        self._studies.set_state(study_id, StudyState.PAUSED)
        self._queue.release(study_id)
        if worker is not None:
            worker.ended.set()
            self._runs.interrupt(worker)

    def abandon(self) -> None:
        """End at once: what is under way counts as not carried out and is planned again."""
        self._abandoned.set()
        for worker in list(self._workers.values()):
            worker.cut |= set(worker.under_way)
            worker.ended.set()
        for rig in self._rigs.values():
            rig.interrupt()

    def conduct(self, study_id: UUID, stop: Callable[[], bool] = lambda: False) -> bool:
        """Run what is planned, together with whoever else does; return whether all is finished.

        Parameters
        ----------
        study_id : UUID
        stop : callable
            Asked before each run; true pauses the study there.

        Raises
        ------
        ConflictError
            If its contenders have no rig here.
        RigRestsError
            If a rig failed three times in a row; the study is paused when the others are done.
        """
        study = self.check(study_id)
        with self._queue.hold(study_id) as study_lease:
            worker = Worker(study_id, study_lease, stop, self._may_end_early(study))
            self._workers[study_id] = worker
            beating = threading.Thread(
                target=worker.keep_beating,
                args=(lambda run: self._runs.end(worker, run),),
                name=f"beat-{study_id}",
                daemon=True,
            )
            beating.start()
            try:
                self._studies.set_state(study_id, StudyState.RUNNING)
                self._look_for_an_end(worker)  # one that was killed may not have looked
                return self._work(worker)
            finally:
                worker.over.set()
                beating.join()
                self._workers.pop(study_id, None)

    def _may_end_early(self, study: Study) -> bool:
        """Whether it may need no further runs. What was added after an early end is wanted for
        itself."""
        looks = study.interim_looks
        may_end = study.stopping is not None or (looks and looks.is_after_every_block)
        return bool(may_end) and not self._events.of_kind(ENDED_EARLY, study.id)

    def _look_for_an_end(self, worker: Worker) -> None:
        for watch in self._end_watches if worker.may_end_early else ():
            worker.steady(partial(watch.look, worker.study_id))

    def check(self, study_id: UUID) -> Study:
        """Raises ConflictError where a contender has no rig, or one that cannot do what is asked,
        or none of them is within reach."""
        study = self._studies.get(study_id)
        if study.draft is not None:
            raise ConflictError("this study is a draft: start it from its plan")
        asked = {split_procedure(text)[0] for text in study.procedures}
        for contender in study.contenders:
            rig = self._rigs.get(contender.install.rig or "")
            if rig is None:
                raise ConflictError(
                    f"{contender.label} cannot be run from here: nothing operates its machine; "
                    "import its readings as a file instead"
                )
            beyond = sorted(asked - rig.procedures)
            if beyond:
                able = ", ".join(sorted(rig.procedures))
                raise ConflictError(
                    f"{contender.label}: what operates its machine does {able}, not {beyond[0]}"
                )
        if not any(self._is_near(contender.install) for contender in study.contenders):
            hosts = sorted({str(c.install.machine.host) for c in study.contenders})
            raise ConflictError(f"its machines are on {', '.join(hosts)}; run it there")
        return study

    def _is_near(self, install: Install) -> bool:
        return (
            not self._host
            or not rig_traits(install.rig).is_host_bound
            or self._host == install.machine.host
        )

    def _work(self, worker: Worker) -> bool:
        study_id = worker.study_id
        try:
            self._share_out(worker)
        except BaseException:
            worker.ended.set()
            self._queue.release(study_id, worker.study_lease.id)
            self._studies.set_state(study_id, StudyState.PAUSED)
            raise
        if self._abandoned.is_set():
            self._queue.release(study_id, worker.study_lease.id)
            return False
        if self._queue.open_runs(study_id) == 0:
            self._studies.set_state(study_id, StudyState.DONE)
            return True
        if worker.resting:
            self._studies.set_state(study_id, StudyState.PAUSED)
            raise next(iter(worker.resting.values()))
        return False

    def _share_out(self, worker: Worker) -> None:
        """A worker for each run that a host carries at once; the first fault ends them all."""
        study = self._studies.get(worker.study_id)
        near = {
            contender.install.machine.host or contender.install.machine.name
            for contender in study.contenders
            if self._is_near(contender.install)
        }
        places = [
            host
            for host, capacity in sorted(self._queue.hosts(study.id).items())
            if host in near
            for _ in range(capacity)
        ]
        with ThreadPoolExecutor(len(places), thread_name_prefix=f"study-{study.id}") as pool:
            workers = [pool.submit(self._serve_host, worker, host) for host in places]
            try:
                self._first_fault(workers)
            except BaseException:
                worker.cut |= set(worker.under_way)
                worker.ended.set()
                worker.wake()
                self._runs.interrupt(worker)
                raise

    @staticmethod
    def _first_fault(workers: "list[Future[None]]") -> None:
        for worker in wait(workers, return_when=FIRST_EXCEPTION).done:
            worker.result()

    def _serve_host(self, worker: Worker, host: str) -> None:
        study_id, study_lease = worker.study_id, worker.study_lease.id
        while not worker.ended.is_set():
            if worker.asked_to_stop():
                worker.steady(lambda: self._studies.set_state(study_id, StudyState.PAUSED))
                return
            lease = worker.steady(
                lambda: self._queue.lease_next(study_id, study_lease, host, list(worker.resting))
            )
            if lease is not None:
                self._take(worker, lease)
            elif self._is_over(worker, host):
                return
            else:
                worker.rest()

    def _is_over(self, worker: Worker, host: str) -> bool:
        """Whether nothing is to be done on a host any more; what is lost there is planned again."""
        study = worker.steady(lambda: self._studies.get(worker.study_id))
        if study.state is not StudyState.RUNNING:
            return True
        if worker.steady(lambda: self._queue.release_lost(worker.study_id)):
            return False
        machines = [c.install.machine for c in study.contenders]
        resting = {m.name for m in machines if (m.host or m.name) == host} <= set(worker.resting)
        return resting or not worker.steady(lambda: self._queue.open_runs(worker.study_id, host))

    def _take(self, worker: Worker, lease: Lease) -> None:
        worker.under_way[lease.run.id] = lease
        try:
            failure = self._runs.carry_out(worker, lease)
        except StaleAttemptError as error:
            log.warning("%s; its capture is kept, its readings are not", error)
            return
        except StoreUnavailableError:
            if not worker.ended.is_set():
                raise
            return  # ended while the database was away: its lease runs out by itself
        finally:
            del worker.under_way[lease.run.id]
            worker.wake()
        rests = worker.count(lease, failure)
        if rests is not None:
            worker.steady(
                lambda: self._events.add(
                    "machine.rests", worker.study_id, lease.run.id, reason=str(rests)
                )
            )
        self._look_for_an_end(worker)
