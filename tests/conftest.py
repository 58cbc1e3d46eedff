"""Shared fixtures. Every skip fails the run unless its reason is listed here."""

import os
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from uuid import uuid4

import hypothesis
import psycopg
import pytest

from haremile.bootstrap import Bench, wire
from haremile.config import settings_from
from haremile.store.cluster import database_url
from haremile.store.rows import TABLES, database

hypothesis.settings.register_profile("bench", deadline=None, derandomize=True)
hypothesis.settings.load_profile("bench")

DATA = Path(__file__).parent / "data"
LISTED_SKIPS = ("the real guest systems are built as root",)


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--long", action="store_true", help="also what takes many minutes")


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    if not config.getoption("--long"):
        kept = [item for item in items if item.get_closest_marker("long") is None]
        config.hook.pytest_deselected(items=[item for item in items if item not in kept])
        items[:] = kept


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
    name = f"haremile_test_{uuid4().hex[:12]}"
    with psycopg.connect(database_url(server_url, "postgres"), autocommit=True) as link:
        link.execute(f"create database {name}")
        yield database_url(server_url, name)
        link.execute(f"drop database {name} with (force)")


@pytest.fixture(scope="session")
def session_bench(throwaway_url: str) -> Iterator[Bench]:
    settings = replace(settings_from(os.environ), simulated_speed=1e6)
    bench = wire(settings, throwaway_url)
    yield bench
    database.obj.close_all()


@pytest.fixture
def bench(session_bench: Bench, throwaway_url: str) -> Bench:
    """A bench on an empty database."""
    names = ", ".join(table._meta.table_name for table in TABLES)
    with psycopg.connect(throwaway_url, autocommit=True) as link:
        link.execute(f"truncate {names} restart identity cascade")
    return session_bench
