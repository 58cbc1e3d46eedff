"""What each study answered when its findings were calculated last."""

SQL = """
CREATE TABLE study_answer (
    study_id UUID PRIMARY KEY REFERENCES study (id),
    event_id BIGINT NOT NULL,
    headline TEXT NOT NULL,
    about TEXT NOT NULL,
    verdict TEXT NOT NULL
);
CREATE INDEX event_study_id ON event (study, id);
DROP INDEX event_study;
"""


def up(migrator, db):
    """A table more, and the newest event of a study found at once."""
    db.execute_sql(SQL)
