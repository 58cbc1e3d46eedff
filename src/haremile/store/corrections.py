"""What a person changes of what is kept: names, readings, whole files; what they delete."""

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

from haremile.core.records.bounds import checked_value
from haremile.core.records.metrics import BY_HAND, check_possible, metric
from haremile.core.records.study import RunState, StudyState
from haremile.core.records.units import in_unit
from haremile.errors import BadInputError, ConflictError, NotFoundError, UnitError
from haremile.formats.captures import READINGS
from haremile.store.database import connected, rows_of
from haremile.store.events import PostgresEventLog
from haremile.store.rows import AttemptRow, ReadingRow, StudyRow, database, missing, now
from haremile.usecases.ports import BroughtFile, EvidenceSizes

READ = """
    select reading.metric, reading.method, reading.value, reading.unit, reading.value_before,
        lane.conditions, capture.kind, run.id as run_id, run.study_id
    from reading
    join lane on lane.id = reading.lane_id
    join attempt on attempt.id = reading.attempt_id
    join run on run.id = attempt.run_id
    left join capture on capture.id = attempt.capture_id
    where reading.id = %s
    for update of reading
"""
BROUGHT = """
    select capture.id, capture.kind, capture.sha256, length(capture.body) as size,
        min(attempt.id::text) as first_attempt, count(distinct run.id) as runs,
        count(reading.id) as readings, min(attempt.put_away_at) as put_away_at
    from run
    join attempt on attempt.run_id = run.id and attempt.number = run.attempt_no
    join capture on capture.id = attempt.capture_id
    left join reading on reading.attempt_id = attempt.id
    where run.study_id = %s and attempt.conductor is null
    group by capture.id order by first_attempt desc, capture.id
"""
PUT_AWAY = """
    with gone as (
        update attempt set put_away_at = now() from run
        where run.id = attempt.run_id and run.attempt_no = attempt.number and run.study_id = %s
            and attempt.capture_id = %s and attempt.put_away_at is null
            and run.state = any(%s)
        returning run.id
    )
    update run set state = 'void', reason = %s from gone where run.id = gone.id returning run.id
"""
BRING_BACK = """
    with back as (
        update attempt set put_away_at = null from run
        where run.id = attempt.run_id and run.attempt_no = attempt.number and run.study_id = %s
            and attempt.capture_id = %s and attempt.put_away_at is not null
            and run.state = 'void'
        returning run.id, attempt.state, attempt.reason
    )
    update run set state = back.state, reason = back.reason from back where run.id = back.id
    returning run.id
"""
FILE_AWAY = "the file that it came with was put away"

OF_STUDY = "select id from run where study_id = %s"
CAPTURES_OF = """
    select distinct attempt.capture_id as id from attempt
    join run on run.id = attempt.run_id
    where run.study_id = %s and attempt.capture_id is not null
"""
BURY = "insert into tombstone (id, kind, at) select unnest(%s::uuid[]), %s, now()"
TREE = (
    "delete from reading using attempt, run where reading.attempt_id = attempt.id"
    " and attempt.run_id = run.id and run.study_id = %s",
    "delete from trace using attempt, run where trace.attempt_id = attempt.id"
    " and attempt.run_id = run.id and run.study_id = %s",
    "delete from attempt using run where attempt.run_id = run.id and run.study_id = %s",
    "delete from photograph using run where photograph.run_id = run.id and run.study_id = %s",
    "delete from quoted where study_id = %s",
    "delete from job using run where job.run_id = run.id and run.study_id = %s",
    "delete from run where study_id = %s",
    "delete from lane using contender where lane.contender_id = contender.id"
    " and contender.study_id = %s",
    "delete from contender where study_id = %s",
    "delete from margin where study_id = %s",
    "delete from override where study_id = %s",
    "delete from study_origin where study_id = %s",
    "delete from report where study_id = %s",
    "delete from report_version where study_id = %s",
    "delete from study_answer where study_id = %s",
    "delete from study where id = %s",
)
"""Everything of a study, what rests on something before what it rests on."""

