"""What a tester added to an install since installing it."""

SQL = "ALTER TABLE install ADD COLUMN added TEXT NOT NULL DEFAULT ''"


def up(migrator, db):
    """A column more; nothing is stated yet."""
    db.execute_sql(SQL)
