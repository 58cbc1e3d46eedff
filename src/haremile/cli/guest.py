"""``haremile guest``: build, list, add."""

from pathlib import Path
from typing import Annotated

import typer

from haremile.cli.documents import Json, as_document, print_json
from haremile.cli.rig import MachineName, Settings, SystemName, recipe_of
from haremile.cli.session import bench, present_settings, say
from haremile.core.records.study import Install, Machine, System
from haremile.errors import BadInputError
from haremile.rigs.guest.build import NAMES, GuestImages, build_guests
from haremile.rigs.guest.debian_build import RECIPES, build_debian, debian_image

app = typer.Typer(no_args_is_help=True, help="Guest systems: build, list, add your own.")


@app.command("build")
def build(
    kinds: Annotated[
        list[str] | None,
        typer.Argument(
            help="bare, desktop, browser: real systems of Debian's packages. Else the tiny."
        ),
    ] = None,
) -> None:
    """Build guest systems where they are missing or their sources changed."""
    folder = present_settings().guests
    images = GuestImages(folder)
    if not kinds and not images.are_built:
        build_guests(images, say)
    for image in [debian_image(folder, kind) for kind in kinds or ()]:
        if not image.is_built:
            build_debian(image, say)
        typer.echo(image.disk)


@app.command("list")
def list_guests(as_json: Json = False) -> None:
    """List the guest systems and where they lie."""
    folder = present_settings().guests
    images = GuestImages(folder)
    found = {name: images.initrd(name) if images.are_built else None for name in NAMES}
    for kind in RECIPES:
        image = debian_image(folder, kind)
        found[kind] = image.disk if image.is_built else None
    if as_json:
        print_json(as_document(found))
        return
    for name, place in found.items():
        typer.echo(f"{name}\t{place or 'not built'}")


@app.command("add")
def add(
    system: SystemName,
    image: Annotated[Path, typer.Option(help="A disk (qcow2, raw, img) or a live system (iso).")],
    machine: MachineName,
    settings: Settings = None,
) -> None:
    """Note a system of your own that boots in a virtual machine of this host."""
    path = image.resolve()
    if not path.is_file():
        raise BadInputError(f"{image} is no file")
    recipe = {"image": str(path), **recipe_of(settings)}
    with bench() as opened:
        place = Machine(machine, "virtual", opened.host)
        made = Install(System(system), place, rig="guest", recipe=recipe)
        opened.guest_rig.check(made)
        typer.echo(opened.library.ensure(made).id)
