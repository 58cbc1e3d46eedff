"""``haremile key``: people, their keys, and addresses that sign a browser in."""

from typing import Annotated

import typer
from rich.console import Console
from rich.table import Table

from haremile.cli.documents import Json, as_document, print_json
from haremile.cli.serve import entry_address
from haremile.cli.session import bench, say
from haremile.config import serving
from haremile.usecases.access import OWNER, Role

app = typer.Typer(no_args_is_help=True, help="People: who may come in, with which role.")

Name = Annotated[str, typer.Argument(help="The person.")]


@app.command("link")
def link(
    name: Annotated[str, typer.Option("--for", help="The person who is then signed in.")] = OWNER,
) -> None:
    """Print an address of the running server that signs one browser in, once."""
    with bench() as opened:
        address, _ = serving(opened.settings.data)
        if name == OWNER:
            opened.access.ensure_person(OWNER, Role.OWN)
        typer.echo(entry_address(opened, address, name))


@app.command("add")
def add(
    name: Name,
    role: Annotated[
        Role, typer.Option(help="look, work (plan, run, set aside), own (keys, recipes).")
    ] = Role.WORK,
) -> None:
    """Make a key of a person; it is shown this once."""
    with bench() as opened:
        typer.echo(opened.access.add_person(name, role))
        say(f"{name} signs in with this key, or sends it as Authorization: Bearer")


@app.command("list")
def list_people(as_json: Json = False) -> None:
    """List people, their roles and how many keys of theirs hold."""
    with bench() as opened:
        if as_json:
            print_json(as_document(opened.access.people()))
            return
        table = Table("person", "role", "keys", box=None)
        for person in opened.access.people():
            table.add_row(person.name, person.role, str(person.keys))
        Console(soft_wrap=True).print(table)


@app.command("revoke")
def revoke(name: Name) -> None:
    """Make a person's keys and sessions worthless; open pages of theirs end."""
    with bench() as opened:
        opened.access.revoke_person(name)
        say(f"every key and session of {name} is worthless now")
