"""``allow``: which applications and own commands a server may have started on this machine."""

import argparse
from typing import Dict

from haremile_probe.enrolled.applications import (
    FILE,
    MEASURES,
    allowed_line,
    keep_list,
    proposals,
    read_list,
)
from haremile_probe.runtime import BadInput, Run

EXAMPLES = """examples: haremile-probe allow                    shows the list
          haremile-probe allow Coppicer=coppicer.desktop
          haremile-probe allow 'Inkwarren=inkwarren --new-window'
          haremile-probe allow Menu=menu:super    the session's own menu, by its key, for response
          haremile-probe allow --proposed         file manager, browser, office of the menu
          haremile-probe allow --remove Coppicer
          haremile-probe allow --measure 'Sort_the_seed_list=sort-seeds --quietly'"""


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``allow``."""
    verb.add_argument(
        "lines", nargs="*", metavar="NAME=COMMAND", help="a name and the command or desktop entry"
    )
    verb.add_argument("--proposed", action="store_true", help="also what the menu proposes")
    verb.add_argument("--remove", action="append", default=[], metavar="NAME")
    verb.add_argument(
        "--measure",
        action="append",
        default=[],
        metavar="NAME=COMMAND",
        help="a measure of your own and the command that prints it",
    )


def act(run: Run) -> int:
    """Change the lists as asked, and show them."""
    asked = run.asked
    lists = {FILE: read_list(FILE), MEASURES: read_list(MEASURES)}
    for name in asked.remove:
        holding = [allowed for allowed in lists.values() if name in allowed]
        if not holding:
            raise BadInput("%s is not on the list" % name)
        for allowed in holding:
            del allowed[name]
    if asked.proposed:
        lists[FILE] = {**proposals(), **lists[FILE]}
    lists[FILE].update(allowed_line(text) for text in asked.lines)
    lists[MEASURES].update(allowed_line(text) for text in asked.measure)
    if asked.remove or asked.proposed or asked.lines or asked.measure:
        for file, allowed in lists.items():
            keep_list(file, allowed)
    _show(lists[FILE], "%s=%s")
    _show(lists[MEASURES], "measure %s=%s")
    if not lists[FILE]:
        print("no application may be launched from the server; haremile-probe allow --help")
    return 0


def _show(allowed: Dict[str, str], line: str) -> None:
    for pair in sorted(allowed.items()):
        print(line % pair)
