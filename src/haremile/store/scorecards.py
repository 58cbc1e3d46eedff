"""Scorecards in their versions, and what works; nothing that was said is lost."""

from collections.abc import Mapping
from dataclasses import asdict
from typing import Any
from uuid import UUID

from haremile.core.standing.scorecard import (
    Criterion,
    Point,
    Scorecard,
    ScoreKind,
    ScoreScale,
    StepWord,
    Tie,
    TieKind,
)
from haremile.core.standing.works import Works, WorksItem, works_text
from haremile.errors import ConflictError, NotFoundError
from haremile.store.database import connected, rows_of
from haremile.store.events import note_act
from haremile.store.incidents import check_placed
from haremile.store.rows import ScorecardRow, SystemRow, WorksRow, database, now
from haremile.usecases.ports import KeptScorecard, PlacedPhotograph, PlacedReading

MOST_VERSIONS, MOST_ITEMS = 500, 50_000

PHOTOGRAPHS = """
    select photograph.id, photograph.name, run.study_id, photograph.at
    from photograph
    join run on run.id = photograph.run_id
    join contender on contender.id = run.contender_id
    join install on install.id = contender.install_id
    where install.system_id = %s and not photograph.is_withdrawn
    order by photograph.at desc, photograph.id
    limit 200
"""

MIDDLE_READINGS = """
    select id, metric, value, study_id from (
        select reading.id, reading.metric, reading.value, run.study_id,
            row_number() over (group_of order by reading.value, reading.id) as place,
            count(*) over (group_of) as readings
        from reading
        join attempt on attempt.id = reading.attempt_id
        join run on run.id = attempt.run_id
        join contender on contender.id = run.contender_id
        join install on install.id = contender.install_id
        where install.system_id = %s and run.state = 'done' and reading.set_aside is null
            and reading.step = 0
        window group_of as (partition by run.study_id, reading.metric, reading.method)
    ) own
    where place = (readings + 1) / 2
    order by study_id desc, metric, id
    limit 300
"""
"""Of each study, measure and method the reading in the middle."""


class PostgresScorecards:
    """Keeps what a tester says of systems."""

    @connected
    def newest(self) -> list[KeptScorecard]:
        """The newest version of every system's card."""
        rows = (
            ScorecardRow.select()
            .distinct(ScorecardRow.system)
            .order_by(ScorecardRow.system, ScorecardRow.version.desc())
        )
        return [_kept(row) for row in rows]

    @connected
    def versions(self, system: UUID) -> list[KeptScorecard]:
        """All versions of a system's card, the newest first."""
        rows = ScorecardRow.select().where(ScorecardRow.system == system)
        return [_kept(row) for row in rows.order_by(ScorecardRow.version.desc())]

    @connected
    def keep(self, system: UUID, card: Scorecard, after: int) -> int:
        """Keep another version, the one after `after` (0 for the first); return its number. The
        same as the newest makes none. Raises NotFoundError; ConflictError if there is a newer."""
        with database.atomic():
            name = _name(system)
            newest = (
                ScorecardRow.select()
                .where(ScorecardRow.system == system)
                .order_by(ScorecardRow.version.desc())
                .first()
            )
            there = newest.version if newest else 0
            if newest is not None and _card(newest.body) == card:
                return int(there)
            if there != after:
                raise ConflictError(
                    f"the card was changed meanwhile (version {there}); look at it, then save again"
                )
            if there >= MOST_VERSIONS:
                raise ConflictError(f"there are {MOST_VERSIONS} versions; no more are kept")
            ScorecardRow.create(system=system, version=there + 1, body=asdict(card))
            note_act("scorecard.kept", None, {"system": name, "version": there + 1})
        return int(there) + 1

    @connected
    def works(self, system: UUID | None = None) -> list[WorksItem]:
        """What was seen, of one system or all, in order of time."""
        query = WorksRow.select().where(WorksRow.put_away_at.is_null())
        if system is not None:
            query = query.where(WorksRow.system == system)
        return [_item(row) for row in query.order_by(WorksRow.at, WorksRow.id)]

    @connected
    def note_works(self, item: WorksItem) -> None:
        """Keep what was seen under its id; the same again changes nothing. Raises NotFoundError,
        ConflictError if there is too much."""
        with database.atomic():
            check_placed(item.system, item.machine)
            if WorksRow.select().count() >= MOST_ITEMS:
                raise ConflictError(f"{MOST_ITEMS} lines are noted; no more are kept")
            given = {**asdict(item), "at": item.at or now()}
            made = WorksRow.insert(given).on_conflict_ignore().execute()
            if made:
                facts = {"system": _name(item.system), "subject": item.subject}
                note_act("works.noted", None, {**facts, "says": works_text(item)})

    @connected
    def put_works_away(self, key: UUID, is_away: bool) -> None:
        """A line out of the list, or back: the word before it holds again. Raises NotFoundError."""
        with database.atomic():
            away = now() if is_away else None
            if not WorksRow.update(put_away_at=away).where(WorksRow.id == key).execute():
                raise NotFoundError("line", key)
            note_act("works.put_away" if is_away else "works.back", None, {"noted": str(key)})

    @connected
    def photographs_of(self, system: UUID) -> list[PlacedPhotograph]:
        """Photographs beside runs of a system, the newest first."""
        return [
            PlacedPhotograph(row.id, row.name, row.study_id) for row in rows_of(PHOTOGRAPHS, system)
        ]

    @connected
    def middle_readings(self, system: UUID) -> list[PlacedReading]:
        """The reading in the middle of each study, measure and method of a system."""
        return [
            PlacedReading(row.id, row.metric, row.value, row.study_id)
            for row in rows_of(MIDDLE_READINGS, system)
        ]


def _name(system: UUID) -> str:
    row = SystemRow.get_or_none(SystemRow.id == system)
    if row is None:
        raise NotFoundError("system", system)
    return str(row.name)


def _kept(row: ScorecardRow) -> KeptScorecard:
    return KeptScorecard(row.system_id, row.version, row.at, _card(row.body))


def _card(body: Mapping[str, Any]) -> Scorecard:
    scale = body["scale"]
    return Scorecard(
        ScoreScale(ScoreKind(scale["kind"]), tuple(StepWord(**one) for one in scale["words"])),
        tuple(Criterion(**one) for one in body["criteria"]),
        tuple(Point(one["is_good"], one["says"], _tie(one["tie"])) for one in body["points"]),
        body["for_whom"],
        body["not_for_whom"],
    )


def _tie(body: Mapping[str, Any] | None) -> Tie | None:
    return None if body is None else Tie(TieKind(body["kind"]), body["key"], body["study"])


def _item(row: WorksRow) -> WorksItem:
    return WorksItem(
        row.id,
        row.system_id,
        row.machine_id,
        row.subject,
        Works(row.works),
        row.step,
        row.worked,
        row.tried,
        row.note,
        row.at,
    )
