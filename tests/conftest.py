"""Shared fixtures. Every skip fails the run unless its reason is listed here."""

import os
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING
from uuid import uuid4

import hypothesis
import pytest

if (
    TYPE_CHECKING
):  # what needs a database is loaded where it is used: tests of the core start at once
    from haremile.bootstrap import Bench
    from haremile.usecases.ports import StudyDigest

hypothesis.settings.register_profile("bench", deadline=None, derandomize=True)
hypothesis.settings.load_profile("bench")

DATA = Path(__file__).parent / "data"
ALONE = ("rigs/test_enrolled.py", "probe/test_ramp.py")
LISTED_SKIPS = (
    "the real guest systems are built as root",
    "caches are dropped as root",
    "a memory limit needs root and a control group",
    "no address but loopback here",
)


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--long", action="store_true", help="also what takes many minutes")


@pytest.hookimpl(tryfirst=True)  # before -m chooses
def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    if not config.getoption("--long"):
        kept = [item for item in items if item.get_closest_marker("long") is None]
        config.hook.pytest_deselected(items=[item for item in items if item not in kept])
        items[:] = kept
    _share_out(items)


def _share_out(items: list[pytest.Item]) -> None:
    """A module stays on one worker. What launches applications, or waits for this machine to be at
    rest, is done alone: another worker's launches and load would be in the way."""
    launching = {item.path for item in items if "x_display" in getattr(item, "fixturenames", ())}
    for item in items:
        item.add_marker(pytest.mark.xdist_group(str(item.path)))
        if item.path in launching or any(map(item.path.match, ALONE)):
            item.add_marker("alone")


@pytest.hookimpl(hookwrapper=True)
def pytest_runtest_makereport(item, call):  # type: ignore[no-untyped-def]
    outcome = yield
    report = outcome.get_result()
    reason = report.longrepr[2] if report.skipped and isinstance(report.longrepr, tuple) else ""
    if report.skipped and not any(listed in reason for listed in LISTED_SKIPS):
        report.outcome = "failed"
        report.longrepr = f"skipped without a listed reason: {reason}"


@pytest.fixture(scope="session")
def server_url() -> str:
    """The server on which throw-away databases are made; never the user's own database."""
    url = os.environ.get("HAREMILE_TEST_DATABASE_URL")
    assert url, "no database server: run the tests with ./haremile test"
    return url


@pytest.fixture(scope="session")
def throwaway_url(server_url: str) -> Iterator[str]:
    import psycopg

    from haremile.store.cluster import database_url

    name = f"haremile_test_{uuid4().hex[:12]}"
    with psycopg.connect(database_url(server_url, "postgres"), autocommit=True) as link:
        link.execute(f"create database {name}")
        # what is in it is worth nothing after a crash
        link.execute(f"alter database {name} set synchronous_commit = off")
        yield database_url(server_url, name)
        link.execute(f"drop database {name} with (force)")


@pytest.fixture(scope="session")
def session_bench(throwaway_url: str) -> "Iterator[Bench]":
    from haremile.bootstrap import wire
    from haremile.config import settings_from
    from haremile.store.rows import database

    settings = replace(settings_from(os.environ), simulated_speed=1e6)
    bench = wire(settings, throwaway_url)
    _left_uncounted(throwaway_url)
    yield bench
    bench.intake.close()
    database.obj.close_all()


def _left_uncounted(url: str) -> None:
    """Tables are emptied and filled all the time: looked at in between, they would be taken for
    empty ones, and gone through again and again."""
    import psycopg

    with psycopg.connect(url, autocommit=True) as link:
        for name in table_names():
            link.execute(f"alter table {name} set (autovacuum_enabled = false)")


def table_names() -> list[str]:
    from haremile.store.rows import TABLES

    return [table._meta.table_name for table in TABLES]


FEW_BYTES = 2**19


def emptied(url: str) -> None:
    """Empty every table. Files made anew are waited for until they are on the disk, which takes a
    table a hundred times as long as deleting few rows: that is left to what is large."""
    import psycopg

    names = table_names()
    with psycopg.connect(url, autocommit=True) as link:
        sizes = ", ".join(f"('{name}', pg_relation_size('{name}'))" for name in names)
        found = link.execute(f"select coalesce(max(size), 0) from (values {sizes}) t (name, size)")
        largest = found.fetchone()
        if largest is not None and largest[0] > FEW_BYTES:
            link.execute(f"truncate {', '.join(names)} restart identity cascade")
            return
        with link.transaction():
            link.execute("set local session_replication_role = replica")  # no order to keep
            for name in names:
                link.execute(f"delete from {name}")
        link.execute("alter sequence event_id_seq restart")
        link.execute("alter sequence audit_id_seq restart")


@pytest.fixture
def bench(session_bench: "Bench", throwaway_url: str) -> "Bench":
    """A bench on an empty database."""
    emptied(throwaway_url)
    return session_bench


@pytest.fixture(scope="session")
def packed_world(session_bench: "Bench", throwaway_url: str) -> dict[str, bytes]:
    """The rows of the loaded sample world, which many tests begin with."""
    import psycopg

    from haremile.demo.load import load_sample_world

    emptied(throwaway_url)
    load_sample_world(session_bench, session_bench.intake_here(), lambda text: None)
    packed = {}
    with psycopg.connect(throwaway_url) as link, link.cursor() as cursor:
        for name in table_names():
            with cursor.copy(f"copy {name} to stdout (format binary)") as rows:
                packed[name] = b"".join(rows)
    return packed


@pytest.fixture
def world(
    packed_world: dict[str, bytes], bench: "Bench", throwaway_url: str
) -> "dict[str, StudyDigest]":
    """The sample world in the bench book; its studies by title."""
    import psycopg

    emptied(throwaway_url)
    with psycopg.connect(throwaway_url) as link, link.cursor() as cursor:
        for name, body in packed_world.items():
            with cursor.copy(f"copy {name} from stdin (format binary)") as rows:
                rows.write(body)
        link.execute("select setval('event_id_seq', (select max(id) from event))")
    return {digest.title: digest for digest in bench.studies.digests()}
