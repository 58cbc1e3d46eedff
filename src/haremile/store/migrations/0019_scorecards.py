"""Scorecards in their versions, and what works on a system."""

SQL = """
CREATE TABLE scorecard (
    id UUID PRIMARY KEY,
    system_id UUID NOT NULL REFERENCES system (id),
    version INTEGER NOT NULL,
    body JSONB NOT NULL,
    at TIMESTAMPTZ NOT NULL DEFAULT now(),
    UNIQUE (system_id, version)
);
CREATE TABLE works_item (
    id UUID PRIMARY KEY,
    system_id UUID NOT NULL REFERENCES system (id),
    machine_id UUID REFERENCES machine (id),
    subject TEXT NOT NULL,
    works TEXT NOT NULL,
    step TEXT NOT NULL DEFAULT '',
    worked INTEGER,
    tried INTEGER,
    note TEXT NOT NULL DEFAULT '',
    at TIMESTAMPTZ NOT NULL DEFAULT now(),
    put_away_at TIMESTAMPTZ
);
CREATE INDEX works_item_system ON works_item (system_id);
"""


def up(migrator, db):
    """Two tables more."""
    db.execute_sql(SQL)
