"""What the columns of a tester's own tables mean, as it was said last."""

from collections.abc import Sequence

from haremile.formats.column_map import ColumnMap, header_key
from haremile.store.database import connected
from haremile.store.rows import ColumnMapRow, now


class PostgresColumnMaps:
    """Keeps one map for each header."""

    @connected
    def known(self, header: Sequence[str]) -> ColumnMap | None:
        """What was said of this very header last; None where nothing was."""
        row = ColumnMapRow.get_or_none(ColumnMapRow.header_key == header_key(header))
        return None if row is None else ColumnMap.of(row.meaning)

    @connected
    def keep(self, header: Sequence[str], found: ColumnMap) -> None:
        """Remember what the columns of this header mean."""
        fields = {"header": list(header), "meaning": found.as_document(), "at": now()}
        (
            ColumnMapRow.insert(header_key=header_key(header), **fields)
            .on_conflict(conflict_target=[ColumnMapRow.header_key], update=fields)
            .execute()
        )
