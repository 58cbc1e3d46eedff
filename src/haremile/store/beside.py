"""What stands beside measurements and never enters them: quoted figures, photographs of a run."""

from typing import Any
from uuid import UUID

from haremile.errors import ConflictError, NotFoundError
from haremile.formats.photographs import MOST_PHOTOGRAPHS
from haremile.store.database import connected
from haremile.store.events import PostgresEventLog, note_act
from haremile.store.rows import (
    PhotographRow,
    QuotedRow,
    RunRow,
    StudyRow,
    database,
    missing,
)
from haremile.usecases.ports import Photograph, Quoted

MOST_QUOTED = 200


class PostgresBeside:
    """Keeps quoted figures and photographs; both can be withdrawn and brought back."""

    def __init__(self, events: PostgresEventLog):
        self._events = events

    @connected
    def quote(self, figure: Quoted) -> None:
        """Keep a figure under its id; the same id again is the same figure."""
        with database.atomic():
            if not StudyRow.select().where(StudyRow.id == figure.study_id).exists():
                raise missing("study", figure.study_id)
            if QuotedRow.select().where(QuotedRow.id == figure.id).exists():
                return
            kept = QuotedRow.select().where(QuotedRow.study == figure.study_id).count()
            if kept >= MOST_QUOTED:
                raise ConflictError(f"{kept} figures are quoted in this study; no more are kept")
            facts = {key: value for key, value in vars(figure).items() if key != "study_id"}
            QuotedRow.insert(study=figure.study_id, **facts).execute()
            self._told("figure.quoted", figure)

    @connected
    def withdraw_quoted(self, key: UUID, is_withdrawn: bool) -> None:
        """Take a quoted figure out, or bring it back."""
        with database.atomic():
            row = QuotedRow.get_or_none(QuotedRow.id == key)
            if row is None:
                raise NotFoundError("quoted figure", key)
            if row.is_withdrawn != is_withdrawn:
                QuotedRow.update(is_withdrawn=is_withdrawn).where(QuotedRow.id == key).execute()
                kind = "figure.withdrawn" if is_withdrawn else "figure.brought_back"
                self._told(kind, _quoted(row))

    @connected
    def quoted(self, study_id: UUID) -> list[Quoted]:
        """Figures that are quoted in a study, the oldest first."""
        found = (
            QuotedRow.select()
            .where(QuotedRow.study == study_id, ~QuotedRow.is_withdrawn)
            .order_by(QuotedRow.at, QuotedRow.id)
        )
        return [_quoted(row) for row in found]

    def _told(self, kind: str, figure: Quoted) -> None:
        self._events.add(
            kind,
            figure.study_id,
            figure=str(figure.id),
            metric=figure.metric,
            low=figure.low,
            high=figure.high,
            unit=figure.unit,
            source=figure.source,
            dated=figure.dated,
        )

    @connected
    def photograph(self, key: UUID, run_id: UUID, name: str, image: str) -> None:
        """Keep a photograph beside a run under its id; the same id again is the same one."""
        with database.atomic():
            run = RunRow.get_or_none(RunRow.id == run_id)
            if run is None:
                raise missing("run", run_id)
            if PhotographRow.select().where(PhotographRow.id == key).exists():
                return
            kept = _shown(run_id).count()
            if kept >= MOST_PHOTOGRAPHS:
                raise ConflictError(f"this run has {kept} photographs; take one out first")
            PhotographRow.insert(id=key, run=run_id, name=name, image=image).execute()
            note_act("photograph.kept", run.study_id, {"run": str(run_id), "name": name})

    @connected
    def photographs(self, run_id: UUID) -> list[Photograph]:
        """Photographs beside a run, the oldest first."""
        found = _shown(run_id).order_by(PhotographRow.at, PhotographRow.id)
        return [Photograph(row.id, row.run_id, row.name, row.image, row.at) for row in found]

    @connected
    def withdraw_photograph(self, key: UUID, is_withdrawn: bool) -> None:
        """Take a photograph out, or bring it back."""
        with database.atomic():
            row = PhotographRow.get_or_none(PhotographRow.id == key)
            if row is None:
                raise NotFoundError("photograph", key)
            if row.is_withdrawn != is_withdrawn:
                PhotographRow.update(is_withdrawn=is_withdrawn).where(
                    PhotographRow.id == key
                ).execute()
                kind = "photograph.withdrawn" if is_withdrawn else "photograph.brought_back"
                note_act(kind, row.run.study_id, {"run": str(row.run_id), "name": row.name})


def _shown(run_id: UUID) -> Any:
    return PhotographRow.select().where(PhotographRow.run == run_id, ~PhotographRow.is_withdrawn)


def _quoted(row: Any) -> Quoted:
    return Quoted(
        id=row.id,
        study_id=row.study_id,
        lane_no=row.lane_no,
        row_key=row.row_key,
        metric=row.metric,
        low=row.low,
        high=row.high,
        unit=row.unit,
        source=row.source,
        dated=row.dated,
        at=row.at,
    )
