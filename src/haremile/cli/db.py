"""``haremile db``: what the database holds, a backup of it, and whether all of it is sound."""

from collections.abc import Mapping
from pathlib import Path
from typing import Annotated

import typer

from haremile.bootstrap import open_database
from haremile.cli.documents import Json, as_document, print_json
from haremile.cli.session import present_settings, say
from haremile.errors import BadInputError, HareMileError
from haremile.store.backup import check_workspace, restore_backup, status_of, write_backup
from haremile.store.database import connect, migrate
from haremile.store.upgrade import upgrade_data

app = typer.Typer(
    no_args_is_help=True, help="The database: status, check, backup, restore, upgrade."
)

File = Annotated[Path, typer.Argument(help="The backup's file.")]


@app.command("status")
def status(as_json: Json = False) -> None:
    """Print what the database holds."""
    with open_database(present_settings()) as url:
        found = status_of(url)
    if as_json:
        print_json(as_document(found))
        return
    typer.echo(f"PostgreSQL {found.server}, {found.size / 2**20:.1f} MiB, schema {found.schema}")
    typer.echo(_told(found.rows))


@app.command("backup")
def backup(file: File) -> None:
    """Write everything into one file. What runs meanwhile goes on."""
    with open_database(present_settings()) as url:
        write_backup(url, file, say)
    say(f"{file.stat().st_size / 2**20:.1f} MiB in {file}")


@app.command("restore")
def restore(file: File) -> None:
    """Bring a backup into an empty workspace."""
    with open_database(present_settings()) as url:
        restore_backup(url, file, say)
        for step in migrate(connect(url), url):
            say(f"schema brought up to date: {step}")
        say(_told(status_of(url).rows))


def _told(rows: Mapping[str, int]) -> str:
    """The tables that hold something, a line each."""
    held = [f"{name}: {count}" for name, count in rows.items() if count]
    return "\n".join(held) or "nothing is held yet"


@app.command("upgrade")
def upgrade() -> None:
    """Move the data to the newest PostgreSQL of this machine; the old stay until you take them
    away."""
    settings = present_settings()
    if settings.database_url is not None:
        raise BadInputError("DATABASE_URL names a database of yours, which is yours to upgrade")
    done = upgrade_data(Path(settings.data), say)
    if done is None:
        say("the data are of the newest PostgreSQL of this machine already")
        return
    say(f"moved from PostgreSQL {done.before} to {done.now}; every row and capture was compared")
    say(f"the old data stand in {done.kept}, a backup in {done.backup}")


class NotSoundError(HareMileError):
    """Something in the workspace is not as it was taken in."""


@app.command("check")
def check(as_json: Json = False) -> None:
    """Read every capture against its hash, and every rule; exit 1 where one is broken."""
    with open_database(present_settings()) as url:
        found = check_workspace(url, say)
    if as_json:
        print_json(as_document(found))
    else:
        for fault in found.faults:
            typer.echo(fault)
        typer.echo(f"{found.captures} captures read, {len(found.faults)} faults")
    if found.faults:
        raise NotSoundError(f"{len(found.faults)} faults; restore a backup from before them")
