"""Hands out runs one by one and takes their results, each step a transaction."""

from collections.abc import Sequence
from typing import Any
from uuid import UUID

from peewee import fn
from psycopg.types.json import Jsonb
from uuid_utils.compat import uuid7

from haremile.core.records.conditions import checked
from haremile.core.records.rigs import rig_traits
from haremile.core.records.study import HAD_FAILED, SET_ASIDE, RunState, failure_before, run_end
from haremile.errors import (
    ConflictError,
    NotFoundError,
    StaleAttemptError,
)
from haremile.store.captures import keep_capture
from haremile.store.database import connected, rows_of
from haremile.store.events import PostgresEventLog
from haremile.store.leases import (
    ADOPT,
    BEGIN,
    END,
    FENCE,
    GOING,
    HOSTS,
    LEASE_S,
    LOST,
    ORPHANED,
    TAKE,
    TELL,
    PostgresStudyLease,
    ended_conductors,
    is_held,
    lease_of,
    next_run,
)
from haremile.store.readings import ReadingWriter
from haremile.store.rows import (
    AttemptRow,
    ContenderRow,
    HostRow,
    InstallRow,
    MachineJobRow,
    MachineRow,
    RunRow,
    StudyRow,
    TraceRow,
    database,
    now,
)
from haremile.usecases.ports import Lease, NewReading
from haremile_probe.wire import CAPTURE_FORMAT, Capture

UNDER_WAY = [state for state in RunState if state.is_under_way]


