"""Conducting a study: run after run, from the run sheet, until it is done or paused."""

import logging
import threading
import traceback
from collections.abc import Callable, Mapping
from concurrent.futures import FIRST_EXCEPTION, Future, ThreadPoolExecutor, wait
from datetime import UTC, datetime
from typing import Protocol
from uuid import UUID

from uuid_utils.compat import uuid7

from haremile.core.records.procedures import procedure_of
from haremile.core.records.study import Install, Study, StudyState, split_procedure
from haremile.errors import (
    ConflictError,
    HareMileError,
    MissingHereError,
    RunFailedError,
    RunTimedOutError,
    StaleAttemptError,
    StoreUnavailableError,
)
from haremile.formats.captures import checked_capture
from haremile.formats.guest_records import add_idle_readings
from haremile.usecases.ports import EventLog, Lease, Rig, RunDesk, RunOrder, StudyBook
from haremile.usecases.precision import PrecisionWatch
from haremile.usecases.shift import Shift
from haremile_probe import VERSION
from haremile_probe.wire import Capture, Evidence, Ticket, dump_capture

log = logging.getLogger(__name__)

RECORDS = "marks"
"""Evidence of a system that only writes its records down: readings are then still to be read."""

OF_A_HOST = {"guest", "here"}
"""Rigs that work only on the host that carries their machine."""


class Timer(Protocol):
    """What `threading.Timer` does."""

    def start(self) -> None:
        """Begin to wait."""

    def cancel(self) -> None:
        """Wait no longer."""


