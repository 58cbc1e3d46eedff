"""What the columns of a tester's own tables mean, by the header."""

SQL = """
CREATE TABLE column_map (
    header_key TEXT PRIMARY KEY,
    header JSONB NOT NULL,
    meaning JSONB NOT NULL,
    at TIMESTAMPTZ NOT NULL
);
"""


def up(migrator, db):
    """A table more."""
    db.execute_sql(SQL)
