"""``haremile-probe NAME``: one measure, taken here, written down as one capture.

Exit codes: 0 done, 1 failed (the capture says why), 2 bad input, 3 something is missing here.
"""

import argparse
import sys
from importlib import import_module
from typing import Any, Dict, Optional, Sequence

from haremile_probe import VERSION
from haremile_probe.jobs import MEASURES
from haremile_probe.keeping import NoPlace, check_place
from haremile_probe.runtime import BadInput, MissingHere, Refused, Run

DONE, FAILED, BAD_INPUT, MISSING = 0, 1, 2, 3
INTERRUPTED = 130
EPILOG = "exit codes: 0 done, 1 failed, 2 bad input, 3 something is missing on this machine"

VERBS: Dict[str, str] = {
    "about": "what this machine and its system state of themselves",
    **{name: measure.says for name, measure in MEASURES.items()},
    "check": "how well the probe measures on this very machine: bias, scatter, resolution",
}
"""What can be measured, each in a module of its name under ``verbs``."""

DEEDS: Dict[str, str] = {
    "enrol": "let this machine work for a server, which then measures on it by plan",
    "work": "ask the server for the next step, do it, and so on",
    "allow": "which applications the server may have launched here, by name",
    "helper": "does what needs root for one user's probe, from a closed list of verbs",
    "leave": "work for no server any more; removes everything that enrolling left",
}
"""What can be done that gives no capture."""


def verb_module(name: str) -> Any:
    """The module of a verb."""
    return import_module("haremile_probe.verbs." + name)


def parser(asked: Sequence[str]) -> argparse.ArgumentParser:
    """The command line; of the verbs, only those named in `asked` are loaded."""
    top = argparse.ArgumentParser(
        prog="haremile-probe",
        epilog=EPILOG,
        description="Takes one measure on this machine and writes one capture. Works without a "
        "server and without root; what cannot be read is named.",
    )
    top.add_argument("--version", action="version", version="haremile-probe " + VERSION)
    verbs = top.add_subparsers(dest="asked", metavar="NAME", required=True)
    for name, says in {**VERBS, **DEEDS}.items():
        module = verb_module(name) if name in asked else None
        verb = verbs.add_parser(
            name,
            help=says,
            description=says,
            epilog=None if module is None else module.EXAMPLES + "\n\n" + EPILOG,
            formatter_class=argparse.RawDescriptionHelpFormatter,
        )
        _common(verb)
        if module is not None:
            module.arguments(verb)
    return top


def _common(verb: argparse.ArgumentParser) -> None:
    verb.add_argument("--json", action="store_true", help="print the capture on stdout")
    verb.add_argument(
        "--out",
        metavar="PLACE",
        help="where the capture goes, a file or a folder; else into this folder",
    )
    verb.add_argument("--machine", help="the machine's name; else its host name")
    verb.add_argument("--system", help="the system's name; else what it states of itself")
    verb.add_argument("--quiet", action="store_true", help="no progress on stderr")


def main(arguments: Optional[Sequence[str]] = None) -> int:
    """Run the command line; return the exit code."""
    words = sys.argv[1:] if arguments is None else list(arguments)
    try:
        asked = parser(words[:1]).parse_args(words)
    except SystemExit as stop:
        return int(stop.code or 0)
    run = Run(asked)
    try:
        if asked.asked in DEEDS:
            return int(verb_module(asked.asked).act(run))
        return _measure(run)
    except (BadInput, MissingHere, NoPlace, Refused, OSError) as error:
        codes = {BadInput: BAD_INPUT, NoPlace: BAD_INPUT, MissingHere: MISSING}
        return _refuse(str(error), codes.get(type(error), FAILED))
    except KeyboardInterrupt:
        return _refuse("interrupted; nothing was written", INTERRUPTED)


def _measure(run: Run) -> int:
    if run.asked.out:
        check_place(run.asked.out)
    if run.asked.asked in MEASURES:
        run.watch_state()
    capture = verb_module(run.asked.asked).read(run)
    written = run.write(capture)
    if not run.asked.json:
        for line in run.summary(capture):
            print(line)
        if written:
            print("capture: %s" % written)
    return DONE if capture.outcome == "done" else FAILED


def _refuse(said: str, code: int) -> int:
    print("haremile-probe: %s" % said, file=sys.stderr)
    return code
