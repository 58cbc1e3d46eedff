"""Conditions that differ in a study and are accepted, for a reason."""

SQL = """
CREATE TABLE override (
    id UUID NOT NULL PRIMARY KEY,
    study_id UUID NOT NULL,
    key TEXT NOT NULL,
    reason TEXT NOT NULL,
    FOREIGN KEY (study_id) REFERENCES study (id)
);
CREATE UNIQUE INDEX override_study_id_key ON override (study_id, key);
"""


def up(migrator, db):
    """Studies from before overrule nothing."""
    db.execute_sql(SQL)
