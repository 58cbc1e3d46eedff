"""The event log."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from uuid import UUID

from peewee import fn
from psycopg.types.json import Jsonb

from haremile.store.database import connected
from haremile.store.rows import AuditRow, EventRow, database
from haremile.usecases.access import acting
from haremile.usecases.ports import Event

ORDER_LOCK = 0x4841_4556
PROGRESS = "run.phase"
"""Told while a run goes on: not worth waiting for the disk, for a run that is lost with the server
is done again."""

ADD = """
    with held as (select pg_advisory_xact_lock(%s))
    insert into event (at, kind, study, run, facts)
    select clock_timestamp(), %s, %s, %s, %s from held
"""
"""One statement: the lock is taken before the id is drawn, and held until the commit, so that no
later id is seen before an earlier one."""

ADD_PROGRESS = ADD.replace("(%s)", "(%s), set_config('synchronous_commit', 'off', true)", 1)


def _event(row: EventRow) -> Event:
    return Event(row.id, row.at, row.kind, row.study, row.run, row.facts)


def note_act(what: str, study_id: UUID | None, facts: Mapping[str, object]) -> None:
    """One line of the audit trail, in the transaction that is open; none for what goes on by
    itself."""
    who = acting.get()
    if who is not None:
        AuditRow.create(who=who.name, way=who.way, what=what, study=study_id, facts=dict(facts))


class PostgresEventLog:
    """Append-only events; ids become visible in order."""

    @connected
    def add(
        self, kind: str, study_id: UUID | None, run_id: UUID | None = None, **facts: object
    ) -> None:
        """Append an event."""
        query = ADD_PROGRESS if kind == PROGRESS else ADD
        if kind != PROGRESS:
            note_act(kind, study_id, {**facts, **({"run": str(run_id)} if run_id else {})})
        database.execute_sql(query, (ORDER_LOCK, kind, study_id, run_id, Jsonb(facts)))

    @connected
    def after(self, event_id: int, study_id: UUID | None = None, most: int = 500) -> list[Event]:
        """Events with a greater id, in order."""
        query = EventRow.select().where(EventRow.id > event_id)
        if study_id is not None:
            query = query.where(EventRow.study == study_id)
        return [_event(row) for row in query.order_by(EventRow.id).limit(most)]

    @connected
    def of_kind(self, kind: str, study_id: UUID) -> list[Event]:
        """All events of a kind in a study, in order."""
        query = EventRow.select().where(EventRow.study == study_id, EventRow.kind == kind)
        return [_event(row) for row in query.order_by(EventRow.id)]

    @connected
    def newest(self, kinds: Sequence[str]) -> dict[UUID, Event]:
        """The newest event of these kinds in each study."""
        ids = (
            EventRow.select(fn.MAX(EventRow.id))
            .where(EventRow.kind.in_(list(kinds)), EventRow.study.is_null(False))
            .group_by(EventRow.study)
        )
        rows = EventRow.select().where(EventRow.id.in_(ids))
        return {row.study: _event(row) for row in rows if row.study is not None}

    @connected
    def last_instant(self) -> datetime | None:
        """When the newest event was kept, None for none; no two have the same."""
        newest: EventRow | None = EventRow.select().order_by(EventRow.id.desc()).first()
        at: datetime | None = newest.at if newest is not None else None
        return at

    @connected
    def last_id(self) -> int:
        """Id of the newest event, 0 for none."""
        return EventRow.select(fn.MAX(EventRow.id)).scalar() or 0
