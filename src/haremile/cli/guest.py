"""``haremile guest``: build, list."""

import typer

from haremile.cli.session import present_settings, say
from haremile.rigs.guest.build import NAMES, GuestImages, build_guests

app = typer.Typer(no_args_is_help=True, help="The tiny real guest systems: build, list.")


@app.command("build")
def build() -> None:
    """Build the guest systems where they are missing or their sources changed."""
    images = GuestImages(present_settings().guests)
    if not images.are_built:
        build_guests(images, say)


@app.command("list")
def list_guests() -> None:
    """List the guest systems and where they lie."""
    images = GuestImages(present_settings().guests)
    for name in NAMES:
        state = images.initrd(name) if images.are_built else "not built"
        typer.echo(f"{name}\t{state}")
