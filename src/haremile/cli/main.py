"""All verbs. Data goes to stdout, everything else to stderr.

Exit codes: 0 done, 1 failed, 2 bad input, 3 something is missing on this machine.
"""

import logging
import signal
import sys
from importlib import import_module
from types import FrameType
from typing import Annotated, NamedTuple

import typer

from haremile import __version__
from haremile.errors import BadInputError, HareMileError, MissingHereError, NotFoundError


class Verb(NamedTuple):
    """Where a verb is: a module of this folder, and its function, or its group of verbs."""

    module: str
    function: str | None = None
    settings: dict[str, bool] | None = None


VERBS = {
    "serve": Verb("serve", "serve"),
    "demo": Verb("serve", "demo"),
    "test": Verb("test_run", "run_tests", {"ignore_unknown_options": True}),
    "lint": Verb("lint", "lint"),
    "dev": Verb("dev", "dev"),
    "study": Verb("study"),
    "conduct": Verb("conduct", "conduct"),
    "db": Verb("db"),
    "guest": Verb("guest"),
    "rig": Verb("rig"),
    "key": Verb("key"),
    "probe": Verb("probe"),
    "package": Verb("package"),
    "service": Verb("service"),
    "take-in": Verb("probe", "take_in"),
    "summary": Verb("calculation", "summary"),
    "compare": Verb("calculation", "compare"),
    "field": Verb("calculation", "field"),
    "plan": Verb("calculation", "plan"),
    "total": Verb("calculation", "total"),
    "import": Verb("readings", "import_readings"),
    "export": Verb("readings", "export_readings"),
    "evidence": Verb("evidence", "evidence"),
}
"""Each is loaded when it is asked for: all of them take seconds."""

INTERRUPTED = 130


def _version(is_asked: bool) -> None:
    if is_asked:
        typer.echo(f"haremile {__version__}")
        raise typer.Exit


def top(
    version: Annotated[
        bool,
        typer.Option("--version", callback=_version, is_eager=True, help="Print it, and end."),
    ] = False,
) -> None:
    """Repeated measurements of Linux systems, compared honestly."""


def command_line(words: list[str]) -> typer.Typer:
    """The verb that is asked for; all of them where none is, or none of that name."""
    app = typer.Typer(
        name="haremile",
        no_args_is_help=True,
        add_completion=False,
        pretty_exceptions_enable=False,
        callback=top,
    )
    known = [word for word in words[:1] if word in VERBS]
    names = known or ([] if words[:1] == ["--version"] else list(VERBS))
    for name in names:
        verb = VERBS[name]
        module = import_module(f"haremile.cli.{verb.module}")
        if verb.function is None:
            app.add_typer(module.app, name=name)
        else:
            app.command(name, context_settings=verb.settings)(getattr(module, verb.function))
    return app


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
        command_line(sys.argv[1:])(prog_name="haremile")
    except HareMileError as error:
        print(f"haremile: {error}", file=sys.stderr)
        sys.exit(exit_code(error))
    except KeyboardInterrupt:
        print("haremile: interrupted", file=sys.stderr)
        sys.exit(INTERRUPTED)
