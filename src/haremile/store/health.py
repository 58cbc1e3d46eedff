"""How the bench is, in figures."""

from haremile.core.records.study import RunState
from haremile.store.database import connected, rows_of
from haremile.usecases.ports import BenchFigures

FIGURES = """
    select pg_database_size(current_database()) as size,
        (select count(*) from run join study on study.id = run.study_id
            where run.state = 'planned' and study.state = 'running') as queued,
        (select extract(epoch from now() - min(made_at)) from job where stage = 'asked') as waiting,
        (select max(id) from event) as event
"""
STATES = "select state, count(*) as runs from run group by state"


class PostgresHealth:
    """Counts what stands in the database."""

    @connected
    def is_up(self) -> bool:
        """Whether the database answers. Raises StoreUnavailableError where it does not."""
        return bool(rows_of("select 1 as one"))

    @connected
    def figures(self) -> BenchFigures:
        """All of them. Raises StoreUnavailableError."""
        found = rows_of(FIGURES)[0]
        counts = {row.state: row.runs for row in rows_of(STATES)}
        return BenchFigures(
            {state: counts.get(state, 0) for state in RunState},
            found.queued,
            float(found.waiting) if found.waiting is not None else None,
            found.size,
            found.event or 0,
        )
