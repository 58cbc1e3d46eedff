"""Reports: what is written, and what was published of it."""

SQL = """
CREATE TABLE report (
    study_id UUID PRIMARY KEY REFERENCES study (id),
    words JSONB NOT NULL,
    at TIMESTAMPTZ NOT NULL DEFAULT now()
);
CREATE TABLE report_version (
    id UUID PRIMARY KEY,
    study_id UUID NOT NULL REFERENCES study (id),
    version INTEGER NOT NULL,
    sha256 TEXT NOT NULL,
    at TIMESTAMPTZ NOT NULL DEFAULT now(),
    figures JSONB NOT NULL,
    texts JSONB NOT NULL,
    changes JSONB NOT NULL,
    page BYTEA NOT NULL,
    csv BYTEA NOT NULL,
    UNIQUE (study_id, version)
);
"""


def up(migrator, db):
    """Two tables more."""
    db.execute_sql(SQL)
