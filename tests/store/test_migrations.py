import hashlib
from concurrent.futures import ThreadPoolExecutor
from uuid import uuid4

import psycopg
import pytest
from playhouse.migrations import Runner

from haremile.errors import BadInputError, MissingHereError, StoreUnavailableError
from haremile.store.backup import check_workspace, status_of
from haremile.store.cluster import database_url
from haremile.store.database import MIGRATIONS, connect, migrate
from haremile.store.rows import TABLES, database
from haremile_probe.signing import name_of, secret_of


def columns_of(url):
    query = (
        "select table_name, column_name from information_schema.columns where table_schema='public'"
    )
    with psycopg.connect(url) as link:
        return set(link.execute(query).fetchall())


def test_the_migrated_tables_are_those_of_the_rows(bench, throwaway_url):
    expected = {
        (table._meta.table_name, field.column_name)
        for table in TABLES
        for field in table._meta.sorted_fields
    }
    found = columns_of(throwaway_url)
    names = {table._meta.table_name for table in TABLES}
    assert {pair for pair in found if pair[0] in names} == expected


def test_several_at_once_wait_for_one_another(server_url):
    name = f"haremile_test_{uuid4().hex[:12]}"
    url = database_url(server_url, name)
    kept = database.obj
    with psycopg.connect(database_url(server_url, "postgres"), autocommit=True) as link:
        link.execute(f"create database {name}")
        try:
            bound = connect(url)
            with ThreadPoolExecutor(4) as pool:
                list(pool.map(lambda _: migrate(bound, url), range(4)))
            with bound.connection_context():
                assert Runner(bound, str(MIGRATIONS)).up() in ([], None)
            bound.close_all()
        finally:
            database.initialize(kept)
            link.execute(f"drop database {name} with (force)")


def test_a_backup_is_asked_for_before_tables_of_an_older_program_are_changed(older):
    bound, url = older
    asked = []
    migrate(bound, url, asked.append)
    assert [step.partition("_")[0] for step in asked] == ["0005"]
    migrate(bound, url, asked.append)
    assert len(asked) == 1


def test_a_database_of_a_newer_program_is_refused_by_name(older):
    bound, url = older
    migrate(bound, url)
    before = columns_of(url)
    with bound.connection_context():
        runner = Runner(bound, str(MIGRATIONS))
        runner.History.create(name="9001_from_the_future", applied="2030-01-01")
    with pytest.raises(MissingHereError, match=r"newer Hare Mile .it has 9001_from_the_future"):
        migrate(bound, url)
    assert columns_of(url) == before


@pytest.mark.parametrize("url", ["", "mysql://h/d", "postgresql://host", "nonsense"])
def test_an_address_that_is_none_is_refused(url):
    with pytest.raises(BadInputError, match="DATABASE_URL"):
        connect(url)


def test_a_server_that_is_away_is_said_to_be_away(session_bench):
    kept = database.obj
    try:
        bound = connect("postgresql://nobody@127.0.0.1:1/none")
        with pytest.raises(StoreUnavailableError, match="does not answer"):
            migrate(bound, "postgresql://nobody@127.0.0.1:1/none")
        with pytest.raises(StoreUnavailableError):
            session_bench.studies.digests()
    finally:
        database.initialize(kept)


@pytest.fixture(name="schema")
def schema_of_old(server_url):
    """Makes a database as it was after a migration; an address each."""
    kept, made = database.obj, []
    with psycopg.connect(database_url(server_url, "postgres"), autocommit=True) as link:

        def make(step):
            name = f"haremile_test_{uuid4().hex[:12]}"
            link.execute(f"create database {name}")
            bound = connect(database_url(server_url, name))
            made.append((name, bound))
            with bound.connection_context():
                Runner(bound, str(MIGRATIONS)).up(target=step)
            return bound, database_url(server_url, name)

        yield make
        database.initialize(kept)
        for name, bound in made:
            bound.close_all()
            link.execute(f"drop database {name} with (force)")


@pytest.fixture
def older(schema):
    """A database as it was before people had keys; its address."""
    return schema("0004_overrules")


READ = [(10.0, "2026-10-05Z"), (1e300, "2026-10-05Z"), (12.0, "0001-01-01Z")]


