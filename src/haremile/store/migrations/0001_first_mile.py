"""The entities of the first mile. A frozen copy of the tables, independent of the rows."""

# ruff: noqa: E501  (one index a line reads better than folded ones)

SQL = """
CREATE TABLE distribution (
    id UUID NOT NULL PRIMARY KEY,
    name TEXT NOT NULL
);
CREATE UNIQUE INDEX distribution_name ON distribution (name);
CREATE TABLE system (
    id UUID NOT NULL PRIMARY KEY,
    name TEXT NOT NULL,
    distribution_id UUID,
    release TEXT,
    edition TEXT,
    architecture TEXT,
    facts JSONB NOT NULL,
    put_away_at TIMESTAMPTZ,
    FOREIGN KEY (distribution_id) REFERENCES distribution (id)
);
CREATE UNIQUE INDEX system_name ON system (name);
CREATE INDEX system_distribution_id ON system (distribution_id);
CREATE TABLE host (
    id UUID NOT NULL PRIMARY KEY,
    name TEXT NOT NULL,
    capacity INTEGER NOT NULL
);
CREATE UNIQUE INDEX host_name ON host (name);
CREATE TABLE machine (
    id UUID NOT NULL PRIMARY KEY,
    name TEXT NOT NULL,
    host_id UUID NOT NULL,
    kind TEXT NOT NULL CHECK (kind in ('physical', 'virtual', 'simulated')),
    facts JSONB NOT NULL,
    put_away_at TIMESTAMPTZ,
    FOREIGN KEY (host_id) REFERENCES host (id)
);
CREATE UNIQUE INDEX machine_name ON machine (name);
CREATE INDEX machine_host_id ON machine (host_id);
CREATE TABLE install (
    id UUID NOT NULL PRIMARY KEY,
    system_id UUID NOT NULL,
    machine_id UUID NOT NULL,
    name TEXT NOT NULL,
    rig TEXT,
    recipe JSONB NOT NULL,
    put_away_at TIMESTAMPTZ,
    FOREIGN KEY (system_id) REFERENCES system (id),
    FOREIGN KEY (machine_id) REFERENCES machine (id)
);
CREATE INDEX install_system_id ON install (system_id);
CREATE INDEX install_machine_id ON install (machine_id);
CREATE UNIQUE INDEX install_system_id_machine_id_name ON install (system_id, machine_id, name);
CREATE TABLE study (
    id UUID NOT NULL PRIMARY KEY,
    title TEXT NOT NULL,
    state TEXT NOT NULL,
    seed BIGINT NOT NULL,
    blocks INTEGER NOT NULL,
    procedures JSONB NOT NULL,
    created_at TIMESTAMPTZ NOT NULL,
    put_away_at TIMESTAMPTZ
);
CREATE TABLE contender (
    id UUID NOT NULL PRIMARY KEY,
    study_id UUID NOT NULL,
    install_id UUID NOT NULL,
    lane_no INTEGER NOT NULL,
    label TEXT NOT NULL,
    FOREIGN KEY (study_id) REFERENCES study (id),
    FOREIGN KEY (install_id) REFERENCES install (id)
);
CREATE INDEX contender_study_id ON contender (study_id);
CREATE INDEX contender_install_id ON contender (install_id);
CREATE UNIQUE INDEX contender_study_id_lane_no ON contender (study_id, lane_no);
CREATE UNIQUE INDEX contender_study_id_install_id ON contender (study_id, install_id);
CREATE TABLE margin (
    id UUID NOT NULL PRIMARY KEY,
    study_id UUID NOT NULL,
    metric TEXT NOT NULL,
    share DOUBLE PRECISION,
    amount DOUBLE PRECISION,
    FOREIGN KEY (study_id) REFERENCES study (id)
);
CREATE INDEX margin_study_id ON margin (study_id);
CREATE UNIQUE INDEX margin_study_id_metric ON margin (study_id, metric);
CREATE TABLE run (
    id UUID NOT NULL PRIMARY KEY,
    study_id UUID NOT NULL,
    contender_id UUID NOT NULL,
    block INTEGER NOT NULL,
    position INTEGER NOT NULL,
    procedure TEXT NOT NULL,
    condition_hash TEXT NOT NULL,
    conditions JSONB NOT NULL,
    repeat INTEGER NOT NULL,
    state TEXT NOT NULL,
    reason TEXT,
    attempt_no INTEGER NOT NULL,
    FOREIGN KEY (study_id) REFERENCES study (id),
    FOREIGN KEY (contender_id) REFERENCES contender (id)
);
CREATE INDEX run_study_id ON run (study_id);
CREATE INDEX run_contender_id ON run (contender_id);
CREATE UNIQUE INDEX run_study_id_block_contender_id_procedure_condition_hash_repeat ON run (study_id, block, contender_id, procedure, condition_hash, repeat);
CREATE INDEX run_study_id_state_position ON run (study_id, state, position);
CREATE TABLE capture (
    id UUID NOT NULL PRIMARY KEY,
    sha256 TEXT NOT NULL,
    kind TEXT NOT NULL,
    made_at TIMESTAMPTZ NOT NULL,
    body BYTEA NOT NULL
);
CREATE INDEX capture_sha256 ON capture (sha256);
CREATE TABLE attempt (
    id UUID NOT NULL PRIMARY KEY,
    run_id UUID NOT NULL,
    number INTEGER NOT NULL,
    state TEXT NOT NULL,
    started_at TIMESTAMPTZ,
    finished_at TIMESTAMPTZ,
    reason TEXT,
    conditions JSONB NOT NULL,
    capture_id UUID,
    FOREIGN KEY (run_id) REFERENCES run (id),
    FOREIGN KEY (capture_id) REFERENCES capture (id)
);
CREATE INDEX attempt_run_id ON attempt (run_id);
CREATE INDEX attempt_capture_id ON attempt (capture_id);
CREATE UNIQUE INDEX attempt_run_id_number ON attempt (run_id, number);
CREATE TABLE lane (
    id UUID NOT NULL PRIMARY KEY,
    contender_id UUID NOT NULL,
    metric TEXT NOT NULL,
    method TEXT NOT NULL,
    condition_hash TEXT NOT NULL,
    conditions JSONB NOT NULL,
    FOREIGN KEY (contender_id) REFERENCES contender (id)
);
CREATE INDEX lane_contender_id ON lane (contender_id);
CREATE UNIQUE INDEX lane_contender_id_metric_method_condition_hash ON lane (contender_id, metric, method, condition_hash);
CREATE TABLE reading (
    id UUID NOT NULL PRIMARY KEY,
    attempt_id UUID NOT NULL,
    lane_id UUID NOT NULL,
    metric TEXT NOT NULL,
    method TEXT NOT NULL,
    step INTEGER NOT NULL,
    value DOUBLE PRECISION NOT NULL,
    unit TEXT NOT NULL,
    resolution DOUBLE PRECISION,
    set_aside TEXT,
    set_aside_at TIMESTAMPTZ,
    FOREIGN KEY (attempt_id) REFERENCES attempt (id),
    FOREIGN KEY (lane_id) REFERENCES lane (id)
);
CREATE INDEX reading_attempt_id ON reading (attempt_id);
CREATE INDEX reading_lane_id ON reading (lane_id);
CREATE UNIQUE INDEX reading_attempt_id_metric_method_step ON reading (attempt_id, metric, method, step);
CREATE TABLE trace (
    id UUID NOT NULL PRIMARY KEY,
    attempt_id UUID NOT NULL,
    metric TEXT NOT NULL,
    unit TEXT NOT NULL,
    times_s DOUBLE PRECISION[] NOT NULL,
    "values" DOUBLE PRECISION[] NOT NULL,
    FOREIGN KEY (attempt_id) REFERENCES attempt (id)
);
CREATE INDEX trace_attempt_id ON trace (attempt_id);
CREATE TABLE event (
    id BIGSERIAL NOT NULL PRIMARY KEY,
    at TIMESTAMPTZ NOT NULL,
    kind TEXT NOT NULL,
    study UUID,
    run UUID,
    facts JSONB NOT NULL
);
CREATE INDEX event_study ON event (study);

CREATE FUNCTION event_is_append_only() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'events are only ever added';
END $$;
CREATE TRIGGER event_append_only BEFORE UPDATE OR DELETE ON event
    FOR EACH ROW EXECUTE FUNCTION event_is_append_only();

CREATE FUNCTION event_told() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM pg_notify('haremile_event', NEW.id::text);
    RETURN NEW;
END $$;
CREATE TRIGGER event_notify AFTER INSERT ON event
    FOR EACH ROW EXECUTE FUNCTION event_told();
"""


def up(migrator, db):
    """Make every table of the first mile."""
    db.execute_sql(SQL)
