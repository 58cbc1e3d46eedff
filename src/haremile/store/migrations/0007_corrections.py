"""What was corrected, put away and deleted for good can be told."""

SQL = """
ALTER TABLE reading ADD COLUMN value_before DOUBLE PRECISION;
ALTER TABLE attempt ADD COLUMN put_away_at TIMESTAMPTZ;
CREATE TABLE tombstone (
    id UUID PRIMARY KEY,
    kind TEXT NOT NULL CHECK (kind IN ('study', 'run', 'capture')),
    at TIMESTAMPTZ NOT NULL
);
"""


def up(migrator, db):
    """Nothing that is there changes."""
    db.execute_sql(SQL)
