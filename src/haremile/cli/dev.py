"""``haremile dev``: the server, started anew whenever its code changes, and pages that change under
the eyes."""

import signal
import socket
import subprocess
import sys
from typing import Annotated

import typer

from haremile.cli.serve import entry_address
from haremile.cli.session import bench, say
from haremile.demo.load import load_sample_world
from haremile.errors import MissingHereError
from haremile.processes import child_command, child_environment
from haremile.usecases.access import OWNER, Role

Port = Annotated[int, typer.Option(min=1, max=65535, help="Where the pages are served.")]


def dev(port: Port = 5173) -> None:
    """Serve the sample world for work on the code: both halves follow what is saved."""
    try:
        from watchfiles import PythonFilter, run_process  # noqa: PLC0415  (only where one develops)
    except ImportError as error:
        raise MissingHereError("watchfiles is not there; run ./haremile lint once") from error
    with bench() as opened:
        load_sample_world(opened, opened.intake_here(), say)
        opened.access.ensure_person(OWNER, Role.OWN)
        root, inner = opened.settings.root, _free_port()
        vite = root / "web/node_modules/.bin/vite"
        environment = {**child_environment(), "HAREMILE_API": f"http://127.0.0.1:{inner}"}
        words = ["--host", "127.0.0.1", "--port", str(port), "--strictPort"]
        pages = subprocess.Popen(
            child_command([str(vite), *words]), cwd=root / "web", env=environment
        )
        print(entry_address(opened, f"http://127.0.0.1:{port}/"), flush=True)
        say("the address above signs one browser in; Ctrl-C ends both halves")
        command = f"{sys.executable} -m haremile serve --port {inner}"
        try:
            run_process(
                root / "src", target=command, target_type="command", watch_filter=PythonFilter()
            )
        finally:
            pages.send_signal(signal.SIGTERM)
            pages.wait()


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])
