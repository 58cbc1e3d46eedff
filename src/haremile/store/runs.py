"""Hands out runs one by one and takes their results, each step a transaction."""

import hashlib
from collections.abc import Iterator
from contextlib import closing, contextmanager
from datetime import datetime
from uuid import UUID

import psycopg

from haremile.bench.ports import Lease, NewReading
from haremile.core.conditions import checked
from haremile.core.study import RunState
from haremile.core.units import to_canonical
from haremile.errors import (
    CaptureConflictError,
    ConflictError,
    NotFoundError,
    StaleAttemptError,
    StoreUnavailableError,
)
from haremile.store.database import connected
from haremile.store.events import PostgresEventLog
from haremile.store.library import install_of
from haremile.store.readings import ReadingWriter
from haremile.store.rows import (
    AttemptRow,
    CaptureRow,
    ContenderRow,
    RunRow,
    StudyRow,
    TraceRow,
    database,
    now,
)
from haremile.store.studies import run_of
from haremile_probe.wire import CAPTURE_FORMAT, Capture

HELD_QUERY = """
    select exists (
        select from pg_locks
        where locktype = 'advisory' and granted and objsubid = 1
          and classid::bigint = %s and objid::bigint = %s
          and database = (select oid from pg_database where datname = current_database())
    )
"""
UNDER_WAY = [state for state in RunState if state.is_under_way]


def _give_back(held: psycopg.Connection, key: int) -> None:
    """Unlock at once: the lock of a connection that is only closed outlives it for a moment."""
    try:
        held.execute("select pg_advisory_unlock(%s)", (key,))
    except psycopg.OperationalError:
        pass  # the server is gone, and the lock with it


def _lock_key(text: str) -> int:
    return int.from_bytes(hashlib.sha256(text.encode()).digest()[:8], "big", signed=True)


