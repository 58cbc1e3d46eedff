"""The connection, and the migrations under an advisory lock."""

import threading
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, nullcontext
from functools import wraps
from pathlib import Path
from typing import Any, TypeVar, cast
from urllib.parse import unquote, urlsplit

import psycopg
from peewee import DataError, IntegrityError, InterfaceError, OperationalError
from playhouse.migrations import Runner
from playhouse.postgres_ext import PooledPsycopg3Database
from psycopg.rows import namedtuple_row

from haremile.errors import BadInputError, ConflictError, MissingHereError, StoreUnavailableError
from haremile.store.rows import database

MIGRATIONS = Path(__file__).with_name("migrations")
MIGRATION_LOCK = 0x4841_5245
CONNECTIONS = 20

Method = TypeVar("Method", bound=Callable[..., Any])


def connect(url: str) -> PooledPsycopg3Database:
    """Bind the tables to the PostgreSQL database at `url` (``postgresql://…``).

    Raises
    ------
    BadInputError
        If the address is not one of PostgreSQL.
    """
    parts = urlsplit(url)
    if parts.scheme not in ("postgres", "postgresql") or not parts.path.strip("/"):
        raise BadInputError("DATABASE_URL must look like postgresql://user@host:port/database")
    bound = PooledPsycopg3Database(
        parts.path.strip("/"),
        user=unquote(parts.username or "") or None,
        password=unquote(parts.password or "") or None,
        host=parts.hostname,
        port=parts.port,
        max_connections=CONNECTIONS,
        stale_timeout=300,
        timeout=10,
    )
    database.initialize(bound)
    return bound


def migrate(
    bound: PooledPsycopg3Database, url: str, before: Callable[[str], None] | None = None
) -> list[str]:
    """Bring the tables up to date; several at once wait for one another. Returns what was done.

    `before` is called with the first step's name where tables of an older program are changed.

    Raises
    ------
    StoreUnavailableError
    MissingHereError
        If a newer program than this one made them.
    """
    try:
        with psycopg.connect(url, autocommit=True) as guard:
            guard.execute("select pg_advisory_lock(%s)", (MIGRATION_LOCK,))
            with bound.connection_context():
                runner = Runner(bound, str(MIGRATIONS))
                newer = [step.name for step in runner.status() if step.path is None]
                if newer:
                    raise MissingHereError(
                        f"this database was made by a newer Hare Mile (it has {newer[-1]}, which "
                        "this one does not know); nothing was touched. Start the newer one"
                    )
                steps = runner.status()
                missing = [step.name for step in steps if not step.applied]
                if before is not None and missing and len(missing) < len(steps):
                    before(missing[0])
                done = runner.up()
                return [getattr(step, "name", str(step)) for step in done or []]
    except (psycopg.OperationalError, OperationalError) as error:
        raise StoreUnavailableError(f"the database does not answer: {error}") from error


@contextmanager
def answering_in_words() -> Iterator[None]:
    """Whatever the database refuses becomes one of our own errors."""
    try:
        yield
    except (OperationalError, InterfaceError, psycopg.OperationalError) as error:
        database.obj.close_idle()  # they lead to the same server, which is gone or was restarted
        raise StoreUnavailableError(f"the database does not answer: {error}") from error
    except (IntegrityError, psycopg.IntegrityError) as error:
        raise ConflictError(f"this is there already, or its like is: {_first(error)}") from error
    except (DataError, psycopg.DataError, OverflowError) as error:
        raise BadInputError(f"this cannot be kept: {_first(error)}") from error


def _first(error: Exception) -> str:
    """What the database says, without the rows that it quotes."""
    return str(error).partition("\n")[0]


def connected(method: Method) -> Method:
    """Run a store method on a connection of its own, or on the one already open here."""

    @wraps(method)
    def inner(*args: Any, **kwargs: Any) -> Any:
        with answering_in_words():
            if not database.is_closed():
                return method(*args, **kwargs)
            with database.connection_context():
                given = method(*args, **kwargs)
                count_what_grew()
                return given

    return cast(Method, inner)


def copy_rows(table: str, columns: Sequence[str], rows: Sequence[tuple[object, ...]]) -> None:
    """Write many rows at once; both names are our own."""
    command = f"copy {table} ({', '.join(columns)}) from stdin"
    # of the transaction that is open here
    with database.cursor() as cursor, cursor.copy(command) as copy:
        for row in rows:
            copy.write_row(row)
    grew(table)


class _Grown(threading.local):
    """Tables into which this thread brought many rows at once."""

    def __init__(self) -> None:
        self.tables: set[str] = set()


_grown = _Grown()
COUNTED = {"reading": ("lane", "reading", "attempt", "run", "contender")}
"""What grows together."""


def grew(table: str) -> None:
    """Say that many rows were brought into a table."""
    _grown.tables.add(table)


def count_what_grew() -> None:
    """Have the database count tables that have just grown, once what was brought in stands.

    It counts by itself, but a minute later, and may have looked in between: it then takes a table
    that is no longer empty for an empty one, and goes through it again and again.
    """
    if database.in_transaction():
        return
    tables, _grown.tables = _grown.tables, set()
    for table in sorted(tables):
        database.execute_sql(f"analyze {', '.join(COUNTED.get(table, (table,)))}")


@contextmanager
def together() -> Iterator[None]:
    """Everything done within stands, or nothing of it does."""
    link = database.connection_context() if database.is_closed() else nullcontext()
    with link:
        with database.atomic():
            yield
        count_what_grew()


def rows_of(query: str, *values: Any) -> list[Any]:
    """All rows of a query; each has its columns as attributes, by the names in the query."""
    cursor = database.execute_sql(query, values)
    cursor.row_factory = namedtuple_row
    return list(cursor.fetchall())
