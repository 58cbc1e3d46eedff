"""Readings and their evidence."""

import json
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import count
from typing import Any
from uuid import UUID

from uuid_utils.compat import uuid7

from haremile.core.by_hand.reaction import error_of, half_width
from haremile.core.comparison.records import Observation
from haremile.core.records.conditions import checked, condition_hash, of_the_lane
from haremile.core.records.study import RunState
from haremile.errors import NotFoundError
from haremile.store.captures import keep_capture
from haremile.store.database import connected, copy_rows, rows_of
from haremile.store.events import PostgresEventLog
from haremile.store.rows import (
    AttemptRow,
    CaptureRow,
    ContenderRow,
    LaneRow,
    ReadingRow,
    StudyRow,
    TraceRow,
    database,
    now,
)
from haremile.usecases.ports import (
    NewAttempt,
    NewReading,
    StoredCapture,
    StoredReading,
    StoredTrace,
)

BATCH = 5000
"""Rows that are written at once."""

_RunKey = tuple[int, UUID, str, str, int]
"""Block, contender, procedure, hash of its conditions, repeat."""

RUN_KEYS = ("start", "app")
"""Conditions that a run is planned under: launches of another application are other runs."""
KNOWN_LANES = "select metric, method, condition_hash, id from lane where contender_id = %s"
LANES = """
    select lane.id, contender.lane_no, machine.name as machine, lane.metric, lane.method,
        lane.conditions
    from lane
    join contender on contender.id = lane.contender_id
    join install on install.id = contender.install_id
    join machine on machine.id = install.machine_id
    where contender.study_id = %s
"""
OBSERVED = """
    select reading.lane_id, reading.value, run.procedure, reading.resolution,
        reading.set_aside is not null as is_set_aside, run.block,
        reading.value_before is not null as is_corrected,
        attempt.conditions->>'reaction' as reaction
    from run
    join attempt on attempt.run_id = run.id and attempt.number = run.attempt_no
    join reading on reading.attempt_id = attempt.id
    join contender on contender.id = run.contender_id
    where run.study_id = %s and run.state = 'done'
    order by run.position, contender.lane_no, reading.metric, reading.step
"""
"""A reading's metric and method are those of its lane: told once for all of it."""

PLACED = """
    select reading.id, run.id as run_id, run.block, contender.lane_no, reading.metric,
        reading.method, reading.value, reading.unit, reading.resolution, reading.lane_id,
        attempt.finished_at, attempt.capture_id, reading.set_aside, reading.step,
        reading.value_before, attempt.conditions->>'reaction' as reaction
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
OBSERVED_CONDITIONS = f"""
    select distinct on (contender.lane_no) contender.lane_no, lane.conditions {DONE}
    order by contender.lane_no, run.position desc, reading.metric desc, reading.step desc
"""

READING_COLUMNS = (
    "id",
    "attempt_id",
    "lane_id",
    "metric",
    "method",
    "step",
    "value",
    "unit",
    "resolution",
    "set_aside",
    "set_aside_at",
)
RUN_COLUMNS = (
    "id",
    "study_id",
    "contender_id",
    "block",
    "position",
    "procedure",
    "condition_hash",
    "conditions",
    "repeat",
    "state",
    "reason",
    "attempt_no",
)
ATTEMPT_COLUMNS = (
    "id",
    "run_id",
    "number",
    "state",
    "started_at",
    "finished_at",
    "reason",
    "conditions",
    "capture_id",
)
KNOWN_RUNS = """
    select block, contender_id, procedure, condition_hash, repeat, id, state, attempt_no, position
    from run where study_id = %s
"""
CHANGE_RUNS = """
    update run set state = changed.state, reason = changed.reason, attempt_no = changed.attempt_no
    from unnest(%s::uuid[], %s::text[], %s::text[], %s::int[])
        as changed (id, state, reason, attempt_no)
    where run.id = changed.id
"""

INSERT = f"""
    insert into reading ({", ".join(READING_COLUMNS)})
    select * from unnest(%s::uuid[], %s::uuid[], %s::uuid[], %s::text[], %s::text[], %s::int[],
        %s::float8[], %s::text[], %s::float8[], %s::text[], %s::timestamptz[])
"""


TRACES = """
    select run.id as run_id, contender.lane_no, run.block, trace.metric, trace.unit, trace.times_s,
        trace.values
    from trace
    join attempt on attempt.id = trace.attempt_id
    join run on run.id = attempt.run_id and run.attempt_no = attempt.number
    join contender on contender.id = run.contender_id
    where run.study_id = %s and trace.metric = %s
    order by run.position