class PostgresRunDesk:
    """The run sheet as a queue with fenced attempts.

    Who works on a study holds an advisory lock that PostgreSQL gives back as soon as its holder is
    gone, however it went.
    """

    def __init__(self, url: str, events: PostgresEventLog):
        self._url = url
        self._events = events

    @contextmanager
    def hold(self, study_id: UUID) -> Iterator[bool]:
        """Hold the study for this conductor; False where another one has it."""
        key = _lock_key(f"study {study_id}")
        with self._lock_connection() as held:
            row = held.execute("select pg_try_advisory_lock(%s)", (key,)).fetchone()
            is_mine = bool(row and row[0])
            try:
                yield is_mine
            finally:
                if is_mine:
                    _give_back(held, key)

    @contextmanager
    def turn(self, host: str) -> Iterator[None]:
        """Wait until no other run occupies the host."""
        with self._lock_connection() as held:
            held.execute("select pg_advisory_lock(%s)", (_lock_key(f"host {host}"),))
            yield

    @connected
    def is_held(self, study_id: UUID) -> bool:
        """Whether some conductor is at work on the study; looks without taking the lock."""
        key = _lock_key(f"study {study_id}") % 2**64
        found = database.execute_sql(HELD_QUERY, (key >> 32, key % 2**32)).fetchone()
        return bool(found[0])

    @contextmanager
    def _lock_connection(self) -> Iterator[psycopg.Connection]:
        try:
            connection = psycopg.connect(self._url, autocommit=True)
        except psycopg.OperationalError as error:
            raise StoreUnavailableError(f"the database does not answer: {error}") from error
        with closing(connection):
            yield connection

    @connected
    def release_lost(self, study_id: UUID) -> int:
        """Plan the study's unfinished runs again; to be called by its holder only."""
        with database.atomic():
            lost = list(
                RunRow.select().where(RunRow.study == study_id, RunRow.state.in_(UNDER_WAY))
            )
            for run in lost:
                (
                    AttemptRow.update(state="lost", finished_at=now(), reason="conductor gone")
                    .where(AttemptRow.run == run.id, AttemptRow.number == run.attempt_no)
                    .execute()
                )
                RunRow.update(state=RunState.PLANNED).where(RunRow.id == run.id).execute()
                self._events.add("run.lost", study_id, run.id)
        return len(lost)

    @connected
    def lease_next(self, study_id: UUID) -> Lease | None:
        """The next planned run in order, as a new attempt; None where none is left."""
        with database.atomic():
            run = (
                RunRow.select()
                .where(RunRow.study == study_id, RunRow.state == RunState.PLANNED)
                .order_by(RunRow.position, RunRow.procedure)
                .limit(1)
                .for_update("FOR UPDATE SKIP LOCKED")
                .first()
            )
            if run is None:
                return None
            run.state, run.attempt_no = RunState.LEASED, run.attempt_no + 1
            run.reason = None
            run.save()
            attempt = AttemptRow.create(run=run, number=run.attempt_no, state=RunState.LEASED)
            self._events.add("run.leased", study_id, run.id)
            seed = StudyRow.get_by_id(study_id).seed
            install = install_of(ContenderRow.get_by_id(run.contender_id).install)
            return Lease(run_of(run, None), install, seed, attempt.id)

    @connected
    def begin(self, lease: Lease) -> None:
        """The run has started."""
        with database.atomic():
            self._check_fence(lease, RunState.LEASED)
            RunRow.update(state=RunState.RUNNING).where(RunRow.id == lease.run.id).execute()
            self._update_attempt(lease, state=RunState.RUNNING, started_at=now())
            self._events.add("run.running", lease.run.study_id, lease.run.id)

    @connected
    def finish(self, lease: Lease, capture: Capture, body: bytes) -> None:
        """Keep the capture and its readings.

        Raises
        ------
        StaleAttemptError
            If the attempt was overtaken; the capture is kept as evidence, readings are not.
        """
        state = RunState.DONE if capture.outcome == "done" else RunState.FAILED
        kept = keep_capture(UUID(capture.id), body, CAPTURE_FORMAT, capture.made_at)
        with database.atomic():
            try:
                self._check_fence(lease, RunState.RUNNING)
            except StaleAttemptError:
                late = True
            else:
                late = False
                self._write_results(lease, capture, kept, state)
        if late:
            self._update_attempt(lease, capture=kept, reason="came too late")
            raise StaleAttemptError(f"attempt {lease.run.attempt} of the run was overtaken")

    def _write_results(
        self, lease: Lease, capture: Capture, kept: CaptureRow, state: RunState
    ) -> None:
        conditions = checked(capture.conditions)
        self._update_attempt(
            lease, state=state, finished_at=now(), reason=capture.reason, conditions=conditions,
            capture=kept,
        )  # fmt: skip
        writer = ReadingWriter()
        for item in capture.readings if state is RunState.DONE else ():
            value, unit = to_canonical(item.value, item.unit)
            step = item.resolution and to_canonical(item.resolution, item.unit)[0]
            reading = NewReading(item.metric, item.method, value, unit, step, item.step)
            writer.add(lease.attempt_id, lease.run.contender_id, conditions, reading)
        writer.flush()
        for trace in capture.traces:
            TraceRow.create(
                attempt=lease.attempt_id, metric=trace.metric, unit=trace.unit,
                times_s=trace.times_s, values=trace.values,
            )  # fmt: skip
        RunRow.update(state=state, reason=capture.reason).where(RunRow.id == lease.run.id).execute()
        self._events.add(f"run.{state}", lease.run.study_id, lease.run.id, reason=capture.reason)

    def _update_attempt(self, lease: Lease, **fields: object) -> None:
        AttemptRow.update(**fields).where(AttemptRow.id == lease.attempt_id).execute()

    def _check_fence(self, lease: Lease, expected: RunState) -> None:
        row = RunRow.select().where(RunRow.id == lease.run.id).for_update().first()
        if row is None or row.attempt_no != lease.run.attempt or row.state != expected:
            raise StaleAttemptError(f"attempt {lease.run.attempt} of the run was overtaken")

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
        """Plan every failed run of a study as a new attempt; return how many there were."""
        with database.atomic():
            failed = RunRow.select().where(
                RunRow.study == study_id, RunRow.state == RunState.FAILED
            )
            found = [row.id for row in failed.for_update()]
            for run_id in found:
                self._plan(study_id, run_id)
        return len(found)

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


def keep_capture(capture_id: UUID, body: bytes, kind: str, made_at: str | datetime) -> CaptureRow:
    """Keep evidence under its maker's id; the same again changes nothing.

    Raises
    ------
    CaptureConflictError
        If the id is known with other bytes.
    """
    digest = hashlib.sha256(body).hexdigest()
    known = CaptureRow.get_or_none(CaptureRow.id == capture_id)
    if known is None:
        at = datetime.fromisoformat(made_at) if isinstance(made_at, str) else made_at
        return CaptureRow.create(id=capture_id, sha256=digest, kind=kind, made_at=at, body=body)
    if known.sha256 != digest:
        raise CaptureConflictError(f"capture {capture_id} is known with other bytes")
    return known
