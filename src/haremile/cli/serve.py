"""Serving the pages and the interface."""

import ipaddress
import json
import os
import socket
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

import typer
import uvicorn

from haremile.api.application import create_app
from haremile.api.connections import server_settings
from haremile.api.guard import Access
from haremile.bootstrap import Bench
from haremile.certificate import Certificate, own_certificate, stated_certificate
from haremile.cli.session import bench, say
from haremile.config import DEFAULT_PORT, SERVING, Settings
from haremile.demo.load import load_sample_world
from haremile.errors import BadInputError
from haremile.usecases.access import OWNER, Role, acting
from haremile.usecases.plan import guest_installs

Port = Annotated[
    int | None, typer.Option(min=1, max=65535, help="Port to listen on; a free one if not given.")
]
Listen = Annotated[
    str, typer.Option(help="Address to listen on; off loopback with encryption, or --plain.")
]
Names = Annotated[list[str] | None, typer.Option("--name", help="A host name that it answers for.")]
CertificateFile = Annotated[
    Path | None, typer.Option("--certificate", help="A certificate (PEM); else one of its own.")
]
KeyFile = Annotated[Path | None, typer.Option("--key-file", help="The certificate's key (PEM).")]
Plain = Annotated[
    bool,
    typer.Option(
        "--plain", help="Off loopback without encryption: browsers elsewhere then only look."
    ),
]

Drain = Annotated[
    int,
    typer.Option(
        min=0, max=3600, help="At the end wait so many seconds for runs that are under way."
    ),
]


@dataclass(frozen=True)
class Listening:
    """Where the server listens, and how."""

    address: str
    access: Access
    certificate: Certificate | None = None

    @property
    def scheme(self) -> str:
        """http, or https with a certificate."""
        return "https" if self.certificate else "http"


def serve(
    port: Port = None,
    listen: Listen = "127.0.0.1",
    name: Names = None,
    certificate: CertificateFile = None,
    key_file: KeyFile = None,
    plain: Plain = False,
    drain: Drain = 0,
) -> None:
    """Start the database and the server, and print the address."""
    with bench() as opened:
        how = listening(opened.settings, listen, name or [], (certificate, key_file), plain)
        _serve(opened, port, how)
        opened.runner.drain(drain)


def listening(
    settings: Settings,
    listen: str,
    names: list[str],
    stated: tuple[Path | None, Path | None] = (None, None),
    plain: bool = False,
) -> Listening:
    """Where and how to listen: off loopback encrypted, by a certificate made here if none is given.

    Raises
    ------
    BadInputError
        If the address is none, or what is stated does not go together.
    """
    try:
        address = ipaddress.ip_address(listen)
    except ValueError as error:
        raise BadInputError(f"--listen takes a numeric address, not {listen}") from error
    if (stated[0] is None) != (stated[1] is None):
        raise BadInputError("--certificate and --key-file go together")
    shown = f"[{address}]" if address.version == 6 else str(address)
    any_address = not address.is_loopback and address.is_unspecified
    access = Access(frozenset({*names, shown}), any_address)
    if stated[0] is not None and stated[1] is not None:
        if plain:
            raise BadInputError("--plain serves without the certificate that is given")
        return Listening(listen, access, stated_certificate(stated[0], stated[1]))
    if address.is_loopback or plain:
        return Listening(listen, access)
    return Listening(listen, access, own_certificate(settings.data, [listen, *names]))


def demo(port: Port = None) -> None:
    """Start everything and load the sample world."""
    with bench() as opened:
        acting.set(None)  # the sample world comes by itself, and nobody did what it tells
        load_sample_world(opened, opened.intake_here(), say)
        _serve(opened, port, Listening("127.0.0.1", Access()))


def _listen(port: int | None, address: str) -> socket.socket:
    """A listening socket: on the port asked for, else on the usual one, else on a free one."""
    for number in (port,) if port is not None else (DEFAULT_PORT, 0):
        family = socket.AF_INET6 if ":" in address else socket.AF_INET
        listener = socket.socket(family)
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listener.bind((address, number))
            listener.listen(128)  # from here on a browser may come, and waits
            return listener
        except OSError as error:
            listener.close()
            if port is not None:
                raise BadInputError(f"port {port} cannot be used: {error.strerror}") from error
    raise BadInputError(f"no port is free on {address}")


def _serve(opened: Bench, port: int | None, how: Listening) -> None:
    acting.set(None)  # what the server does by itself
    for install in guest_installs(opened.host):
        opened.library.ensure(install)
    listener = _listen(port, how.address)
    app = create_app(opened, opened.url, opened.settings.web, how.access)
    settings = server_settings() | (how.certificate.files if how.certificate else {})
    server = uvicorn.Server(uvicorn.Config(app, **settings))
    host = f"[{how.address}]" if ":" in how.address else how.address
    address = f"{how.scheme}://{host}:{listener.getsockname()[1]}/"
    kept = opened.settings.data / SERVING
    facts = {"address": address, "pin": how.certificate.pin if how.certificate else None}
    kept.write_text(json.dumps(facts))
    opened.access.ensure_person(OWNER, Role.OWN)
    _tell(opened, address, how)
    try:
        server.run(sockets=[listener])
    finally:
        listener.close()
        kept.unlink(missing_ok=True)


def _tell(opened: Bench, address: str, how: Listening) -> None:
    """Print the address: with a token that signs one browser in, but never into a service's log."""
    if os.environ.get("JOURNAL_STREAM"):
        say(f"Hare Mile is ready at {address}; ./haremile key link signs a browser in")
    else:
        print(entry_address(opened, address), flush=True)
        say(
            f"Hare Mile is ready: open the address above, which signs one browser in (or: {address}"
            "  once signed in). Stop with Ctrl-C"
        )
    if how.certificate is not None:
        say(f"its certificate is known by its sha256: {how.certificate.pin}")


def entry_address(opened: Bench, address: str, person: str = OWNER) -> str:
    """The server's address with a token that signs one browser in."""
    return f"{address}enter?token={opened.access.new_entry(person)}"
