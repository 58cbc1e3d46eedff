"""Studies that are not started yet, notes and tags; what makes a guest of system and machine."""

SQL = """
ALTER TABLE study
    ADD COLUMN draft JSONB,
    ADD COLUMN run_order TEXT NOT NULL DEFAULT 'blocks' CHECK (run_order IN ('blocks', 'visits')),
    ADD COLUMN note TEXT NOT NULL DEFAULT '',
    ADD COLUMN tags JSONB NOT NULL DEFAULT '[]';
ALTER TABLE system ADD COLUMN recipe JSONB NOT NULL DEFAULT '{}';
ALTER TABLE machine ADD COLUMN profile JSONB;
"""


def up(migrator, db):
    """Columns more; what is there stays."""
    db.execute_sql(SQL)
