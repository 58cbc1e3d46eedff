"""What the benchmarks share: a bench on a throw-away database, and a table of figures."""

import os
import statistics
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace

import psycopg
from playwright.sync_api import Browser, StorageState

from haremile.bootstrap import Bench, open_database, wire
from haremile.config import settings_from
from haremile.processes import session_id
from haremile.store.cluster import database_url
from haremile.store.rows import database

NAME = "haremile_benchmark"


@contextmanager
def throwaway_bench() -> Iterator[Bench]:
    session_id()
    settings = replace(settings_from(os.environ), simulated_speed=1e9)
    with open_database(settings) as url:
        with psycopg.connect(database_url(url, "postgres"), autocommit=True) as link:
            link.execute(f"drop database if exists {NAME} with (force)")
            link.execute(f"create database {NAME}")
        bench = wire(settings, database_url(url, NAME))
        try:
            yield bench
        finally:
            bench.runner.stop()
            database.obj.close_all()
            with psycopg.connect(database_url(url, "postgres"), autocommit=True) as link:
                link.execute(f"drop database {NAME} with (force)")


def signed_in(browser: Browser, entry: str) -> StorageState:
    """What a browser keeps once it has opened the address that signs it in."""
    context = browser.new_context()
    context.new_page().goto(entry)
    kept = context.storage_state()
    context.close()
    return kept


def spread(values: Sequence[float], unit: str = "s", digits: int = 3) -> str:
    ordered = sorted(values)
    middle = statistics.median(ordered)
    return (
        f"median {middle:.{digits}f} {unit} "
        f"({ordered[0]:.{digits}f} to {ordered[-1]:.{digits}f}, n = {len(ordered)})"
    )
