from concurrent.futures import ThreadPoolExecutor
from uuid import uuid4

import psycopg
import pytest
from playhouse.migrations import Runner

from haremile.errors import BadInputError, StoreUnavailableError
from haremile.store.cluster import database_url
from haremile.store.database import MIGRATIONS, connect, migrate
from haremile.store.rows import TABLES, database


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
