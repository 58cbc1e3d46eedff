"""Names as the rest of the code has them: jobs, interim looks, phases of a run."""

SQL = """
ALTER TABLE errand RENAME TO job;
ALTER INDEX errand_machine_id RENAME TO job_machine_id;
ALTER INDEX errand_install_id RENAME TO job_install_id;
ALTER INDEX errand_run_id RENAME TO job_run_id;
ALTER INDEX errand_run_id_attempt_no RENAME TO job_run_id_attempt_no;
ALTER INDEX errand_open RENAME TO job_open;
ALTER TABLE study RENAME COLUMN looks TO interim_looks;
ALTER TABLE event DISABLE TRIGGER event_append_only;
UPDATE event SET kind = 'run.phase',
    facts = facts - 'mark' || jsonb_build_object('phase', facts->'mark')
    WHERE kind = 'run.mark';
UPDATE event SET kind = 'study.overridden' WHERE kind = 'study.overruled';
ALTER TABLE event ENABLE TRIGGER event_append_only;
UPDATE system SET name = 'Osterfell Server', edition = 'Server' WHERE name = 'Osterfell Laden';
UPDATE install SET recipe = jsonb_set(recipe, '{image}', '"osterfell-server"')
    WHERE recipe->>'image' = 'osterfell-laden';
"""


def up(migrator, db):
    """Nothing is lost: the same rows under other names."""
    db.execute_sql(SQL)