class Conductor:
    """Drives the rigs from the run sheet.

    Parameters
    ----------
    studies, desk, events : the bench book
    rigs : mapping of a rig's name to the rig
    host : str
        Name of this host; machines of other hosts are left to their own conductors. Empty where
        all are within reach.
    precision : PrecisionWatch, optional
        Ends studies that stop on precision.
    timer : callable
        Makes the timer of a run from seconds and what is then done.
    """

    def __init__(
        self,
        studies: StudyBook,
        desk: RunDesk,
        events: EventLog,
        rigs: Mapping[str, Rig],
        *,
        host: str = "",
        precision: PrecisionWatch | None = None,
        timer: Callable[[float, Callable[[], None]], Timer] = threading.Timer,
    ):
        self._studies, self._desk, self._events, self._rigs = studies, desk, events, rigs
        self._host, self._precision, self._timer = host, precision, timer
        self._abandoned = threading.Event()
        self._shifts: dict[UUID, Shift] = {}

    def is_at_work(self, study_id: UUID) -> bool:
        """Whether some conductor, here or elsewhere, works on the study."""
        return self._desk.is_held(study_id)

    def cut(self, study_id: UUID) -> None:
        """End the study's runs that are under way at once, wherever; they are planned again, and
        the study pauses."""
        shift = self._shifts.get(study_id)
        if shift is not None:
            shift.cut |= set(shift.in_hand)
        self._studies.set_state(study_id, StudyState.PAUSED)
        self._desk.release(study_id)
        if shift is not None:
            shift.ended.set()
            self._interrupt(shift)

    def abandon(self) -> None:
        """End at once: what is under way counts as not carried out and is planned again."""
        self._abandoned.set()
        for shift in list(self._shifts.values()):
            shift.cut |= set(shift.in_hand)
            shift.ended.set()
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
        with self._desk.hold(study_id) as hand:
            shift = Shift(study_id, hand, stop, study.stopping is not None)
            self._shifts[study_id] = shift
            beating = threading.Thread(
                target=shift.keep_beating, args=(lambda run: self._end_run(shift, run),),
                name=f"beat-{study_id}", daemon=True,
            )  # fmt: skip
            beating.start()
            try:
                self._studies.set_state(study_id, StudyState.RUNNING)
                return self._work(shift)
            finally:
                shift.over.set()
                beating.join()
                self._shifts.pop(study_id, None)

    def check(self, study_id: UUID) -> Study:
        """Raises ConflictError where a contender has no rig, or one that cannot do what is asked,
        or none of them is within reach."""
        study = self._studies.get(study_id)
        asked = {split_procedure(text)[0] for text in study.procedures}
        for contender in study.contenders:
            rig = self._rigs.get(contender.install.rig or "")
            if rig is None:
                raise ConflictError(
                    f"{contender.label} has no rig here that could run it; "
                    "bring its readings in as a file instead"
                )
            beyond = sorted(asked - rig.procedures)
            if beyond:
                able = ", ".join(sorted(rig.procedures))
                raise ConflictError(f"{contender.label}: its rig does {able}, not {beyond[0]}")
        if not any(self._is_near(contender.install) for contender in study.contenders):
            hosts = sorted({str(c.install.machine.host) for c in study.contenders})
            raise ConflictError(f"its machines are on {', '.join(hosts)}; run it there")
        return study

    def _is_near(self, install: Install) -> bool:
        return not self._host or install.rig not in OF_A_HOST or self._host == install.machine.host

    def _work(self, shift: Shift) -> bool:
        study_id = shift.study_id
        try:
            self._share_out(shift)
        except BaseException:
            shift.ended.set()
            self._desk.release(study_id, shift.hand.id)
            self._studies.set_state(study_id, StudyState.PAUSED)
            raise
        if self._abandoned.is_set():
            self._desk.release(study_id, shift.hand.id)
            return False
        if self._desk.open_runs(study_id) == 0:
            self._studies.set_state(study_id, StudyState.DONE)
            return True
        if shift.resting:
            self._studies.set_state(study_id, StudyState.PAUSED)
            raise next(iter(shift.resting.values()))
        return False

    def _share_out(self, shift: Shift) -> None:
        """A worker for each run that a host carries at once; the first fault ends them all."""
        study = self._studies.get(shift.study_id)
        near = {
            contender.install.machine.host or contender.install.machine.name
            for contender in study.contenders
            if self._is_near(contender.install)
        }
        places = [
            host
            for host, capacity in sorted(self._desk.hosts(study.id).items())
            if host in near
            for _ in range(capacity)
        ]
        with ThreadPoolExecutor(len(places), thread_name_prefix=f"study-{study.id}") as pool:
            workers = [pool.submit(self._serve_host, shift, host) for host in places]
            try:
                self._first_fault(workers)
            except BaseException:
                shift.cut |= set(shift.in_hand)
                shift.ended.set()
                shift.wake()
                self._interrupt(shift)
                raise

    @staticmethod
    def _first_fault(workers: "list[Future[None]]") -> None:
        for worker in wait(workers, return_when=FIRST_EXCEPTION).done:
            worker.result()

    def _serve_host(self, shift: Shift, host: str) -> None:
        study_id, hand = shift.study_id, shift.hand.id
        while not shift.ended.is_set():
            if shift.asked_to_stop():
                shift.steady(lambda: self._studies.set_state(study_id, StudyState.PAUSED))
                return
            lease = shift.steady(
                lambda: self._desk.lease_next(study_id, hand, host, list(shift.resting))
            )
            if lease is not None:
                self._take(shift, lease)
            elif self._is_over(shift, host):
                return
            else:
                shift.rest()

    def _is_over(self, shift: Shift, host: str) -> bool:
        """Whether nothing is to be done on a host any more; what is lost there is planned again."""
        study = shift.steady(lambda: self._studies.get(shift.study_id))
        if study.state is not StudyState.RUNNING:
            return True
        if shift.steady(lambda: self._desk.release_lost(shift.study_id)):
            return False
        machines = [c.install.machine for c in study.contenders]
        resting = {m.name for m in machines if (m.host or m.name) == host} <= set(shift.resting)
        return resting or not shift.steady(lambda: self._desk.open_runs(shift.study_id, host))

    def _take(self, shift: Shift, lease: Lease) -> None:
        shift.in_hand[lease.run.id] = lease
        try:
            failure = self._one(shift, lease)
        except StaleAttemptError as error:
            log.warning("%s; its capture is kept, its readings are not", error)
            return
        except StoreUnavailableError:
            if not shift.ended.is_set():
                raise
            return  # ended while the database was away: its lease runs out by itself
        finally:
            del shift.in_hand[lease.run.id]
            shift.wake()
        rests = shift.count(lease, failure)
        if rests is not None:
            shift.steady(
                lambda: self._events.add(
                    "machine.rests", shift.study_id, lease.run.id, reason=str(rests)
                )
            )
        watch = self._precision
        if watch is not None and shift.stops_on_precision:
            shift.steady(lambda: watch.look(shift.study_id))

    def _one(self, shift: Shift, lease: Lease) -> str | None:
        """Carry one run out; return why it failed, if it did."""
        shift.steady(lambda: self._desk.begin(lease))
        capture = self._capture(shift, lease)
        if lease.run.id in shift.cut:
            return None
        body = dump_capture(capture)
        shift.steady(lambda: self._desk.finish(lease, capture, body))
        return capture.reason

    def _capture(self, shift: Shift, lease: Lease) -> Capture:
        run = lease.run
        order = RunOrder(
            run.id, run.attempt, run.procedure, lease.install, lease.seed, run.lane_no, run.block,
            run.conditions,
        )  # fmt: skip
        try:
            usual_s = procedure_of(run.procedure).limit_s
            limit_s = float(lease.install.recipe.get("limit_s", usual_s))
        except ValueError:
            stated = lease.install.recipe["limit_s"]
            return failed_capture(order, RunFailedError(f"limit_s is in seconds, not {stated}"))
        timer = self._timer(limit_s, lambda: self._time_out(shift, run.id))
        timer.start()
        try:
            capture = self._asked(order, lambda name, at: self._mark(shift, lease, name, at))
        finally:
            timer.cancel()
        if run.id in shift.late and capture.outcome != "done":
            told = [item for item in capture.evidence if item.name != "log-tail"]
            late = RunTimedOutError(f"no result within {limit_s:g} s", evidence=tuple(told))
            late.log_tail = capture.text_of("log-tail") or ""
            return failed_capture(order, late)
        return capture

    def _asked(self, order: RunOrder, mark: Callable[[str, float | None], None]) -> Capture:
        try:
            capture = self._rigs[order.install.rig or ""].run(order, mark)
        except RunFailedError as error:
            return failed_capture(order, error)
        except (MissingHereError, StoreUnavailableError):
            raise
        except HareMileError as error:
            return failed_capture(order, RunFailedError(str(error)))
        except (OSError, ValueError) as error:  # what a machine says may be no record at all
            text = "".join(traceback.format_exception(error))
            return failed_capture(order, RunFailedError(f"the rig met: {error}", text))
        if capture.text_of(RECORDS) is not None:
            add_idle_readings(capture)
        try:
            return checked_capture(capture)
        except HareMileError as error:
            kept = tuple(capture.evidence)
            said = f"the rig brought what cannot be kept: {error}"
            return failed_capture(order, RunFailedError(said, evidence=kept))

    def _mark(self, shift: Shift, lease: Lease, name: str, at_s: float | None) -> None:
        run = lease.run
        shift.steady(
            lambda: self._events.add(
                "run.mark", run.study_id, run.id, mark=name, at_s=at_s, lane=run.lane_no
            )
        )

    def _time_out(self, shift: Shift, run_id: UUID) -> None:
        shift.late.add(run_id)
        self._end_run(shift, run_id)

    def _end_run(self, shift: Shift, run_id: UUID) -> None:
        lease = shift.in_hand.get(run_id)
        if lease is not None:
            self._rigs[lease.install.rig or ""].interrupt(run_id)

    def _interrupt(self, shift: Shift) -> None:
        for run_id in list(shift.in_hand):
            self._end_run(shift, run_id)


def failed_capture(order: RunOrder, error: RunFailedError) -> Capture:
    """What a failed run leaves: its reason, and everything the machine said until then."""
    evidence = [item for item in error.evidence if isinstance(item, Evidence)]
    if error.log_tail:
        evidence.insert(0, Evidence("log-tail", error.log_tail))
    return Capture(
        id=str(uuid7()), made_at=datetime.now(UTC).isoformat(), probe=VERSION,
        asked=order.procedure, machine=order.install.machine.name,
        system=order.install.system.name, outcome="failed", reason=f"{error.reason}: {error}",
        ticket=Ticket(str(order.run_id), order.attempt), evidence=evidence,
    )  # fmt: skip
