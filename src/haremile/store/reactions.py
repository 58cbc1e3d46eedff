"""Drills of persons who time by hand."""

from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from haremile.core.by_hand.reaction import NO_DRILL, Reaction
from haremile.errors import NotFoundError
from haremile.store.database import connected, rows_of
from haremile.store.events import PostgresEventLog
from haremile.store.rows import AttemptRow, ReactionRow, ReadingRow, database
from haremile.usecases.ports import Drill, HandTimed, Retimed

WITHOUT = """
    select attempt.id, run.id as run_id, run.study_id, capture.body,
        array_agg(reading.metric) as metrics, array_agg(reading.id) as readings
    from attempt
    join run on run.id = attempt.run_id and run.attempt_no = attempt.number and run.state = 'done'
    join capture on capture.id = attempt.capture_id
    join reading on reading.attempt_id = attempt.id
        and reading.method = 'hand' and reading.value_before is null
    where attempt.conditions->>'person' = %s and attempt.conditions->>'reaction' = %s
        and attempt.finished_at >= %s
    group by attempt.id, run.id, run.study_id, capture.body
    order by attempt.id
"""


class PostgresReactions:
    """Keeps every drill; the newest of a person is offered."""

    def __init__(self, events: PostgresEventLog):
        self._events = events

    @connected
    def without_drill(self, person: str, since: datetime) -> list[HandTimed]:
        """What a person timed since an instant from which nothing was taken off."""
        return [
            HandTimed(
                row.id,
                row.run_id,
                row.study_id,
                bytes(row.body),
                dict(zip(row.metrics, row.readings, strict=True)),
            )
            for row in rows_of(WITHOUT, person, NO_DRILL, since)
        ]

    @connected
    def retime(self, timed: HandTimed, stated: str, readings: Sequence[Retimed]) -> None:
        """Write readings anew; what stood there is told in the audit trail."""
        with database.atomic():
            attempt = AttemptRow.select().where(AttemptRow.id == timed.attempt_id).for_update()
            conditions = attempt.get().conditions
            if conditions.get("reaction") != NO_DRILL:
                return
            for one in readings:
                row = ReadingRow.get(ReadingRow.id == one.reading_id)
                ReadingRow.update(value=one.value_s, resolution=one.resolution_s).where(
                    ReadingRow.id == one.reading_id
                ).execute()
                self._events.add(
                    "reading.retimed",
                    timed.study_id,
                    timed.run_id,
                    reading=str(one.reading_id),
                    metric=one.metric,
                    unit="s",
                    value=one.value_s,
                    was=row.value,
                    reason=stated,
                )
            AttemptRow.update(conditions={**conditions, "reaction": stated}).where(
                AttemptRow.id == timed.attempt_id
            ).execute()

    @connected
    def keep(self, key: UUID, person: str, answers_s: Sequence[float], found: Reaction) -> Drill:
        """Keep a drill under its id; the same id again is the same drill."""
        ReactionRow.insert(
            id=key, person=person, answers_s=list(answers_s), **vars(found)
        ).on_conflict_ignore().execute()
        return self.get(key)

    @connected
    def get(self, key: UUID) -> Drill:
        """Raises NotFoundError."""
        row = ReactionRow.get_or_none(ReactionRow.id == key)
        if row is None:
            raise NotFoundError("drill", key)
        return _drill(row)

    @connected
    def newest(self, person: str, since: datetime) -> Drill | None:
        """The newest of a person since an instant; None where there is none."""
        found = (
            ReactionRow.select()
            .where(ReactionRow.person == person, ReactionRow.at >= since)
            .order_by(ReactionRow.at.desc())
            .first()
        )
        return None if found is None else _drill(found)


def _drill(row: ReactionRow) -> Drill:
    reaction = Reaction(row.delay_s, row.scatter_s, row.error_s, row.signals, row.left_out)
    return Drill(row.id, row.person, row.at, reaction)
