"""Carrying one run out: the rig is asked within its time, and what it brought is kept."""

import traceback
from collections.abc import Callable, Mapping
from datetime import UTC, datetime
from typing import Protocol
from uuid import UUID

from uuid_utils.compat import uuid7

from haremile.core.records.procedures import procedure_of
from haremile.core.records.rigs import rig_traits
from haremile.errors import (
    HareMileError,
    MissingHereError,
    NotMeasuredError,
    RunFailedError,
    RunTimedOutError,
    StoreUnavailableError,
)
from haremile.formats.captures import checked_capture
from haremile.formats.guest_records import add_idle_readings
from haremile.usecases.ports import EventLog, Lease, ReportPhase, Rig, RunOrder, RunQueue
from haremile.usecases.worker import Worker
from haremile_probe import VERSION
from haremile_probe.wire import NOT_MEASURED, Capture, Evidence, Ticket, dump_capture

PATIENCE_S = 90 * 86400.0
"""For so long a person is waited for."""

RECORDS = "marks"
"""Evidence of a system that only writes its records down: readings are then still to be read."""


class Timer(Protocol):
    """What `threading.Timer` does."""

    def start(self) -> None:
        """Begin to wait."""

    def cancel(self) -> None:
        """Wait no longer."""


class RunCarrier:
    """Carries leased runs out with the rigs.

    Parameters
    ----------
    queue, events : the store
    rigs : mapping of a rig's name to the rig
    timer : callable
        Makes the timer of a run from seconds and what is then done.
    """

    def __init__(
        self,
        queue: RunQueue,
        events: EventLog,
        rigs: Mapping[str, Rig],
        timer: Callable[[float, Callable[[], None]], Timer],
    ):
        self._queue, self._events, self._rigs, self._timer = queue, events, rigs, timer

    def carry_out(self, worker: Worker, lease: Lease) -> str | None:
        """Carry one run out; return why it failed, if it did."""
        worker.steady(lambda: self._queue.begin(lease))
        capture = self._capture(worker, lease)
        if lease.run.id in worker.cut:
            return None
        body = dump_capture(capture)
        worker.steady(lambda: self._queue.finish(lease, capture, body))
        return capture.reason

    def _capture(self, worker: Worker, lease: Lease) -> Capture:
        run = lease.run
        order = RunOrder(
            run.id,
            run.attempt,
            run.procedure,
            lease.install,
            lease.seed,
            run.lane_no,
            run.block,
            run.conditions,
        )
        is_person = rig_traits(lease.install.rig).is_person
        try:
            usual_s = PATIENCE_S if is_person else procedure_of(run.procedure).limit_s
            limit_s = float(lease.install.recipe.get("limit_s", usual_s))
        except ValueError:
            stated = lease.install.recipe["limit_s"]
            return failed_capture(order, NotMeasuredError(f"limit_s is in seconds, not {stated}"))
        timer = self._timer(limit_s, lambda: self._time_out(worker, run.id))
        timer.start()
        try:
            capture = self._asked(order, lambda name, at: self._phase(worker, lease, name, at))
        finally:
            timer.cancel()
        if run.id in worker.late and capture.outcome != "done":
            kept = [item for item in capture.evidence if item.name != "log-tail"]
            late = RunTimedOutError(f"no result within {limit_s:g} s", evidence=tuple(kept))
            late.log_tail = capture.text_of("log-tail") or ""
            return failed_capture(order, late)
        return capture

    def _asked(self, order: RunOrder, report_phase: ReportPhase) -> Capture:
        try:
            capture = self._rigs[order.install.rig or ""].run(order, report_phase)
        except RunFailedError as error:
            return failed_capture(order, error)
        except (MissingHereError, StoreUnavailableError):
            raise
        except HareMileError as error:
            return failed_capture(order, NotMeasuredError(str(error)))
        except (OSError, ValueError) as error:  # what a machine says may be no record at all
            text = "".join(traceback.format_exception(error))
            return failed_capture(order, NotMeasuredError(f"the rig met: {error}", text))
        if capture.text_of(RECORDS) is not None:
            add_idle_readings(capture)
        try:
            return checked_capture(capture)
        except HareMileError as error:
            kept = tuple(capture.evidence)
            said = f"the rig brought what cannot be kept: {error}"
            return failed_capture(order, NotMeasuredError(said, evidence=kept))

    def _phase(self, worker: Worker, lease: Lease, name: str, at_s: float | None) -> None:
        run = lease.run
        worker.steady(
            lambda: self._events.add(
                "run.phase", run.study_id, run.id, phase=name, at_s=at_s, lane=run.lane_no
            )
        )

    def _time_out(self, worker: Worker, run_id: UUID) -> None:
        worker.late.add(run_id)
        self.end(worker, run_id)

    def end(self, worker: Worker, run_id: UUID) -> None:
        """End a run at once."""
        lease = worker.under_way.get(run_id)
        if lease is not None:
            self._rigs[lease.install.rig or ""].interrupt(run_id)

    def interrupt(self, worker: Worker) -> None:
        """End every run that is under way."""
        for run_id in list(worker.under_way):
            self.end(worker, run_id)


def failed_capture(order: RunOrder, error: RunFailedError) -> Capture:
    """What a failed run leaves: its reason, and everything the machine said until then."""
    evidence = [item for item in error.evidence if isinstance(item, Evidence)]
    if error.log_tail:
        evidence.insert(0, Evidence("log-tail", error.log_tail))
    return Capture(
        id=str(uuid7()),
        made_at=datetime.now(UTC).isoformat(),
        probe=VERSION,
        asked=order.procedure,
        machine=order.install.machine.name,
        system=order.install.system.name,
        outcome=NOT_MEASURED if isinstance(error, NotMeasuredError) else "failed",
        reason=f"{error.reason}: {error}",
        ticket=Ticket(str(order.run_id), order.attempt),
        evidence=evidence,
    )
