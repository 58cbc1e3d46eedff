"""Conducting a study: run after run, from the run sheet, until it is done or paused."""

import logging
import threading
import traceback
from collections import defaultdict
from collections.abc import Callable, Mapping
from datetime import UTC, datetime
from uuid import UUID

from uuid_utils.compat import uuid7

from haremile.bench.ports import EventLog, Lease, Rig, RunDesk, RunOrder, StudyBook
from haremile.core.study import StudyState
from haremile.errors import (
    ConflictError,
    HareMileError,
    MissingHereError,
    RigRestsError,
    RunFailedError,
    StaleAttemptError,
    StoreUnavailableError,
)
from haremile.formats.guest_records import add_idle_readings
from haremile_probe import VERSION
from haremile_probe.wire import Capture, Evidence, Ticket, dump_capture

log = logging.getLogger(__name__)

RECORDED = {"guest"}
"""Rigs whose captures carry the machine's own records, from which readings are still to be read."""

RESTS_AFTER = 3
"""Failures in a row after which a rig rests on a machine."""


class Conductor:
    """Drives the rigs from the run sheet."""

    def __init__(
        self, studies: StudyBook, desk: RunDesk, events: EventLog, rigs: Mapping[str, Rig]
    ):
        self._studies, self._desk, self._events, self._rigs = studies, desk, events, rigs
        self._abandoned = threading.Event()
        self._cut: set[UUID] = set()
        self._in_hand: dict[UUID, Lease] = {}

    def cut(self, study_id: UUID) -> None:
        """End the study's run that is under way at once; it is planned again, the study pauses."""
        self._cut.add(study_id)
        lease = self._in_hand.get(study_id)
        if lease is not None:
            self._rigs[lease.install.rig or ""].interrupt(lease.run.id)

    def abandon(self) -> None:
        """End at once: what is under way counts as not carried out and is planned again."""
        self._abandoned.set()
        for rig in self._rigs.values():
            rig.interrupt()

    def conduct(self, study_id: UUID, stop: Callable[[], bool] = lambda: False) -> bool:
        """Run what is planned; return whether the whole sheet is finished.

        Parameters
        ----------
        study_id : UUID
        stop : callable
            Asked before each run; true pauses the study there.

        Raises
        ------
        ConflictError
            If another conductor is at work on the study, or its contenders have no rig.
        RigRestsError
            If a rig failed three times in a row; the study is then paused.
        """
        self.check(study_id)
        with self._desk.hold(study_id) as held:
            if not held:
                raise ConflictError("another conductor is at work on this study")
            self._desk.release_lost(study_id)
            self._cut.discard(study_id)
            self._studies.set_state(study_id, StudyState.RUNNING)
            try:
                return self._work(study_id, stop)
            except (KeyboardInterrupt, MissingHereError, RigRestsError):
                self._desk.release_lost(study_id)
                self._studies.set_state(study_id, StudyState.PAUSED)
                raise

    def _work(self, study_id: UUID, stop: Callable[[], bool]) -> bool:
        strikes: dict[tuple[str, str], int] = defaultdict(int)
        while not self._abandoned.is_set():
            if stop() or study_id in self._cut:
                self._desk.release_lost(study_id)
                self._studies.set_state(study_id, StudyState.PAUSED)
                return False
            lease = self._desk.lease_next(study_id)
            if lease is None:
                self._studies.set_state(study_id, StudyState.DONE)
                return True
            self._in_hand[study_id] = lease
            try:
                failure = self._one(lease)
            finally:
                del self._in_hand[study_id]
            _count(strikes, lease, failure)
        self._desk.release_lost(study_id)
        return False

    def check(self, study_id: UUID) -> None:
        """Raises ConflictError where a contender has no rig here."""
        for contender in self._studies.get(study_id).contenders:
            if contender.install.rig not in self._rigs:
                raise ConflictError(
                    f"{contender.label} has no rig here that could run it; "
                    "bring its readings in as a file instead"
                )

    def _one(self, lease: Lease) -> str | None:
        """Carry one run out; return why it failed, if it did."""
        machine = lease.install.machine
        with self._desk.turn(machine.host or machine.name):
            try:
                if self._is_ended(lease):
                    return None
                self._desk.begin(lease)
                capture = self._capture(lease)
                if self._is_ended(lease):
                    return None
                self._desk.finish(lease, capture, dump_capture(capture))
                return capture.reason
            except StaleAttemptError as error:
                log.warning("%s; its capture is kept, its readings are not", error)
        return None

    def _is_ended(self, lease: Lease) -> bool:
        return self._abandoned.is_set() or lease.run.study_id in self._cut

    def _capture(self, lease: Lease) -> Capture:
        order = RunOrder(
            lease.run.id, lease.run.attempt, lease.run.procedure, lease.install, lease.seed,
            lease.run.lane_no, lease.run.block,
        )  # fmt: skip
        try:
            rig = self._rigs[lease.install.rig or ""]
            capture = rig.run(order, lambda name, at: self._mark(lease, name, at))
        except RunFailedError as error:
            return failed_capture(order, error)
        except (MissingHereError, StoreUnavailableError):
            raise
        except HareMileError as error:
            return failed_capture(order, RunFailedError(str(error)))
        except (OSError, ValueError) as error:  # what a machine says may be no record at all
            text = "".join(traceback.format_exception(error))
            return failed_capture(order, RunFailedError(f"the rig met: {error}", text))
        if lease.install.rig in RECORDED:
            add_idle_readings(capture)
        return capture

    def _mark(self, lease: Lease, name: str, at_s: float | None) -> None:
        run = lease.run
        self._events.add("run.mark", run.study_id, run.id, mark=name, at_s=at_s, lane=run.lane_no)


def _count(strikes: dict[tuple[str, str], int], lease: Lease, failure: str | None) -> None:
    """Count failures in a row of a rig on a machine; raises RigRestsError when they are three."""
    machine = lease.install.machine.name
    key = (lease.install.rig or "", machine)
    strikes[key] = strikes[key] + 1 if failure else 0
    if strikes[key] >= RESTS_AFTER:
        raise RigRestsError(
            f"{machine} rests after {RESTS_AFTER} failed runs in a row; the last one {failure}. "
            "See to it, plan the failed runs again, and go on"
        )


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
