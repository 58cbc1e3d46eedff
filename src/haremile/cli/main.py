"""All verbs. Data goes to stdout, everything else to stderr.

Exit codes: 0 done, 1 failed, 2 bad input, 3 something is missing on this machine.
"""

import logging
import signal
import sys
from types import FrameType
from typing import Annotated

import typer

from haremile import __version__
from haremile.cli import (
    calculation,
    conduct,
    db,
    dev,
    evidence,
    guest,
    key,
    lint,
    package,
    probe,
    readings,
    rig,
    serve,
    service,
    study,
    test_run,
)
from haremile.errors import BadInputError, HareMileError, MissingHereError, NotFoundError

app = typer.Typer(
    name="haremile",
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    help="Repeated measurements of Linux systems, compared honestly.",
)
app.command()(serve.serve)
app.command()(serve.demo)
app.command("test", context_settings={"ignore_unknown_options": True})(test_run.run_tests)
app.command()(lint.lint)
app.command()(dev.dev)
app.add_typer(study.app, name="study")
app.command()(conduct.conduct)
app.add_typer(db.app, name="db")
app.add_typer(guest.app, name="guest")
app.add_typer(rig.app, name="rig")
app.add_typer(key.app, name="key")
app.add_typer(probe.app, name="probe")
app.add_typer(package.app, name="package")
app.add_typer(service.app, name="service")
app.command("take-in")(probe.take_in)
app.command()(calculation.summary)
app.command()(calculation.compare)
app.command()(calculation.field)
app.command()(calculation.plan)
app.command()(calculation.total)
app.command("import")(readings.import_readings)
app.command("export")(readings.export_readings)
app.command()(evidence.evidence)

INTERRUPTED = 130


def _version(is_asked: bool) -> None:
    if is_asked:
        typer.echo(f"haremile {__version__}")
        raise typer.Exit


@app.callback()
def top(
    version: Annotated[
        bool,
        typer.Option("--version", callback=_version, is_eager=True, help="Print it, and end."),
    ] = False,
) -> None:
    """Repeated measurements of Linux systems, compared honestly."""


def exit_code(error: HareMileError) -> int:
    """The exit code that an error means."""
    if isinstance(error, MissingHereError):
        return 3
    return 2 if isinstance(error, BadInputError | NotFoundError) else 1


def _terminate(_number: int, _frame: FrameType | None) -> None:
    raise KeyboardInterrupt


def main() -> None:
    """Run the command line."""
    logging.basicConfig(level=logging.INFO, stream=sys.stderr, format="%(message)s")
    logging.getLogger("peewee.migrations").setLevel(logging.WARNING)
    logging.getLogger("qemu").setLevel(logging.CRITICAL)  # a guest that ends closes its monitor
    # background jobs of non-interactive shells ignore interrupt: both are set here
    signal.signal(signal.SIGINT, _terminate)
    signal.signal(signal.SIGTERM, _terminate)
    try:
        app(prog_name="haremile")
    except HareMileError as error:
        print(f"haremile: {error}", file=sys.stderr)
        sys.exit(exit_code(error))
    except KeyboardInterrupt:
        print("haremile: interrupted", file=sys.stderr)
        sys.exit(INTERRUPTED)
