"""Sets of weights for totals, with their stored reference."""

SQL = """
CREATE TABLE weight_set (
    id UUID PRIMARY KEY,
    name TEXT NOT NULL UNIQUE,
    use TEXT NOT NULL DEFAULT '',
    weights JSONB NOT NULL,
    reference TEXT NOT NULL,
    figures JSONB NOT NULL,
    ends JSONB,
    at TIMESTAMPTZ NOT NULL DEFAULT now(),
    put_away_at TIMESTAMPTZ
);
"""


def up(migrator, db):
    """A table more."""
    db.execute_sql(SQL)
