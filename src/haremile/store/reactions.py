"""Drills of persons who time by hand."""

from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from haremile.core.by_hand.reaction import Reaction
from haremile.errors import NotFoundError
from haremile.store.database import connected
from haremile.store.rows import ReactionRow
from haremile.usecases.ports import Drill


class PostgresReactions:
    """Keeps every drill; the newest of a person is offered."""

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
