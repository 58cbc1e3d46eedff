"""Which bench book this is, where studies came from, and commands that wait to be approved."""

SQL = """
CREATE TABLE bench_book (
    id UUID PRIMARY KEY,
    made_at TIMESTAMPTZ NOT NULL DEFAULT now()
);
INSERT INTO bench_book (id) VALUES (gen_random_uuid());
CREATE TABLE study_origin (
    study_id UUID PRIMARY KEY REFERENCES study (id),
    bench UUID NOT NULL,
    name TEXT NOT NULL,
    at TIMESTAMPTZ NOT NULL DEFAULT now()
);
ALTER TABLE install ADD COLUMN offered JSONB;
"""


def up(migrator, db):
    """Two tables and a column more."""
    db.execute_sql(SQL)
