"""Figures quoted from elsewhere, and photographs beside a run."""

SQL = """
CREATE TABLE quoted (
    id UUID PRIMARY KEY,
    study_id UUID NOT NULL REFERENCES study (id),
    lane_no INTEGER NOT NULL,
    row_key TEXT NOT NULL,
    metric TEXT NOT NULL,
    low DOUBLE PRECISION NOT NULL,
    high DOUBLE PRECISION NOT NULL,
    unit TEXT NOT NULL,
    source TEXT NOT NULL,
    dated TEXT NOT NULL,
    at TIMESTAMPTZ NOT NULL DEFAULT now(),
    is_withdrawn BOOLEAN NOT NULL DEFAULT false
);
CREATE INDEX quoted_of_study ON quoted (study_id);
CREATE TABLE photograph (
    id UUID PRIMARY KEY,
    run_id UUID NOT NULL REFERENCES run (id),
    name TEXT NOT NULL,
    image TEXT NOT NULL,
    at TIMESTAMPTZ NOT NULL DEFAULT now(),
    is_withdrawn BOOLEAN NOT NULL DEFAULT false
);
CREATE INDEX photograph_of_run ON photograph (run_id);
"""


def up(migrator, db):
    """Two tables more."""
    db.execute_sql(SQL)
