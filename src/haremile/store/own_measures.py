"""Measures that testers define, by key."""

from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd
from haremile.core.records.own_measure import OwnMeasure
from haremile.errors import ConflictError, NotFoundError
from haremile.store.database import connected
from haremile.store.events import note_act
from haremile.store.rows import OwnMeasureRow, database, now

MOST_MEASURES = 200


class PostgresOwnMeasures:
    """Keeps definitions; what is put away can be brought back, its readings always stay."""

    @connected
    def all(self) -> list[OwnMeasure]:
        """Those that are not put away, by name."""
        rows = OwnMeasureRow.select().where(OwnMeasureRow.put_away_at.is_null())
        return [_measure(row) for row in rows.order_by(OwnMeasureRow.name)]

    @connected
    def keep(self, made: OwnMeasure) -> None:
        """Keep one under its key; what is there under it is replaced. Raises ConflictError if there
        are too many."""
        given = {
            "name": made.name,
            "unit": made.unit,
            "good_end": made.good_end,
            "resolution": made.resolution,
            "share": made.margin.share,
            "amount": made.margin.amount,
            "says": made.says,
            "at": now(),
            "put_away_at": None,
        }
        with database.atomic():
            known = OwnMeasureRow.get_or_none(OwnMeasureRow.key == made.key)
            if known is not None:
                OwnMeasureRow.update(given).where(OwnMeasureRow.id == known.id).execute()
            elif OwnMeasureRow.select().count() >= MOST_MEASURES:
                raise ConflictError(f"{MOST_MEASURES} measures are defined; no more are kept")
            else:
                OwnMeasureRow.create(key=made.key, **given)
            note_act("measure.kept", None, {"name": made.name, "key": made.key})

    @connected
    def put_away(self, key: str, is_away: bool) -> None:
        """Out of the list, or back. Raises NotFoundError."""
        with database.atomic():
            away = now() if is_away else None
            changed = OwnMeasureRow.update(put_away_at=away).where(OwnMeasureRow.key == key)
            if not changed.execute():
                raise NotFoundError("measure of your own", key)
            note_act("measure.put_away" if is_away else "measure.back", None, {"key": key})


def _measure(row: OwnMeasureRow) -> OwnMeasure:
    margin = Margin(row.share, row.amount)
    end = GoodEnd(row.good_end)
    return OwnMeasure(row.name, row.unit, end, row.resolution, margin, row.says)
