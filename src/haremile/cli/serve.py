"""Serving the pages and the interface."""

import socket
from typing import Annotated

import typer
import uvicorn

from haremile.api.application import create_app
from haremile.bench.plan import guest_installs
from haremile.bootstrap import Bench
from haremile.cli.session import bench, say
from haremile.config import DEFAULT_PORT
from haremile.demo.load import load_sample_world
from haremile.errors import BadInputError

Port = Annotated[
    int | None, typer.Option(min=1, max=65535, help="Port on 127.0.0.1; a free one if not given.")
]


def serve(port: Port = None) -> None:
    """Start the database and the server, and print the address."""
    with bench() as opened:
        _serve(opened, port)


def demo(port: Port = None) -> None:
    """Start everything and load the sample world."""
    with bench() as opened:
        load_sample_world(opened.studies, opened.readings, say)
        _serve(opened, port)


def _listen(port: int | None) -> socket.socket:
    """A listening socket: on the port asked for, else on the usual one, else on a free one."""
    for number in (port,) if port is not None else (DEFAULT_PORT, 0):
        listener = socket.socket()
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listener.bind(("127.0.0.1", number))
            listener.listen(128)  # from here on a browser may come, and waits
            return listener
        except OSError as error:
            listener.close()
            if port is not None:
                raise BadInputError(f"port {port} cannot be used: {error.strerror}") from error
    raise BadInputError("no port is free on 127.0.0.1")


def _serve(opened: Bench, port: int | None) -> None:
    for install in guest_installs(opened.host):
        opened.library.ensure(install)
    listener = _listen(port)
    app = create_app(opened, opened.url, opened.settings.web)
    server = uvicorn.Server(
        uvicorn.Config(
            app, log_level="warning", access_log=False, timeout_graceful_shutdown=2,
        )
    )  # fmt: skip
    address = f"http://127.0.0.1:{listener.getsockname()[1]}/"
    print(address, flush=True)
    say(f"Hare Mile is ready at {address}  (stop with Ctrl-C)")
    try:
        server.run(sockets=[listener])
    finally:
        listener.close()
