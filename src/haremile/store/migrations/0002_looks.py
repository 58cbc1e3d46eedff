"""When a study's verdicts are read: its planned looks, and the extensions made later."""

SQL = """
ALTER TABLE study ADD COLUMN looks JSONB NOT NULL DEFAULT '[]';
ALTER TABLE study ADD COLUMN extensions JSONB NOT NULL DEFAULT '[]';
"""


def up(migrator, db):
    """Studies from before have one look, when their plan is done."""
    db.execute_sql(SQL)
