"""Incidents, and the hours in use over which they are counted."""

SQL = """
CREATE TABLE incident (
    id UUID PRIMARY KEY,
    system_id UUID NOT NULL REFERENCES system (id),
    machine_id UUID REFERENCES machine (id),
    kind TEXT NOT NULL,
    what TEXT NOT NULL DEFAULT '',
    at TIMESTAMPTZ NOT NULL,
    noted_at TIMESTAMPTZ NOT NULL DEFAULT now(),
    put_away_at TIMESTAMPTZ
);
CREATE TABLE hours_in_use (
    id UUID PRIMARY KEY,
    system_id UUID NOT NULL REFERENCES system (id),
    machine_id UUID REFERENCES machine (id),
    hours DOUBLE PRECISION NOT NULL,
    at TIMESTAMPTZ NOT NULL DEFAULT now(),
    put_away_at TIMESTAMPTZ
);
"""


def up(migrator, db):
    """Two tables more."""
    db.execute_sql(SQL)
