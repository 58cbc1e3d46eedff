"""Serving the pages and the interface."""

import ipaddress
import socket
from typing import Annotated

import typer
import uvicorn

from haremile.api.application import create_app
from haremile.api.guard import Access
from haremile.bench.plan import guest_installs
from haremile.bootstrap import Bench
from haremile.cli.session import bench, say
from haremile.config import DEFAULT_PORT
from haremile.demo.load import load_sample_world
from haremile.errors import BadInputError

LEAST_KEY = 16

Port = Annotated[
    int | None, typer.Option(min=1, max=65535, help="Port on 127.0.0.1; a free one if not given.")
]


Listen = Annotated[str, typer.Option(help="Address to listen on; off loopback a key is needed.")]
Key = Annotated[
    str | None,
    typer.Option(envvar="HAREMILE_KEY", help="What everyone must show, at least 16 characters."),
]
Names = Annotated[list[str] | None, typer.Option("--name", help="A host name that it answers for.")]


def serve(
    port: Port = None, listen: Listen = "127.0.0.1", key: Key = None, name: Names = None
) -> None:
    """Start the database and the server, and print the address."""
    access = checked_access(listen, key, name or [])
    with bench() as opened:
        _serve(opened, port, listen, access)


def checked_access(listen: str, key: str | None, names: list[str]) -> Access:
    """Who may speak with the server. Raises BadInputError off loopback without a proper key."""
    try:
        address = ipaddress.ip_address(listen)
    except ValueError as error:
        raise BadInputError(f"--listen takes a numeric address, not {listen}") from error
    if address.is_loopback:
        return Access(frozenset(names))
    if key is None or len(key) < LEAST_KEY:
        raise BadInputError(
            f"off loopback everyone must show a key: set HAREMILE_KEY to {LEAST_KEY} characters or "
            "more, or give --key"
        )
    shown = f"[{address}]" if address.version == 6 else str(address)
    return Access(frozenset({*names, shown}), address.is_unspecified, key)


def demo(port: Port = None) -> None:
    """Start everything and load the sample world."""
    with bench() as opened:
        load_sample_world(opened.studies, opened.readings, opened.library, say)
        _serve(opened, port, "127.0.0.1", Access())


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


def _serve(opened: Bench, port: int | None, listen: str, access: Access) -> None:
    for install in guest_installs(opened.host):
        opened.library.ensure(install)
    listener = _listen(port, listen)
    app = create_app(opened, opened.url, opened.settings.web, access)
    server = uvicorn.Server(
        uvicorn.Config(
            app, log_level="warning", access_log=False, timeout_graceful_shutdown=2,
        )
    )  # fmt: skip
    host = f"[{listen}]" if ":" in listen else listen
    address = f"http://{host}:{listener.getsockname()[1]}/"
    print(address, flush=True)
    say(f"Hare Mile is ready at {address}  (stop with Ctrl-C)")
    try:
        server.run(sockets=[listener])
    finally:
        listener.close()
