"""The whole workspace as one file and back, and whether everything in it is as it was taken."""

import hashlib
import os
import subprocess
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import unquote, urlsplit

import psycopg

from haremile.errors import BadInputError, ConflictError, MissingHereError, StoreUnavailableError
from haremile.processes import child_command, child_environment
from haremile.store.cluster import programs

EVERY_S = 0.5
BATCH = 200

Report = Callable[[str], None]

RULES: dict[str, str] = {
    "a run that is done has the attempt that it names": """
        select count(*) from run where state = 'done' and not exists (
            select from attempt where run_id = run.id and number = run.attempt_no)
    """,
    "a reading lies in a lane of its run's contender": """
        select count(*) from reading
        join attempt on attempt.id = reading.attempt_id join run on run.id = attempt.run_id
        join lane on lane.id = reading.lane_id where lane.contender_id <> run.contender_id
    """,
    "a reading is of its lane's metric and method": """
        select count(*) from reading join lane on lane.id = reading.lane_id
        where (reading.metric, reading.method) is distinct from (lane.metric, lane.method)
    """,
    "a reading is a number": """
        select count(*) from reading
        where value in ('NaN'::float8, 'Infinity'::float8, '-Infinity'::float8)
    """,
    "a contender's run belongs to the study of both": """
        select count(*) from run join contender on contender.id = run.contender_id
        where contender.study_id <> run.study_id
    """,
}
"""What holds in every workspace; each query counts what breaks it."""

HISTORY = "migration"
"""What the names of tables hold that tell of the schema alone."""


@dataclass(frozen=True)
class Checked:
    """What a check found: captures that were read, and what is wrong, in words."""

    captures: int
    faults: tuple[str, ...]


@dataclass(frozen=True)
class Status:
    """What a database holds: the server's version, bytes, the newest step of its schema, and the
    rows of each table, by name."""

    server: str
    size: int
    schema: str | None
    rows: dict[str, int]


def write_backup(url: str, target: Path, report: Report) -> None:
    """Write everything into one file, which is there only once it is whole.

    Raises
    ------
    ConflictError
        If the file is there already.
    MissingHereError, StoreUnavailableError
    """
    if target.exists():
        raise ConflictError(f"{target} is there already; a backup never writes over another")
    part = target.with_name(target.name + ".part")
    try:
        part.touch(mode=0o600)  # people and the hashes of their keys are in it
        words = [_program(url, "pg_dump"), "--format=custom", "--no-owner", f"--file={part}"]
        _carry_out(url, words, lambda: report(f"{_size(part) / 2**20:.1f} MiB written"))
        with part.open("rb") as file:
            os.fsync(file.fileno())
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)


def restore_backup(url: str, source: Path, report: Report) -> None:
    """Bring a backup into a workspace that holds nothing; all of it, or nothing.

    Raises
    ------
    BadInputError
        If the file is no backup.
    ConflictError
        If the workspace holds anything: what it holds would be gone.
    """
    if not source.is_file():
        raise BadInputError(f"there is no file {source}")
    held = {name: count for name, count in status_of(url).rows.items() if count}
    if held:
        said = ", ".join(f"{name}: {count}" for name, count in held.items())
        raise ConflictError(
            f"this workspace is not empty ({said}); nothing was touched. Restore into an empty "
            "one: HAREMILE_DATA=FOLDER ./haremile db restore FILE"
        )
    words = [_program(url, "pg_restore"), "--clean", "--if-exists", "--no-owner"]
    words += ["--single-transaction", "--exit-on-error", f"--dbname={_parts(url)[1]}", str(source)]
    try:
        _carry_out(url, words, lambda: report("bringing it in"))
    except StoreUnavailableError as error:
        raise BadInputError(f"{source} was not brought in, nothing was changed: {error}") from None


def check_workspace(url: str, report: Report) -> Checked:
    """Read every capture against its hash, and every rule; the server's own checksums are looked at
    as it reads."""
    faults = []
    count = 0
    with psycopg.connect(url) as link:
        for name, digest, body in _captures(link):
            count += 1
            if hashlib.sha256(body).hexdigest() != digest:
                faults.append(f"capture {name}: its bytes are not those that were taken in")
            if count % BATCH == 0:
                report(f"{count} captures read")
        for rule, query in RULES.items():
            row = link.execute(query.encode()).fetchone()
            if row is not None and row[0]:
                faults.append(f"{rule}: broken {row[0]} times")
            report(rule)
    return Checked(count, tuple(faults))


def _captures(link: "psycopg.Connection[tuple[object, ...]]") -> Iterator[tuple[str, str, bytes]]:
    with link.cursor(name="captures") as cursor:
        cursor.itersize = BATCH
        cursor.execute("select id::text, sha256, body from capture")
        for name, digest, body in cursor:
            assert isinstance(body, bytes)
            yield str(name), str(digest), body


def status_of(url: str) -> Status:
    """What a database holds; a fresh one holds nothing."""
    with psycopg.connect(url) as link:
        known = sorted(
            str(row[0])
            for row in link.execute(
                "select table_name from information_schema.tables where table_schema = 'public'"
            )
        )
        rows = {
            name: _count(link, f'select count(*) from "{name}"')
            for name in known
            if HISTORY not in name
        }
        history = next((name for name in known if HISTORY in name), None)
        newest = None
        if history is not None:
            found = link.execute(f'select max(name) from "{history}"'.encode()).fetchone()
            newest = None if found is None else found[0]
        size = _count(link, "select pg_database_size(current_database())")
        server = str(link.info.server_version // 10_000)
        return Status(server, size, newest, rows)


def _count(link: "psycopg.Connection[tuple[object, ...]]", query: str) -> int:
    row = link.execute(query.encode()).fetchone()
    return int(str(row[0])) if row else 0


def _parts(url: str) -> tuple[dict[str, str], str]:
    """The address as PostgreSQL's programs read it from their environment (a password on a command
    line is seen by everyone), and the database's name."""
    parts = urlsplit(url)
    name = parts.path.strip("/")
    found = {
        "PGHOST": parts.hostname or "",
        "PGPORT": str(parts.port or 5432),
        "PGUSER": unquote(parts.username or ""),
        "PGPASSWORD": unquote(parts.password or ""),
        "PGDATABASE": name,
    }
    return {key: value for key, value in found.items() if value}, name


def _program(url: str, name: str) -> str:
    """A program of the server's version, or a newer one: older ones refuse it."""
    with psycopg.connect(url) as link:
        wanted = link.info.server_version // 10_000
    found = programs(name)
    fitting = [version for version in found if version >= wanted]
    if not fitting:
        raise MissingHereError(f"{name} is missing: apt-get install postgresql-client-{wanted}")
    return str(found[min(fitting)])


def _carry_out(url: str, words: list[str], look: Callable[[], None]) -> None:
    environment = {**child_environment(), **_parts(url)[0]}
    child = subprocess.Popen(
        child_command(words),
        env=environment,
        stdin=subprocess.DEVNULL,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.PIPE,
        text=True,
    )
    try:
        while True:
            try:
                _, said = child.communicate(timeout=EVERY_S)
                break
            except subprocess.TimeoutExpired:
                look()
    except BaseException:
        child.kill()
        child.wait()
        raise
    if child.returncode:
        lines = said.strip().splitlines() or [f"it ended with {child.returncode}"]
        raise StoreUnavailableError(lines[-1])


def _size(path: Path) -> int:
    return path.stat().st_size if path.exists() else 0
