"""Bands of a metric: light, middle, heavy, or the tester's own."""

SQL = """
CREATE TABLE bands (
    metric TEXT PRIMARY KEY,
    names JSONB NOT NULL,
    limits JSONB NOT NULL,
    at TIMESTAMPTZ NOT NULL DEFAULT now()
);
"""


def up(migrator, db):
    """A table more."""
    db.execute_sql(SQL)
