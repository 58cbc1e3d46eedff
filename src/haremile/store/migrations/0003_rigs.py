"""Who has a run in hand, studies that stop on precision, and machines that are enrolled."""

SQL = """
ALTER TABLE attempt ADD COLUMN conductor BIGINT;
ALTER TABLE attempt ADD COLUMN beat_at TIMESTAMPTZ;
ALTER TABLE study ADD COLUMN stopping JSONB;
ALTER TABLE install ADD COLUMN identity UUID;
CREATE UNIQUE INDEX install_identity ON install (identity);
CREATE TABLE machine_key (
    id UUID NOT NULL PRIMARY KEY,
    machine_id UUID NOT NULL,
    digest TEXT NOT NULL,
    made_at TIMESTAMPTZ NOT NULL,
    revoked_at TIMESTAMPTZ,
    FOREIGN KEY (machine_id) REFERENCES machine (id)
);
CREATE INDEX machine_key_machine_id ON machine_key (machine_id);
CREATE UNIQUE INDEX machine_key_digest ON machine_key (digest);
CREATE TABLE machine_sign (
    machine_id UUID NOT NULL PRIMARY KEY,
    install_id UUID,
    seen_at TIMESTAMPTZ NOT NULL,
    boot_id TEXT NOT NULL,
    is_leaving BOOLEAN NOT NULL,
    FOREIGN KEY (machine_id) REFERENCES machine (id),
    FOREIGN KEY (install_id) REFERENCES install (id)
);
CREATE INDEX machine_sign_install_id ON machine_sign (install_id);
CREATE TABLE errand (
    id UUID NOT NULL PRIMARY KEY,
    machine_id UUID NOT NULL,
    install_id UUID NOT NULL,
    run_id UUID NOT NULL,
    attempt_no INTEGER NOT NULL,
    procedure TEXT NOT NULL,
    conditions JSONB NOT NULL,
    stage TEXT NOT NULL,
    stamps JSONB NOT NULL,
    made_at TIMESTAMPTZ NOT NULL,
    body BYTEA,
    FOREIGN KEY (machine_id) REFERENCES machine (id),
    FOREIGN KEY (install_id) REFERENCES install (id),
    FOREIGN KEY (run_id) REFERENCES run (id)
);
CREATE INDEX errand_machine_id ON errand (machine_id);
CREATE INDEX errand_install_id ON errand (install_id);
CREATE INDEX errand_run_id ON errand (run_id);
CREATE UNIQUE INDEX errand_run_id_attempt_no ON errand (run_id, attempt_no);
CREATE INDEX errand_open ON errand (run_id) WHERE stage <> 'over';
CREATE INDEX run_under_way ON run (contender_id) WHERE state IN ('leased', 'running');
CREATE INDEX run_planned ON run (contender_id, position) WHERE state = 'planned';
"""


def up(migrator, db):
    """Attempts from before have no conductor, which counts as one that is gone."""
    db.execute_sql(SQL)
