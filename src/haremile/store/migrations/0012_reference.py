"""Installs to which studies are linked by taking part in each of them."""

SQL = "ALTER TABLE install ADD COLUMN is_reference BOOLEAN NOT NULL DEFAULT false"


def up(migrator, db):
    """A column more; nothing is a reference yet."""
    db.execute_sql(SQL)
