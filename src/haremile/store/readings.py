"""Readings and their evidence."""

from collections.abc import Mapping, Sequence
from uuid import UUID

from uuid_utils.compat import uuid7

from haremile.bench.ports import NewAttempt, NewReading, StoredCapture, StoredReading, StoredTrace
from haremile.core.conditions import checked, condition_hash, of_the_lane
from haremile.core.findings import Observation
from haremile.core.study import RunState
from haremile.errors import CaptureConflictError, NotFoundError
from haremile.store.database import connected, rows_of
from haremile.store.events import PostgresEventLog
from haremile.store.rows import (
    AttemptRow,
    CaptureRow,
    ContenderRow,
    LaneRow,
    ReadingRow,
    RunRow,
    StudyRow,
    TraceRow,
    database,
    now,
)

BATCH = 500
RUN_KEYS = ("start", "app")
"""Conditions that a run is planned under: launches of another application are other runs."""
KNOWN_LANES = "select metric, method, condition_hash, id from lane where contender_id = %s"
LANES = """
    select lane.id, contender.lane_no, machine.name, lane.metric, lane.method, lane.conditions
    from lane
    join contender on contender.id = lane.contender_id
    join install on install.id = contender.install_id
    join machine on machine.id = install.machine_id
    where contender.study_id = %s
"""
OBSERVED = """
    select reading.lane_id, reading.value, run.procedure, reading.set_aside is not null,
        reading.resolution, run.block
    from run
    join attempt on attempt.run_id = run.id and attempt.number = run.attempt_no
    join reading on reading.attempt_id = attempt.id
    join contender on contender.id = run.contender_id
    where run.study_id = %s and run.state = 'done'
    order by run.position, contender.lane_no, reading.metric, reading.step
"""
"""A reading's metric and method are those of its lane: told once for all of it."""

CONDITIONS = """
    select lane.id, lane.conditions from lane
    join contender on contender.id = lane.contender_id where contender.study_id = %s
"""
PLACED = """
    select reading.id, run.id, run.block, contender.lane_no, reading.metric, reading.method,
        reading.value, reading.unit, reading.resolution, reading.lane_id, attempt.finished_at,
        attempt.capture_id, reading.set_aside
    from run
    join attempt on attempt.run_id = run.id and attempt.number = run.attempt_no
    join reading on reading.attempt_id = attempt.id
    join contender on contender.id = run.contender_id
    where run.study_id = %s and run.state = 'done' and (%s::text is null or reading.metric = %s)
    order by run.position, contender.lane_no, reading.metric, reading.step
"""

DONE = """
    from run
    join attempt on attempt.run_id = run.id and attempt.number = run.attempt_no
    join reading on reading.attempt_id = attempt.id
    join contender on contender.id = run.contender_id
    join lane on lane.id = reading.lane_id
    where run.study_id = %s and run.state = 'done'
"""
METRICS_READ = f"select distinct reading.metric {DONE}"
MET = f"""
    select distinct on (contender.lane_no) contender.lane_no, lane.conditions {DONE}
    order by contender.lane_no, run.position desc, reading.metric desc, reading.step desc
"""

INSERT = """
    insert into reading (id, attempt_id, lane_id, metric, method, step, value, unit, resolution,
        set_aside, set_aside_at)
    select * from unnest(%s::uuid[], %s::uuid[], %s::uuid[], %s::text[], %s::text[], %s::int[],
        %s::float8[], %s::text[], %s::float8[], %s::text[], %s::timestamptz[])
"""


class ReadingWriter:
    """Writes readings in batches, each into its lane."""

    def __init__(self, contender: UUID | None = None) -> None:
        self._lanes: dict[tuple[UUID, str, str, str], UUID] = {}
        self._rows: list[tuple[object, ...]] = []
        if contender is not None:  # one question instead of one for each reading
            for metric, method, name, lane in rows_of(KNOWN_LANES, contender):
                self._lanes[contender, metric, method, name] = lane

    def add(
        self, attempt: UUID, contender: UUID, conditions: Mapping[str, str], reading: NewReading
    ) -> None:
        """Take one reading; it is written with the next `flush`."""
        lane = self._lane(contender, conditions, reading)
        self._rows.append((
            uuid7(), attempt, lane, reading.metric, reading.method, reading.step, reading.value,
            reading.unit, reading.resolution, reading.set_aside,
            now() if reading.set_aside else None,
        ))  # fmt: skip

    def _lane(self, contender: UUID, conditions: Mapping[str, str], reading: NewReading) -> UUID:
        shared = of_the_lane(conditions)
        name = condition_hash(shared)
        key = (contender, reading.metric, reading.method, name)
        if key not in self._lanes:
            row, _ = LaneRow.get_or_create(
                contender=contender, metric=reading.metric, method=reading.method,
                condition_hash=name, defaults={"conditions": shared},
            )  # fmt: skip
            self._lanes[key] = row.id
        return self._lanes[key]

    def flush(self) -> None:
        """Write what was taken, in one statement for each batch."""
        for first in range(0, len(self._rows), BATCH):
            part = self._rows[first : first + BATCH]
            database.execute_sql(INSERT, [list(column) for column in zip(*part, strict=True)])
        self._rows = []


