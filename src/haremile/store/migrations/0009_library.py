"""Facts with their sources, claims of makers, and names that things had before."""

SQL = """
CREATE TABLE fact (
    id UUID PRIMARY KEY,
    noun TEXT NOT NULL CHECK (noun IN ('system', 'machine')),
    thing UUID NOT NULL,
    key TEXT NOT NULL,
    value TEXT,
    source TEXT NOT NULL,
    source_on DATE,
    at TIMESTAMPTZ NOT NULL,
    who TEXT
);
CREATE INDEX fact_thing ON fact (thing, key, at);
CREATE TABLE claim (
    id UUID PRIMARY KEY,
    system_id UUID NOT NULL REFERENCES system (id),
    key TEXT NOT NULL,
    amount DOUBLE PRECISION NOT NULL,
    is_own_guess BOOLEAN NOT NULL,
    source TEXT NOT NULL,
    source_on DATE,
    at TIMESTAMPTZ NOT NULL,
    put_away_at TIMESTAMPTZ
);
CREATE INDEX claim_system ON claim (system_id);
CREATE TABLE alias (
    id UUID PRIMARY KEY,
    noun TEXT NOT NULL CHECK (noun IN ('system', 'machine')),
    name TEXT NOT NULL,
    thing UUID NOT NULL,
    UNIQUE (noun, name)
);
"""


def up(migrator, db):
    """Tables more; what is there stays."""
    db.execute_sql(SQL)