def keep_as_it_was(link, readings):
    """One study of one contender with these readings, as the first programs kept it."""
    link.execute("insert into system (id, name, facts) values (gen_random_uuid(), 'V', '{}')")
    link.execute("insert into host (id, name, capacity) values (gen_random_uuid(), 'H', 1)")
    link.execute(
        "insert into machine (id, name, host_id, kind, facts) "
        "select gen_random_uuid(), 'M', id, 'physical', '{}' from host"
    )
    link.execute(
        "insert into install (id, system_id, machine_id, name, recipe) "
        "select gen_random_uuid(), system.id, machine.id, '', '{}' from system, machine"
    )
    link.execute(
        "insert into study (id, title, state, seed, blocks, procedures, created_at) "
        "values (gen_random_uuid(), 'Q', 'done', 1, 3, '[\"boot\"]', now())"
    )
    link.execute(
        "insert into contender (id, study_id, install_id, lane_no, label) "
        "select gen_random_uuid(), study.id, install.id, 1, 'V' from study, install"
    )
    lanes = {}
    for block, (value, at) in enumerate(readings, start=1):
        run, attempt, capture = (uuid4() for _ in range(3))
        body = b"capture %d" % block
        link.execute(
            "insert into run (id, study_id, contender_id, block, position, procedure, "
            "condition_hash, conditions, repeat, state, attempt_no) "
            "select %s, study_id, id, %s, %s, 'boot', '', '{}', 1, 'done', 1 from contender",
            (run, block, block),
        )
        link.execute(
            "insert into capture (id, sha256, kind, made_at, body) values (%s, %s, 'x', %s, %s)",
            (capture, hashlib.sha256(body).hexdigest(), at, body),
        )
        link.execute(
            "insert into attempt (id, run_id, number, state, conditions, capture_id, "
            "started_at, finished_at) values (%s, %s, 1, 'done', '{}', %s, %s, %s)",
            (attempt, run, capture, at, at),
        )
        if not lanes:
            lanes = {"boot.total": uuid4()}
            link.execute(
                "insert into lane (id, contender_id, metric, method, condition_hash, conditions) "
                "select %s, id, 'boot.total', 'typed', '', '{}' from contender",
                (lanes["boot.total"],),
            )
        link.execute(
            "insert into reading (id, attempt_id, lane_id, metric, method, step, value, unit) "
            "values (gen_random_uuid(), %s, %s, 'boot.total', 'typed', 0, %s, 's')",
            (attempt, lanes["boot.total"], value),
        )


def test_what_could_not_be_meant_is_repaired_and_nothing_is_lost(older):
    bound, url = older
    with psycopg.connect(url, autocommit=True) as link:
        keep_as_it_was(link, READ)
        link.execute(
            "insert into machine_key (id, machine_id, digest, made_at) "
            "select gen_random_uuid(), id, %s, now() from machine",
            (secret_of("a key"),),
        )
        migrate(bound, url)
        states = link.execute("select state, reason from run order by block").fetchall()
        assert [state for state, _ in states] == ["done", "void", "done"]
        assert "repaired" in states[1][1]
        assert link.execute("select count(*) from reading").fetchone() == (3,)
        times = link.execute(
            "select count(*) from attempt where finished_at is null union all "
            "select count(*) from capture where made_at is null"
        ).fetchall()
        assert times == [(1,), (1,)]
        name = link.execute("select name from machine_key").fetchone()[0]
        assert name == name_of(secret_of("a key")), "machines that were enrolled are known still"


def test_from_the_first_schema_everything_comes_along_and_is_sound(schema, session_bench):
    bound, url = schema("0001_first_mile")
    with psycopg.connect(url, autocommit=True) as link:
        keep_as_it_was(link, [(10.0, "2026-10-05Z"), (11.0, "2026-10-06Z")])
        before = status_of(url).rows
        migrate(bound, url)
        kept = status_of(url).rows
        assert {name: kept[name] for name in before} == before
        found = check_workspace(url, lambda text: None)
        assert (found.captures, found.faults) == (2, ())
        (digest,) = session_bench.studies.digests()
        assert (digest.title, digest.runs, digest.finished) == ("Q", 2, 2)
        assert [one.label for one in session_bench.studies.get(digest.id).contenders] == ["V"]