class PostgresReadingBook:
    """Keeps readings and captures."""

    def __init__(self, events: PostgresEventLog):
        self._events = events

    @connected
    def observations(self, study_id: UUID) -> list[Observation]:
        """All readings as findings need them."""
        lanes = {
            lane: (lane_no, machine, metric, method, conditions)
            for lane, lane_no, machine, metric, method, conditions in rows_of(LANES, study_id)
        }
        return [
            Observation(
                *lanes[lane][:4], value, lanes[lane][4], procedure, is_set_aside, resolution, block
            )
            for lane, value, procedure, is_set_aside, resolution, block in rows_of(
                OBSERVED, study_id
            )
        ]

    @connected
    def readings(self, study_id: UUID, metric: str | None = None) -> list[StoredReading]:
        """All readings with where they stand, in run order."""
        conditions = dict(rows_of(CONDITIONS, study_id))
        return [
            StoredReading(
                key, run, block, lane_no, of, method, value, unit, step, conditions[lane], at,
                capture, aside,
            )
            for key, run, block, lane_no, of, method, value, unit, step, lane, at, capture, aside
            in rows_of(PLACED, study_id, metric, metric)
        ]  # fmt: skip

    @connected
    def traces(self, study_id: UUID, metric: str) -> list[StoredTrace]:
        """The curves of each run's newest attempt, in run order."""
        query = (
            TraceRow.select(
                RunRow.id, ContenderRow.lane_no, RunRow.block, TraceRow.metric, TraceRow.unit,
                TraceRow.times_s, TraceRow.values,
            )
            .join(AttemptRow)
            .join(
                RunRow, on=(AttemptRow.run == RunRow.id) & (AttemptRow.number == RunRow.attempt_no)
            )
            .join(ContenderRow)
            .where(RunRow.study == study_id, TraceRow.metric == metric)
            .order_by(RunRow.position)
        )  # fmt: skip
        return [StoredTrace(*row) for row in query.tuples()]

    @connected
    def metrics_read(self, study_id: UUID) -> list[str]:
        """The metrics of which the study has a reading."""
        return [key for (key,) in rows_of(METRICS_READ, study_id)]

    @connected
    def met(self, study_id: UUID) -> dict[int, Mapping[str, str]]:
        """The conditions under which each lane's newest reading was taken."""
        return dict(rows_of(MET, study_id))

    @connected
    def traced(self, study_id: UUID) -> list[str]:
        """The metrics of which some run of the study has a curve."""
        query = (
            TraceRow.select(TraceRow.metric)
            .join(AttemptRow)
            .join(
                RunRow, on=(AttemptRow.run == RunRow.id) & (AttemptRow.number == RunRow.attempt_no)
            )
            .where(RunRow.study == study_id)
            .distinct()
            .order_by(TraceRow.metric)
        )
        return [metric for (metric,) in query.tuples()]

    @connected
    def set_aside(self, reading_id: UUID, reason: str | None) -> None:
        """Set a reading aside with its reason, or (None) take that back."""
        with database.atomic():
            found = (
                ReadingRow.select(ReadingRow.id, RunRow.id, RunRow.study)
                .join(AttemptRow)
                .join(RunRow)
                .where(ReadingRow.id == reading_id)
                .tuples()
                .first()
            )
            if found is None:
                raise NotFoundError("reading", reading_id)
            (
                ReadingRow.update(set_aside=reason, set_aside_at=now() if reason else None)
                .where(ReadingRow.id == reading_id)
                .execute()
            )
            kind = "reading.set_aside" if reason else "reading.taken_back"
            self._events.add(kind, found[2], found[1], reading=str(reading_id), reason=reason)

    @connected
    def take_in(
        self, study_id: UUID, capture: StoredCapture, attempts: Sequence[NewAttempt]
    ) -> bool:
        """Keep runs brought in from elsewhere; False where this capture is known already."""
        with database.atomic():
            # one intake of a study at a time, so that two do not find the same block free
            StudyRow.select(StudyRow.id).where(StudyRow.id == study_id).for_update().first()
            known = CaptureRow.get_or_none(CaptureRow.id == capture.id)
            if known is not None:
                if known.sha256 != capture.sha256:
                    raise CaptureConflictError(f"capture {capture.id} is known with other bytes")
                return False
            CaptureRow.create(
                id=capture.id, sha256=capture.sha256, kind=capture.kind, made_at=capture.made_at,
                body=capture.body,
            )  # fmt: skip
            _Intake(study_id, capture.id).keep(attempts)
            self._events.add("study.taken_in", study_id, runs=len(attempts))
        return True

    @connected
    def known_digests(self, capture_ids: Sequence[UUID]) -> dict[UUID, str]:
        """The sha256 of each of these captures that is known already."""
        if not capture_ids:
            return {}
        rows = CaptureRow.select(CaptureRow.id, CaptureRow.sha256)
        return dict(rows.where(CaptureRow.id.in_(list(capture_ids))).tuples())

    @connected
    def capture(self, capture_id: UUID) -> StoredCapture:
        """A capture as it was brought in."""
        row = CaptureRow.get_or_none(CaptureRow.id == capture_id)
        if row is None:
            raise NotFoundError("capture", capture_id)
        return StoredCapture(row.id, row.sha256, row.made_at, row.kind, bytes(row.body))

    @connected
    def capture_of_run(self, run_id: UUID) -> StoredCapture:
        """The capture of a run's newest attempt."""
        attempt = (
            AttemptRow.select()
            .where(AttemptRow.run == run_id, AttemptRow.capture.is_null(False))
            .order_by(AttemptRow.number.desc())
            .first()
        )
        if attempt is None:
            raise NotFoundError("evidence of run", run_id)
        return self.capture(attempt.capture_id)