class PostgresRunQueue:
    """The run sheet as a queue with fenced attempts.

    Several conductors may share a study and its machines. Each gives signs of life for the runs in
    its lease; a run whose conductor is gone is planned again by whoever comes next.
    """

    def __init__(self, url: str, events: PostgresEventLog, lease_s: float = LEASE_S):
        self._url = url
        self._events = events
        self._lease_s = lease_s

    def hold(self, study_id: UUID) -> PostgresStudyLease:
        """This conductor's hold on a study."""
        return PostgresStudyLease(self._url, study_id)

    def is_held(self, study_id: UUID) -> bool:
        """Whether some conductor is at work on the study."""
        return is_held(study_id)

    @connected
    def hosts(self, study_id: UUID) -> dict[str, int]:
        """Hosts that carry machines of the study, each with the runs it carries at once."""
        return {row.name: row.capacity for row in rows_of(HOSTS, study_id)}

    @connected
    def open_runs(self, study_id: UUID, host: str | None = None) -> int:
        """How many runs are planned or under way, on this host or on all."""
        query = (
            RunRow.select(RunRow.id)
            .join(ContenderRow)
            .join(InstallRow)
            .join(MachineRow)
            .join(HostRow)
            .where(RunRow.study == study_id, RunRow.state.in_([RunState.PLANNED, *UNDER_WAY]))
        )
        return int((query if host is None else query.where(HostRow.name == host)).count())

    @connected
    def release_lost(self, study_id: UUID) -> int:
        """Plan again what workers had leased that are gone."""
        with database.atomic():
            ended = ended_conductors(study_id)
            lost = [row.id for row in rows_of(LOST, study_id, ended, self._lease_s)]
            for run_id in lost:
                self._release(study_id, run_id, "its worker was gone")
        return len(lost)

    @connected
    def release(self, study_id: UUID, holder: int | None = None) -> int:
        """Plan again what this holder has under way, or what all have.

        What an enrolled machine works on stays with it when only its conductor goes.
        """
        with database.atomic():
            query = (
                RunRow.select(RunRow.id)
                .join(
                    AttemptRow,
                    on=(AttemptRow.run == RunRow.id) & (AttemptRow.number == RunRow.attempt_no),
                )
                .where(RunRow.study == study_id, RunRow.state.in_(UNDER_WAY))
            )
            if holder is not None:
                open_job = MachineJobRow.select().where(
                    MachineJobRow.run == RunRow.id,
                    MachineJobRow.attempt_no == RunRow.attempt_no,
                    MachineJobRow.stage != "over",
                )
                query = query.where(AttemptRow.conductor == holder, ~fn.EXISTS(open_job))
            found = [row.id for row in query.for_update()]
            for run_id in found:
                self._release(study_id, run_id, "ended before it was done")
        return len(found)

    def _release(self, study_id: UUID, run_id: UUID, reason: str) -> None:
        run = RunRow.get_by_id(run_id)
        (
            AttemptRow.update(state="lost", finished_at=now(), reason=reason)
            .where(AttemptRow.run == run_id, AttemptRow.number == run.attempt_no)
            .execute()
        )
        self._close_job(run_id)
        RunRow.update(state=RunState.PLANNED).where(RunRow.id == run_id).execute()
        self._events.add("run.lost", study_id, run_id)

    @connected
    def lease_next(
        self,
        study_id: UUID,
        holder: int | None = None,
        host: str | None = None,
        resting: Sequence[str] = (),
    ) -> Lease | None:
        """The next planned run in order, as a new attempt; None where there is none now.

        Parameters
        ----------
        study_id : UUID
        holder : int, optional
            The conductor's; nothing is then handed out unless the study runs.
        host : str, optional
            Only what runs there, where it carries no more than it can; any host where None.
        resting : sequence of machine names from which nothing is handed out
        """
        with database.atomic():
            (study,) = rows_of(GOING, study_id)
            if holder is not None and not study.is_going:
                return None
            if host is not None and holder is not None and study.has_jobs:
                orphan = rows_of(
                    ORPHANED, study_id, ended_conductors(study_id), self._lease_s, host
                )
                if orphan:
                    return self._adopt(orphan[0].id, holder)
            for name in self.hosts(study_id) if host is None else (host,):
                run_id = next_run(study_id, name, resting)
                if run_id is not None:
                    return self._lease(run_id, holder)
        return None

    def _lease(self, run_id: UUID, holder: int | None) -> Lease:
        attempt_id = uuid7()
        (row,) = rows_of(TAKE, run_id, attempt_id, holder)
        lease = lease_of(row, attempt_id)
        self._events.add("run.leased", lease.run.study_id, run_id)
        return lease

    def _adopt(self, run_id: UUID, holder: int) -> Lease:
        """Go on with an attempt that a machine carries out by itself."""
        (attempt,) = rows_of(ADOPT, holder, run_id)
        (row,) = rows_of(TELL, run_id)
        lease = lease_of(row, attempt.id)
        self._events.add("run.adopted", lease.run.study_id, run_id)
        return lease

    @connected
    def begin(self, lease: Lease) -> None:
        """The run has started."""
        with database.atomic():
            run = lease.run
            if rows_of(BEGIN, run.id, run.attempt, lease.attempt_id):
                self._events.add("run.running", run.study_id, run.id)
                return
            found = self._fence(lease)
            if found.attempt_no != run.attempt or found.state != RunState.RUNNING:
                raise _overtaken(lease)
            # said before, and the answer was lost; or adopted

    @connected
    def finish(self, lease: Lease, capture: Capture, body: bytes) -> None:
        """Keep the capture and its readings.

        Raises
        ------
        StaleAttemptError
            If the attempt was overtaken; the capture is kept as evidence, readings are not.
        """
        ended = run_end(capture.outcome)
        with database.atomic():
            kept = keep_capture(UUID(capture.id), body, CAPTURE_FORMAT, capture.made_at)
            found = self._fence(lease)
            if found.capture_id == kept and found.tried == ended:
                return  # written before, and the answer was lost
            is_late = found.attempt_no != lease.run.attempt or found.state != RunState.RUNNING
            if is_late:
                self._update_attempt(lease, capture=kept, reason="came too late")
            else:
                self._write_results(lease, capture, kept, ended)
        if is_late:
            raise _overtaken(lease)

    def _fence(self, lease: Lease) -> Any:
        """State and newest attempt of the run, state and capture of this attempt; run locked."""
        found = rows_of(FENCE, lease.run.id, lease.attempt_id)
        if not found:
            raise _overtaken(lease)
        return found[0]

    def _write_results(self, lease: Lease, capture: Capture, kept: UUID, state: RunState) -> None:
        conditions = checked(capture.conditions)
        database.execute_sql(
            END,
            (
                state,
                capture.reason,
                lease.run.id,
                state,
                capture.reason,
                Jsonb(conditions),
                kept,
                lease.attempt_id,
            ),
        )
        writer = ReadingWriter(lease.run.contender_id)
        for item in capture.readings if state is RunState.DONE else ():
            reading = NewReading.of(item, conditions)
            own = conditions if reading.conditions is None else checked(reading.conditions)
            writer.add(lease.attempt_id, lease.run.contender_id, own, reading)
        writer.flush()
        for trace in capture.traces:
            TraceRow.create(
                attempt=lease.attempt_id,
                metric=trace.metric,
                unit=trace.unit,
                times_s=trace.times_s,
                values=trace.values,
            )
        if rig_traits(lease.install.rig).asks_by_itself:
            self._close_job(lease.run.id)
        self._events.add(f"run.{state}", lease.run.study_id, lease.run.id, reason=capture.reason)

    @staticmethod
    def _close_job(run_id: UUID) -> None:
        MachineJobRow.update(stage="over", body=None).where(MachineJobRow.run == run_id).execute()

    def _update_attempt(self, lease: Lease, **fields: object) -> None:
        AttemptRow.update(**fields).where(AttemptRow.id == lease.attempt_id).execute()

    @connected
    def end_after(self, study_id: UUID, block: int, reason: str) -> int:
        """Skip what is planned beyond a block, with the reason; that block is then the last."""
        with database.atomic():
            later = RunRow.select().where(
                RunRow.study == study_id, RunRow.state == RunState.PLANNED, RunRow.block > block
            )
            found = [row.id for row in later.for_update()]
            RunRow.update(state=RunState.SKIPPED, reason=reason).where(
                RunRow.id.in_(found)
            ).execute()
            StudyRow.update(blocks=block).where(StudyRow.id == study_id).execute()
            self._events.add("study.ended_early", study_id, block=block, reason=reason)
        return len(found)

    @connected
    def plan_again(self, run_id: UUID) -> None:
        """Plan a failed or void run as a new attempt."""
        with database.atomic():
            row = RunRow.select().where(RunRow.id == run_id).for_update().first()
            if row is None:
                raise NotFoundError("run", run_id)
            if not RunState(row.state).can_be_planned_again:
                raise ConflictError(f"a run that is {row.state} cannot be planned again")
            self._plan(row.study_id, run_id)

    @connected
    def plan_failed_again(self, study_id: UUID) -> int:
        """Plan every run that failed or could not be measured as a new attempt; return how many."""
        with database.atomic():
            is_ours = (RunRow.state == RunState.VOID) & ~RunRow.reason.startswith(SET_ASIDE)
            failed = RunRow.select().where(
                RunRow.study == study_id, (RunRow.state == RunState.FAILED) | is_ours
            )
            found = [row.id for row in failed.for_update()]
            for run_id in found:
                self._plan(study_id, run_id)
        return len(found)

    @connected
    def set_aside(self, run_id: UUID, reason: str | None) -> None:
        """Set a failed run aside with a reason, or let it count again where that is None."""
        with database.atomic():
            row = RunRow.select().where(RunRow.id == run_id).for_update().first()
            if row is None:
                raise NotFoundError("run", run_id)
            is_aside = row.state == RunState.VOID and (row.reason or "").startswith(SET_ASIDE)
            if reason is not None and row.state == RunState.FAILED:
                state, said = RunState.VOID, f"{SET_ASIDE}{reason}{HAD_FAILED}{row.reason}"
            elif reason is None and is_aside:
                state, said = RunState.FAILED, failure_before(row.reason)
            else:
                raise ConflictError(f"a run that is {row.state} is not set aside as a failed one")
            RunRow.update(state=state, reason=said).where(RunRow.id == run_id).execute()
            self._events.add("run.set_aside", row.study_id, run_id, reason=reason)

    def _plan(self, study_id: UUID, run_id: UUID) -> None:
        RunRow.update(state=RunState.PLANNED, reason=None).where(RunRow.id == run_id).execute()
        self._events.add("run.planned", study_id, run_id)

    @connected
    def skip(self, run_id: UUID, reason: str) -> None:
        """Leave a planned run out, with its reason."""
        with database.atomic():
            row = RunRow.select().where(RunRow.id == run_id).for_update().first()
            if row is None:
                raise NotFoundError("run", run_id)
            if row.state != RunState.PLANNED:
                raise ConflictError(f"a run that is {row.state} cannot be skipped")
            (
                RunRow.update(state=RunState.SKIPPED, reason=reason)
                .where(RunRow.id == run_id)
                .execute()
            )
            self._events.add("run.skipped", row.study_id, run_id, reason=reason)


def _overtaken(lease: Lease) -> StaleAttemptError:
    return StaleAttemptError(f"attempt {lease.run.attempt} of the run was overtaken")