"""
TRACED = """
    select distinct trace.metric from trace
    join attempt on attempt.id = trace.attempt_id
    join run on run.id = attempt.run_id and run.attempt_no = attempt.number
    where run.study_id = %s order by trace.metric
"""
HELD = """
    select distinct attempt.capture_id from attempt
    join run on run.id = attempt.run_id
    where run.study_id = %s and attempt.capture_id = any(%s::uuid[])
"""
HOLDING = """
    select study.title from study where exists (
        select from capture
        join attempt on attempt.capture_id = capture.id
        join run on run.id = attempt.run_id
        where run.study_id = study.id and capture.sha256 = %s
    ) and study.put_away_at is null order by study.created_at desc
"""
WHOSE = """
    select run.id, run.study_id, reading.set_aside from reading
    join attempt on attempt.id = reading.attempt_id
    join run on run.id = attempt.run_id
    where reading.id = %s
"""


@lru_cache(maxsize=4096)
def _lane_conditions(stated: tuple[tuple[str, str], ...]) -> tuple[str, dict[str, str]]:
    """The conditions of a lane and their short name; many readings share them."""
    shared = of_the_lane(dict(stated))
    return condition_hash(shared), shared


@lru_cache(maxsize=4096)
def _kept_conditions(stated: tuple[tuple[str, str], ...]) -> tuple[dict[str, str], str]:
    """Conditions as they are kept, and the same as JSON."""
    kept = checked(dict(stated))
    return kept, json.dumps(kept)


class ReadingWriter:
    """Writes readings in batches, each into its lane."""

    def __init__(self, contender: UUID | None = None) -> None:
        self._lanes: dict[tuple[UUID, str, str, str], UUID] = {}
        self._rows: list[tuple[object, ...]] = []
        if contender is not None:  # one question instead of one for each reading
            for row in rows_of(KNOWN_LANES, contender):
                self._lanes[contender, row.metric, row.method, row.condition_hash] = row.id

    def add(
        self, attempt: UUID, contender: UUID, conditions: Mapping[str, str], reading: NewReading
    ) -> None:
        """Take one reading; it is written with the next `flush`."""
        lane = self._lane(contender, conditions, reading)
        self._rows.append(
            (
                uuid7(),
                attempt,
                lane,
                reading.metric,
                reading.method,
                reading.step,
                reading.value,
                reading.unit,
                reading.resolution,
                reading.set_aside,
                now() if reading.set_aside else None,
            )
        )

    def _lane(self, contender: UUID, conditions: Mapping[str, str], reading: NewReading) -> UUID:
        name, shared = _lane_conditions(tuple(conditions.items()))
        key = (contender, reading.metric, reading.method, name)
        if key not in self._lanes:
            row = LaneRow.kept(
                contender=contender,
                metric=reading.metric,
                method=reading.method,
                condition_hash=name,
                defaults={"conditions": dict(shared)},
            )
            self._lanes[key] = row.id
        return self._lanes[key]

    def flush(self) -> None:
        """Write what was taken, in one statement for each batch."""
        if len(self._rows) > BATCH:
            copy_rows("reading", READING_COLUMNS, self._rows)
        elif self._rows:
            database.execute_sql(INSERT, [list(column) for column in zip(*self._rows, strict=True)])
        self._rows = []


class PostgresReadingRepository:
    """Keeps readings and captures."""

    def __init__(self, events: PostgresEventLog):
        self._events = events

    @connected
    def observations(self, study_id: UUID) -> list[Observation]:
        """All readings as findings need them."""
        lanes = {row.id: row for row in rows_of(LANES, study_id)}
        return [_observation(lanes[row.lane_id], row) for row in rows_of(OBSERVED, study_id)]

    @connected
    def readings(self, study_id: UUID, metric: str | None = None) -> list[StoredReading]:
        """All readings with where they stand, in run order."""
        lanes = {row.id: row for row in rows_of(LANES, study_id)}
        return [
            StoredReading(
                id=row.id,
                run_id=row.run_id,
                block=row.block,
                lane_no=row.lane_no,
                metric=row.metric,
                method=row.method,
                value=row.value,
                unit=row.unit,
                resolution=row.resolution,
                conditions=lanes[row.lane_id].conditions,
                at=row.finished_at,
                capture_id=row.capture_id,
                set_aside=row.set_aside,
                step=row.step,
                value_before=row.value_before,
                machine=lanes[row.lane_id].machine,
                half_width=half_width(row.method, row.resolution, row.reaction),
            )
            for row in rows_of(PLACED, study_id, metric, metric)
        ]

    @connected
    def traces(self, study_id: UUID, metric: str) -> list[StoredTrace]:
        """The curves of each run's newest attempt, in run order."""
        return [
            StoredTrace(
                run_id=row.run_id,
                lane_no=row.lane_no,
                block=row.block,
                metric=row.metric,
                unit=row.unit,
                times_s=row.times_s,
                values=row.values,
            )
            for row in rows_of(TRACES, study_id, metric)
        ]

    @connected
    def metrics_read(self, study_id: UUID) -> list[str]:
        """The metrics of which the study has a reading."""
        return [row.metric for row in rows_of(METRICS_READ, study_id)]

    @connected
    def observed_conditions(self, study_id: UUID) -> dict[int, Mapping[str, str]]:
        """The conditions under which each lane's newest reading was taken."""
        return {row.lane_no: row.conditions for row in rows_of(OBSERVED_CONDITIONS, study_id)}

    @connected
    def traced(self, study_id: UUID) -> list[str]:
        """The metrics of which some run of the study has a curve."""
        return [row.metric for row in rows_of(TRACED, study_id)]

    @connected
    def set_aside(self, reading_id: UUID, reason: str | None) -> None:
        """Set a reading aside with its reason, or (None) take that back."""
        with database.atomic():
            found = rows_of(WHOSE, reading_id)
            if not found:
                raise NotFoundError("reading", reading_id)
            (
                ReadingRow.update(set_aside=reason, set_aside_at=now() if reason else None)
                .where(ReadingRow.id == reading_id)
                .execute()
            )
            kind = "reading.set_aside" if reason else "reading.taken_back"
            (run,) = found
            self._events.add(
                kind,
                run.study_id,
                run.id,
                reading=str(reading_id),
                reason=reason,
                was=run.set_aside,
            )

    @connected
    def take_in(
        self,
        study_id: UUID,
        capture: StoredCapture,
        attempts: Sequence[NewAttempt],
        progress: Callable[[int], None] = lambda runs: None,
    ) -> bool:
        """Keep runs brought in from elsewhere; False where the study has this capture already."""
        with database.atomic():
            # one intake of a study at a time, so that two do not find the same block free
            StudyRow.select(StudyRow.id).where(StudyRow.id == study_id).for_update().first()
            keep_capture(capture.id, capture.body, capture.kind, capture.made_at)
            if self.held(study_id, [capture.id]):
                return False
            _Intake(study_id, capture.id).keep(attempts, progress)
            self._events.add("study.taken_in", study_id, runs=len(attempts))
        return True

    @connected
    def known_digests(self, capture_ids: Sequence[UUID]) -> dict[UUID, str]:
        """The sha256 of each of these captures that is known already."""
        if not capture_ids:
            return {}
        rows = CaptureRow.select(CaptureRow.id, CaptureRow.sha256)
        return {row.id: row.sha256 for row in rows.where(CaptureRow.id.in_(list(capture_ids)))}

    @connected
    def held(self, study_id: UUID, capture_ids: Sequence[UUID]) -> set[UUID]:
        """Those of these captures that a run of the study rests on."""
        return {row.capture_id for row in rows_of(HELD, study_id, list(capture_ids))}

    @connected
    def studies_with(self, sha256: str) -> list[str]:
        """Titles of the studies that hold a file with these bytes, the newest first."""
        return [row.title for row in rows_of(HOLDING, sha256)]

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


