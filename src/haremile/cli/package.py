"""``haremile package``: studies or the whole bench book handed on, and taken in."""

from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated

import typer

from haremile.cli.documents import Json, as_document, print_json
from haremile.cli.session import bench, say
from haremile.cli.study import study_named
from haremile.core.wording.numbers import count
from haremile.errors import BadInputError
from haremile.usecases.package import hand_on, take_package
from haremile.usecases.ports import PackageChoices, PackageTaken

app = typer.Typer(no_args_is_help=True, help="Packages: hand studies on, take them in.")

File = Annotated[Path, typer.Argument(help="The package's file.")]


@app.command("export")
def export(
    file: File,
    study: Annotated[
        list[str] | None, typer.Option(help="Id or part of a title; without any, everything.")
    ] = None,
) -> None:
    """Write studies, or the whole bench book, as one data package."""
    with bench() as opened:
        keys = [study_named(opened, name).id for name in study or ()]
        at = datetime.now(UTC)
        hand_on(opened.packages, opened.publishing, keys or None, opened.host, at, file)
    say(f"{file.stat().st_size / 2**20:.1f} MiB in {file}")


@app.command("import")
def take_in(
    file: File,
    look: Annotated[bool, typer.Option(help="Only say what it would bring.")] = False,
    rename: Annotated[
        bool, typer.Option(help="Systems and machines whose names are taken get another.")
    ] = False,
    same: Annotated[
        bool, typer.Option(help="Systems and machines whose names are taken are the same ones.")
    ] = False,
    theirs: Annotated[
        bool, typer.Option(help="Where both say otherwise, the package holds.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Take a package in, wholly or not at all."""
    if not file.is_file():
        raise BadInputError(f"there is no file {file}")
    with bench() as opened:
        first = take_package(opened.packages, file, PackageChoices(), False)
        if first.names and not (rename or same or look):
            named = ", ".join(one.name for one in first.names)
            raise BadInputError(f"here already under another id: {named}; say --same or --rename")
        renamed = frozenset(one.id for one in first.names) if rename else frozenset()
        choices = PackageChoices(renamed, theirs)
        taken = take_package(opened.packages, file, choices, not look)
    if as_json:
        print_json(as_document(taken))
        return
    for line in _told(taken):
        typer.echo(line)


def _told(taken: PackageTaken) -> list[str]:
    lines = [f"from {taken.origin_name or taken.origin}: {count(taken.rows, 'row')}"]
    lines += [f"{one.title}: {one.what}" for one in taken.studies]
    lines += [f"{one.noun} {one.name}: its name is here already" for one in taken.names]
    lines += [
        f"{one.table} {one.name}: says otherwise in {', '.join(one.columns)}"
        for one in taken.differing
    ]
    lines += [f"{one.name}: its commands wait to be approved" for one in taken.commands]
    return lines