UNHELD = """
    delete from capture where id = any(%s)
        and not exists (select from attempt where attempt.capture_id = capture.id)
    returning id
"""
SPARE = """
    select capture.id, length(capture.body) as size from capture
    where not exists (
        select from attempt join reading on reading.attempt_id = attempt.id
        where attempt.capture_id = capture.id
    )
    order by capture.made_at nulls first, capture.id
"""
ALL = "select count(*) as number, coalesce(sum(length(body)), 0) as size from capture"


class PostgresCorrections:
    """Changes what is kept; every change is told with what was there before."""

    def __init__(self, events: PostgresEventLog):
        self._events = events

    @connected
    def rename_study(self, study_id: UUID, title: str) -> None:
        """Give a study another title."""
        with database.atomic():
            row = _study(study_id)
            if row.title != title:
                StudyRow.update(title=title).where(StudyRow.id == study_id).execute()
                self._events.add("study.renamed", study_id, title=title, was=row.title)

    @connected
    def annotate(self, study_id: UUID, note: str | None, tags: Sequence[str] | None) -> None:
        """Another note, other tags; what is None stays."""
        with database.atomic():
            row = _study(study_id)
            new_note = row.note if note is None else note
            new_tags = row.tags if tags is None else list(dict.fromkeys(tags))
            if (new_note, new_tags) == (row.note, row.tags):
                return
            was = {"note": row.note, "tags": ", ".join(row.tags)}
            changed = {"note": new_note, "tags": ", ".join(new_tags)}
            StudyRow.update(note=new_note, tags=new_tags).where(StudyRow.id == study_id).execute()
            facts: dict[str, object] = {"was": was, "is": changed}
            self._events.add("study.annotated", study_id, None, **facts)

    @connected
    def put_study_away(self, study_id: UUID, is_away: bool) -> None:
        """Out of every list, or back."""
        with database.atomic():
            row = _study(study_id)
            if is_away and row.state == StudyState.RUNNING:
                raise ConflictError("this study runs: pause it, then put it away")
            if is_away == (row.put_away_at is not None):
                return
            at = now() if is_away else None
            StudyRow.update(put_away_at=at).where(StudyRow.id == study_id).execute()
            kind = "study.put_away" if is_away else "study.brought_back"
            self._events.add(kind, study_id, title=row.title)

    @connected
    def delete_study(self, study_id: UUID, title: str) -> int:
        """Delete a study for good that was put away; return how many readings went."""
        with database.atomic():
            row = _study(study_id)
            if row.put_away_at is None:
                raise ConflictError("put the study away first; what is put away can be deleted")
            if row.title != title:
                raise BadInputError(f"this study is not called {title}")
            captures = [one.id for one in rows_of(CAPTURES_OF, study_id)]
            runs = [one.id for one in rows_of(OF_STUDY, study_id)]
            readings = 0
            for place, query in enumerate(TREE):
                gone = database.execute_sql(query, (study_id,)).rowcount
                readings = gone if place == 0 else readings
            unheld = [one.id for one in rows_of(UNHELD, captures)]
            for kind, keys in (("study", [study_id]), ("run", runs), ("capture", unheld)):
                database.execute_sql(BURY, (keys, kind))
            self._events.add(
                "study.deleted", study_id, title=title, readings=readings, captures=len(unheld)
            )
        return readings

    @connected
    def correct_reading(self, reading_id: UUID, value: float, unit: str, reason: str) -> None:
        """Another value of a reading that a person or a file stated."""
        with database.atomic():
            row = _reading(reading_id)
            if row.kind != READINGS and row.method not in BY_HAND:
                raise ConflictError(
                    "a machine read this value, and its evidence says so: it can be set aside, "
                    "not corrected"
                )
            known = metric(row.metric)
            try:
                meant = in_unit(value, unit, known.unit)
            except UnitError as error:
                raise UnitError(f"{unit} does not measure {known.label}: {error}") from None
            checked_value(meant, may_be_negative=row.metric.startswith("own."))
            check_possible(known, meant, row.conditions)
            before = row.value if row.value_before is None else row.value_before
            self._write(row, reading_id, meant, before, "reading.corrected", reason)

    @connected
    def take_correction_back(self, reading_id: UUID) -> None:
        """The value that was brought in stands again."""
        with database.atomic():
            row = _reading(reading_id)
            if row.value_before is None:
                raise ConflictError("this reading was not corrected")
            self._write(row, reading_id, row.value_before, None, "reading.uncorrected", None)

    def _write(
        self, row: Any, reading_id: UUID, value: float, before: float | None, kind: str, why: Any
    ) -> None:
        ReadingRow.update(value=value, value_before=before).where(
            ReadingRow.id == reading_id
        ).execute()
        self._events.add(
            kind,
            row.study_id,
            row.run_id,
            reading=str(reading_id),
            metric=row.metric,
            unit=row.unit,
            value=value,
            was=row.value,
            reason=why,
        )

    @connected
    def brought(self, study_id: UUID) -> list[BroughtFile]:
        """What was brought into a study, the newest first."""
        return [
            BroughtFile(
                id=row.id,
                kind=row.kind,
                brought_at=_made_at(UUID(row.first_attempt)),
                sha256=row.sha256,
                size=row.size,
                runs=row.runs,
                readings=row.readings,
                put_away_at=row.put_away_at,
            )
            for row in rows_of(BROUGHT, study_id)
        ]

    @connected
    def put_file_away(self, study_id: UUID, capture_id: UUID, is_away: bool) -> int:
        """All runs that a file gave count no more, or again; return how many."""
        with database.atomic():
            _study(study_id)
            if is_away:
                ended = [RunState.DONE, RunState.FAILED]
                changed = rows_of(PUT_AWAY, study_id, capture_id, ended, FILE_AWAY)
            else:
                changed = rows_of(BRING_BACK, study_id, capture_id)
            if not changed:
                return 0
            kind = "file.put_away" if is_away else "file.brought_back"
            self._events.add(kind, study_id, capture=str(capture_id), runs=len(changed))
        return len(changed)

    @connected
    def evidence_sizes(self) -> EvidenceSizes:
        """How much evidence is kept."""
        (everything,) = rows_of(ALL)
        spare = rows_of(SPARE)
        return EvidenceSizes(
            int(everything.size), everything.number, sum(one.size for one in spare), len(spare)
        )

    @connected
    def trim_evidence(self, most_bytes: float) -> EvidenceSizes:
        """Delete the oldest evidence on which no reading rests until all fits."""
        with database.atomic():
            over = self.evidence_sizes().all_bytes - most_bytes
            going: list[UUID] = []
            for one in rows_of(SPARE):
                if over <= 0:
                    break
                going.append(one.id)
                over -= one.size
            if going:
                AttemptRow.update(capture=None).where(AttemptRow.capture.in_(going)).execute()
                rows_of(UNHELD, going)
                database.execute_sql(BURY, (going, "capture"))
                self._events.add("evidence.trimmed", None, captures=len(going))
        return self.evidence_sizes()


def _made_at(key: UUID) -> datetime:
    """When a key was made: version 7 begins with the milliseconds since the epoch (RFC 9562)."""
    return datetime.fromtimestamp((key.int >> 80) / 1000.0, UTC)


def _study(study_id: UUID) -> StudyRow:
    row: StudyRow | None = StudyRow.select().where(StudyRow.id == study_id).for_update().first()
    if row is None:
        raise missing("study", study_id)
    return row


def _reading(reading_id: UUID) -> Any:
    found = rows_of(READ, reading_id)
    if not found:
        raise NotFoundError("reading", reading_id)
    return found[0]
