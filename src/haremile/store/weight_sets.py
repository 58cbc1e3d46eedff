"""Sets of weights, by name."""

from uuid import UUID

from haremile.core.standing.total import Ends
from haremile.errors import ConflictError, NotFoundError
from haremile.store.database import connected
from haremile.store.events import note_act
from haremile.store.rows import WeightSetRow, database, now
from haremile.usecases.ports import WeightSet

MOST_SETS = 100


class PostgresWeightSets:
    """Keeps sets of weights; what is put away can be brought back."""

    @connected
    def all(self) -> list[WeightSet]:
        """Those that are not put away, by name."""
        rows = WeightSetRow.select().where(WeightSetRow.put_away_at.is_null())
        return [_set(row) for row in rows.order_by(WeightSetRow.name)]

    @connected
    def keep(self, made: WeightSet) -> UUID:
        """Keep a set under its name; one of that name is replaced, and told. Raises
        ConflictError if there are too many."""
        given = {
            "use": made.use,
            "weights": dict(made.weights),
            "reference": made.reference,
            "figures": dict(made.figures),
            "ends": None if made.ends is None else [made.ends.nothing, made.ends.all],
            "at": now(),
            "put_away_at": None,
        }
        with database.atomic():
            known = WeightSetRow.get_or_none(WeightSetRow.name == made.name)
            if known is None and WeightSetRow.select().count() >= MOST_SETS:
                raise ConflictError(f"there are {MOST_SETS} sets of weights; no more are kept")
            was = None if known is None else dict(known.weights)
            if known is None:
                known = WeightSetRow.create(name=made.name, **given)
            else:
                WeightSetRow.update(given).where(WeightSetRow.id == known.id).execute()
            note_act("weights.kept", None, {"name": made.name, "was": was, "is": given["weights"]})
        key: UUID = known.id
        return key

    @connected
    def put_away(self, key: UUID, is_away: bool) -> None:
        """Out of the list, or back. Raises NotFoundError."""
        with database.atomic():
            row = WeightSetRow.get_or_none(WeightSetRow.id == key)
            if row is None:
                raise NotFoundError("set of weights", key)
            WeightSetRow.update(put_away_at=now() if is_away else None).where(
                WeightSetRow.id == key
            ).execute()
            note_act("weights.put_away" if is_away else "weights.back", None, {"name": row.name})


def _set(row: WeightSetRow) -> WeightSet:
    ends = None if row.ends is None else Ends(*row.ends)
    return WeightSet(row.name, row.use, row.weights, row.reference, row.figures, ends, row.id)
