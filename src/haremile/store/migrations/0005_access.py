"""People, keys, sessions and the audit trail; what could not be meant is repaired."""

SQL = """
CREATE TABLE person (
    id UUID NOT NULL PRIMARY KEY,
    name TEXT NOT NULL UNIQUE,
    role TEXT NOT NULL CHECK (role IN ('look', 'work', 'own')),
    made_at TIMESTAMPTZ NOT NULL
);
CREATE TABLE person_key (
    id UUID NOT NULL PRIMARY KEY,
    person_id UUID NOT NULL REFERENCES person (id),
    digest TEXT NOT NULL UNIQUE,
    made_at TIMESTAMPTZ NOT NULL,
    revoked_at TIMESTAMPTZ
);
CREATE INDEX person_key_person_id ON person_key (person_id);
CREATE TABLE entry (
    id UUID NOT NULL PRIMARY KEY,
    person_id UUID NOT NULL REFERENCES person (id),
    digest TEXT NOT NULL UNIQUE,
    is_pairing BOOLEAN NOT NULL,
    made_at TIMESTAMPTZ NOT NULL,
    expires_at TIMESTAMPTZ NOT NULL,
    used_at TIMESTAMPTZ
);
CREATE INDEX entry_person_id ON entry (person_id);
CREATE TABLE session (
    id UUID NOT NULL PRIMARY KEY,
    person_id UUID NOT NULL REFERENCES person (id),
    digest TEXT NOT NULL UNIQUE,
    page_digest TEXT NOT NULL,
    is_paired BOOLEAN NOT NULL,
    agent TEXT NOT NULL,
    made_at TIMESTAMPTZ NOT NULL,
    seen_at TIMESTAMPTZ NOT NULL,
    expires_at TIMESTAMPTZ NOT NULL,
    revoked_at TIMESTAMPTZ
);
CREATE INDEX session_person_id ON session (person_id);
CREATE TABLE audit (
    id BIGSERIAL NOT NULL PRIMARY KEY,
    at TIMESTAMPTZ NOT NULL,
    who TEXT NOT NULL,
    way TEXT NOT NULL,
    what TEXT NOT NULL,
    study UUID,
    facts JSONB NOT NULL
);
ALTER TABLE machine_key ADD COLUMN name TEXT;
UPDATE machine_key SET name =
    left(encode(sha256(convert_to('haremile machine ' || digest, 'UTF8')), 'hex'), 16);
ALTER TABLE machine_key ALTER COLUMN name SET NOT NULL;
CREATE UNIQUE INDEX machine_key_name ON machine_key (name);
ALTER TABLE capture ALTER COLUMN made_at DROP NOT NULL;
"""
REPAIRS = (
    # a value that no statistic and no page can hold: its run is void, with the reason; the reading
    # and the evidence stay
    """
    UPDATE run SET state = 'void', reason = 'repaired: a value that nothing measured can have'
    WHERE state = 'done' AND id IN (
        SELECT attempt.run_id FROM reading JOIN attempt ON attempt.id = reading.attempt_id
        WHERE abs(reading.value) > 1e18 OR reading.value = 'NaN'
            OR (reading.value <> 0 AND abs(reading.value) < 1e-18)
            OR (reading.value < 0 AND reading.metric NOT LIKE 'own.%')
    )
    """,
    "UPDATE reading SET resolution = NULL WHERE resolution <= 0 OR resolution > 1e18",
    # instants that no calendar can show: not known
    *(
        f"UPDATE {table} SET {column} = NULL "
        f"WHERE {column} < '2000-01-01Z' OR {column} >= '2100-01-01Z'"
        for table, column in (
            ("attempt", "started_at"),
            ("attempt", "finished_at"),
            ("capture", "made_at"),
        )
    ),
)


def up(migrator, db):
    """Nobody could come in by a key of their own before."""
    db.execute_sql(SQL)
    for repair in REPAIRS:
        db.execute_sql(repair.replace("%", "%%"))
