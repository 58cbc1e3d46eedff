"""Drills: how late a person presses after a signal."""

SQL = """
CREATE TABLE reaction (
    id UUID PRIMARY KEY,
    person TEXT NOT NULL,
    at TIMESTAMPTZ NOT NULL DEFAULT now(),
    answers_s JSONB NOT NULL,
    delay_s DOUBLE PRECISION NOT NULL,
    scatter_s DOUBLE PRECISION NOT NULL,
    error_s DOUBLE PRECISION NOT NULL,
    signals INTEGER NOT NULL,
    left_out INTEGER NOT NULL
);
CREATE INDEX reaction_of_person ON reaction (person, at);
"""


def up(migrator, db):
    """A table more."""
    db.execute_sql(SQL)
