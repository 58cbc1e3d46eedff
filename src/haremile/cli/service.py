"""``haremile service``: the server as a service that the machine starts by itself."""

import os
import pwd
import shutil
import subprocess
import sys
from pathlib import Path
from typing import Annotated

import typer

from haremile.cli.session import present_settings, say
from haremile.config import DEFAULT_PORT
from haremile.errors import BadInputError, MissingHereError, NotFoundError
from haremile.service_units import NAME, SYSTEM_DATA, ServiceAsked, unit_place, unit_text

app = typer.Typer(no_args_is_help=True, help="The server as a service: install, remove.")

As = Annotated[
    str | None,
    typer.Option("--as", help="A service of the machine, under this user; without it, your own."),
]


@app.command("install")
def install(
    user: As = None,
    port: Annotated[int, typer.Option(min=1, max=65535, help="Port to listen on.")] = DEFAULT_PORT,
    listen: Annotated[str, typer.Option(help="Address to listen on.")] = "127.0.0.1",
    show: Annotated[bool, typer.Option(help="Print the unit, and change nothing.")] = False,
) -> None:
    """Write the unit, and start it now and after each boot."""
    settings = present_settings()
    data = Path(SYSTEM_DATA) if user else Path(settings.data)
    text = unit_text(
        ServiceAsked(settings.root, Path(sys.executable), data.absolute(), port, listen, user)
    )
    if show:
        typer.echo(text, nl=False)
        return
    if user is not None:
        _for_the_machine(user, data)
    elif os.geteuid() == 0:
        raise BadInputError("as root say under whom it shall run: --as USER")
    place = unit_place(user is not None)
    place.parent.mkdir(parents=True, exist_ok=True)
    place.write_text(text)
    say(f"wrote {place}")
    _manage(user is not None, ["daemon-reload"], ["enable", "--now", NAME])


@app.command("remove")
def remove(user: As = None) -> None:
    """Stop the service and take its unit away; the data stay."""
    place = unit_place(user is not None)
    if not place.exists():
        raise NotFoundError("unit", str(place))
    _manage(user is not None, ["disable", "--now", NAME])
    place.unlink()
    say(f"took {place} away; the data stay")
    _manage(user is not None, ["daemon-reload"])


def _for_the_machine(user: str, data: Path) -> None:
    if os.geteuid() != 0:
        raise BadInputError("a service of the machine is installed as root: sudo ./haremile …")
    try:
        known = pwd.getpwnam(user)
    except KeyError:
        raise BadInputError(
            f"there is no user {user}: useradd --system --create-home {user}"
        ) from None
    if known.pw_uid == 0:
        raise BadInputError("the service is not run as root; name another user")
    data.mkdir(mode=0o700, parents=True, exist_ok=True)
    if data.stat().st_uid != known.pw_uid:
        if any(data.iterdir()):
            raise BadInputError(
                f"{data} holds data of another user; back them up there, and restore them as {user}"
            )
        os.chown(data, known.pw_uid, known.pw_gid)


def _manage(is_system: bool, *commands: list[str]) -> None:
    """Tell the service manager, or say what has to be told where none runs."""
    base = ["systemctl"] if is_system else ["systemctl", "--user"]
    if shutil.which("systemctl") is None or not Path("/run/systemd/system").is_dir():
        for command in commands:
            say(f"no service manager runs here; where one does: {' '.join([*base, *command])}")
        return
    for command in commands:
        done = subprocess.run([*base, *command], capture_output=True, text=True, check=False)
        if done.returncode:
            raise MissingHereError(f"{' '.join([*base, *command])}: {done.stderr.strip()}")
