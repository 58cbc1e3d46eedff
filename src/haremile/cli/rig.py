"""``haremile rig``: what can operate which install, and the keys of enrolled machines."""

from typing import Annotated

import typer
from rich.console import Console
from rich.table import Table

from haremile.cli.documents import Json, as_document, print_json
from haremile.cli.session import bench, say
from haremile.config import serving
from haremile.core.records.study import Install, Machine, System
from haremile.errors import BadInputError
from haremile.formats.probe_archive import enrol_line
from haremile.usecases.enrolled import SWITCHINGS, switched

app = typer.Typer(no_args_is_help=True, help="Rigs: what can operate which machine.")

SystemName = Annotated[str, typer.Argument(help="The system, as it is to be shown.")]
MachineName = Annotated[str, typer.Option("--machine", help="The machine, as it is to be shown.")]
Settings = Annotated[
    list[str] | None,
    typer.Option("--set", help="A line of the recipe, as NAME=VALUE; may be given again."),
]


@app.command("list")
def list_rigs(as_json: Json = False) -> None:
    """List installs that a rig can operate."""
    with bench() as opened:
        signs = {sign.machine: sign for sign in opened.machines.signs()}
        if as_json:
            operated = [one for one in opened.library.installs() if one.rig is not None]
            print_json({"installs": as_document(operated), "signs": as_document(signs)})
            return
        table = Table("system", "machine", "run by", "recipe", "last sign", box=None)
        for install in opened.library.installs():
            if install.rig is None:
                continue
            recipe = ", ".join(f"{key}={value}" for key, value in sorted(install.recipe.items()))
            sign = signs.get(install.machine.name)
            seen = f"{sign.seen_at:%Y-%m-%d %H:%M:%S}" if sign else ""
            table.add_row(install.system.name, install.machine.name, install.rig, recipe, seen)
        Console(soft_wrap=True).print(table)


@app.command("key")
def new_key(
    machine: Annotated[str, typer.Argument(help="The machine; it is noted if it is new.")],
    revoke: Annotated[bool, typer.Option("--revoke", help="Make all its keys worthless.")] = False,
) -> None:
    """Make a key by which a machine may enrol; it is shown this once."""
    with bench() as opened:
        if revoke:
            say(f"{opened.machines.revoke_keys(machine)} keys of {machine} are worthless now")
            return
        opened.library.ensure_machine(Machine(machine))
        typer.echo(opened.machines.new_key(machine))
        try:
            line = enrol_line(*serving(opened.settings.data))
            say(f"there, paste this and then type the key:\n{line}")
        except BadInputError:
            say("start the server with --listen, and this command prints the line to paste there")


@app.command("here")
def add_here(system: SystemName, machine: MachineName, settings: Settings = None) -> None:
    """Note this machine's own system, on which idle, footprint and launches can be measured."""
    with bench() as opened:
        place = Machine(machine, "physical", opened.host)
        made = Install(System(system), place, rig="here", recipe=recipe_of(settings))
        typer.echo(opened.library.ensure(made).id)


@app.command("switch")
def switch(
    system: SystemName,
    machine: MachineName,
    way: Annotated[str, typer.Option(help=", ".join(SWITCHINGS))],
    entry: Annotated[
        str | None, typer.Option(help="Boot0003 of the firmware, or the boot loader's entry.")
    ] = None,
) -> None:
    """State how an enrolled machine comes into one of its installs."""
    with bench() as opened:
        known = [
            install
            for install in opened.library.installs()
            if (install.system.name, install.machine.name) == (system, machine)
        ]
        if not known:
            raise BadInputError(f"{system} on {machine} is not enrolled")
        typer.echo(opened.library.ensure(switched(known[0], way, entry)).id)


def recipe_of(settings: list[str] | None) -> dict[str, str]:
    """Lines of a recipe by name. Raises BadInputError."""
    recipe = {}
    for text in settings or ():
        name, mark, value = text.partition("=")
        if not mark or not name.strip():
            raise BadInputError(f"a line of the recipe is written as NAME=VALUE, not {text}")
        recipe[name.strip()] = value.strip()
    return recipe
