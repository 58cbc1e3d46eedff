"""Measures that testers define."""

SQL = """
CREATE TABLE own_measure (
    id UUID PRIMARY KEY,
    key TEXT NOT NULL UNIQUE,
    name TEXT NOT NULL,
    unit TEXT NOT NULL,
    good_end TEXT NOT NULL CHECK (good_end in ('low', 'high', 'none')),
    resolution DOUBLE PRECISION,
    share DOUBLE PRECISION,
    amount DOUBLE PRECISION,
    says TEXT NOT NULL DEFAULT '',
    at TIMESTAMPTZ NOT NULL DEFAULT now(),
    put_away_at TIMESTAMPTZ
);
"""


def up(migrator, db):
    """A table more."""
    db.execute_sql(SQL)