def _observation(lane: Any, row: Any) -> Observation:
    return Observation(
        lane_no=lane.lane_no,
        machine=lane.machine,
        metric=lane.metric,
        method=lane.method,
        value=row.value,
        conditions=lane.conditions,
        procedure=row.procedure,
        is_set_aside=row.is_set_aside,
        resolution=row.resolution,
        block=row.block,
        is_corrected=row.is_corrected,
        absolute_error=error_of(row.reaction) if lane.method == "hand" else 0.0,
    )


@dataclass(slots=True)
class _KnownRun:
    """A run of the study as it stands while files are taken in."""

    id: UUID
    state: str
    attempt_no: int


class _FreeBlocks:
    """The blocks that are not taken, in order; found as far as they are asked for."""

    def __init__(self, taken: Iterable[int]):
        out = frozenset(taken)
        self._rest = (block for block in count(1) if block not in out)
        self._found: list[int] = []

    def number(self, which: int) -> int:
        """The first, second, … of them."""
        while len(self._found) < which:
            self._found.append(next(self._rest))
        return self._found[which - 1]


class _Intake:
    """Finds or makes the run of each attempt brought in; written in batches."""

    def __init__(self, study_id: UUID, capture_id: UUID):
        self._study, self._capture = study_id, capture_id
        self._writer = ReadingWriter()
        self._contenders = {
            row.lane_no: row.id
            for row in ContenderRow.select().where(ContenderRow.study == study_id)
        }
        self._known: dict[_RunKey, _KnownRun] = {}
        self._position = 0
        for row in rows_of(KNOWN_RUNS, study_id):
            key = (row.block, row.contender_id, row.procedure, row.condition_hash, row.repeat)
            self._known[key] = _KnownRun(row.id, row.state, row.attempt_no)
            self._position = max(self._position, row.position)
        self._free: dict[tuple[UUID, str, str], _FreeBlocks] = {}
        self._new: list[tuple[object, ...]] = []
        self._changed: list[tuple[object, ...]] = []
        self._attempts: list[tuple[object, ...]] = []

    def keep(self, attempts: Sequence[NewAttempt], progress: Callable[[int], None]) -> None:
        blocks = 0
        for done, item in enumerate(attempts, start=1):
            blocks = max(blocks, self._take(item))
            if done % BATCH == 0:
                self._flush()
                progress(done)
        self._flush()
        StudyRow.update(blocks=blocks).where(
            StudyRow.id == self._study, StudyRow.blocks < blocks
        ).execute()

    def _take(self, item: NewAttempt) -> int:
        """Take one attempt with its readings; return its run's block."""
        conditions, written = _kept_conditions(tuple(item.conditions.items()))
        contender = self._contenders[item.lane_no]
        run, block = self._run(item, contender)
        attempt = uuid7()
        self._attempts.append(
            (
                attempt,
                run.id,
                run.attempt_no,
                run.state,
                item.at,
                item.at,
                item.reason,
                written,
                self._capture,
            )
        )
        for reading in item.readings:
            own = (
                conditions
                if reading.conditions is None
                else _kept_conditions(tuple(reading.conditions.items()))[0]
            )
            self._writer.add(attempt, contender, own, reading)
        if item.traces:
            self._flush()  # the attempt that they belong to
        for trace in item.traces:
            TraceRow.create(
                attempt=attempt,
                metric=trace.metric,
                unit=trace.unit,
                times_s=trace.times_s,
                values=trace.values,
            )
        return block

    def _flush(self) -> None:
        if self._new:
            copy_rows("run", RUN_COLUMNS, self._new)
        if self._changed:
            columns = [list(column) for column in zip(*self._changed, strict=True)]
            database.execute_sql(CHANGE_RUNS, columns)
        if self._attempts:
            copy_rows("attempt", ATTEMPT_COLUMNS, self._attempts)
        self._writer.flush()
        self._new, self._changed, self._attempts = [], [], []

    def _run(self, item: NewAttempt, contender: UUID) -> tuple[_KnownRun, int]:
        kind = tuple((k, v) for k, v in item.conditions.items() if k in RUN_KEYS)
        (name, _), (_, written) = _lane_conditions(kind), _kept_conditions(kind)
        block = item.block or 1
        if item.block is None or item.counts_free:
            block = self._free_block(contender, item.procedure, name, block)
        key = (block, contender, item.procedure, name, item.repeat)
        state = item.state.value
        run = self._known.get(key)
        if run is None:
            self._position += 1
            run = self._known[key] = _KnownRun(uuid7(), state, 1)
            self._new.append(
                (
                    run.id,
                    self._study,
                    contender,
                    block,
                    self._position,
                    item.procedure,
                    name,
                    written,
                    item.repeat,
                    state,
                    item.reason,
                    1,
                )
            )
        else:
            run.state, run.attempt_no = state, run.attempt_no + 1
            self._flush()  # it may be one of this very batch
            self._changed.append((run.id, state, item.reason, run.attempt_no))
        return run, block

    def _free_block(self, contender: UUID, procedure: str, name: str, which: int) -> int:
        """The first (second, …) block in which nothing of the kind was finished before this intake:
        all of one capture share it."""
        kind = (contender, procedure, name)
        if kind not in self._free:
            self._free[kind] = _FreeBlocks(
                key[0]
                for key, run in self._known.items()
                if key[1:4] == kind and RunState(run.state).is_finished
            )
        return self._free[kind].number(which)