class _Intake:
    """Finds or makes the run of each attempt brought in."""

    def __init__(self, study_id: UUID, capture_id: UUID):
        self._study, self._capture = study_id, capture_id
        self._writer = ReadingWriter()
        self._contenders = {
            row.lane_no: row.id
            for row in ContenderRow.select().where(ContenderRow.study == study_id)
        }
        self._known = {
            self._key(row): row for row in RunRow.select().where(RunRow.study == study_id)
        }
        self._position = max((row.position for row in self._known.values()), default=0)
        self._free: dict[tuple[UUID, str, str], int] = {}

    @staticmethod
    def _key(row: RunRow) -> tuple[int, UUID, str, str, int]:
        return (row.block, row.contender_id, row.procedure, row.condition_hash, row.repeat)

    def keep(self, attempts: Sequence[NewAttempt]) -> None:
        new_runs, changed, rows = [], [], []
        for item in attempts:
            run, is_new = self._run(item)
            (new_runs if is_new else changed).append(run)
            rows.append((run, self._attempt(run, item), item))
        RunRow.bulk_create(new_runs, batch_size=BATCH)
        if changed:
            RunRow.bulk_update(changed, ["state", "reason", "attempt_no"], batch_size=BATCH)
        AttemptRow.bulk_create([attempt for _, attempt, _ in rows], batch_size=BATCH)
        for run, attempt, item in rows:
            for reading in item.readings:
                conditions = reading.conditions or item.conditions
                self._writer.add(attempt.id, run.contender_id, checked(conditions), reading)
            for trace in item.traces:
                TraceRow.create(
                    attempt=attempt.id, metric=trace.metric, unit=trace.unit,
                    times_s=trace.times_s, values=trace.values,
                )  # fmt: skip
        self._writer.flush()
        blocks = max((run.block for run, _, _ in rows), default=0)
        StudyRow.update(blocks=blocks).where(
            StudyRow.id == self._study, StudyRow.blocks < blocks
        ).execute()

    def _run(self, item: NewAttempt) -> tuple[RunRow, bool]:
        kind = {k: v for k, v in item.conditions.items() if k in RUN_KEYS}
        contender, name = self._contenders[item.lane_no], condition_hash(kind)
        block = item.block or self._free_block(contender, item.procedure, name)
        fresh = RunRow(
            id=uuid7(), study=self._study, contender=contender,
            block=block, procedure=item.procedure, condition_hash=name,
            conditions=kind, repeat=item.repeat,
        )  # fmt: skip
        run = self._known.setdefault(self._key(fresh), fresh)
        is_new = run is fresh
        if is_new:
            self._position += 1
            run.position = self._position
        run.state = RunState.DONE if item.done else RunState.FAILED
        run.reason, run.attempt_no = item.reason, (run.attempt_no or 0) + 1
        return run, is_new

    def _free_block(self, contender: UUID, procedure: str, name: str) -> int:
        """The first block in which nothing of the kind is finished; all of one capture share it."""
        kind = (contender, procedure, name)
        if kind not in self._free:
            taken = {
                key[0]
                for key, row in self._known.items()
                if key[1:4] == kind and RunState(row.state).is_finished
            }
            self._free[kind] = next(b for b in range(1, len(taken) + 2) if b not in taken)
        return self._free[kind]

    def _attempt(self, run: RunRow, item: NewAttempt) -> AttemptRow:
        return AttemptRow(
            id=uuid7(), run=run.id, number=run.attempt_no, state=run.state, started_at=item.at,
            finished_at=item.at, reason=item.reason, conditions=checked(item.conditions),
            capture=self._capture,
        )  # fmt: skip
