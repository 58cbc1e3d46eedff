"""``allow``: which applications a server may have launched on this machine."""

import argparse

from haremile_probe.enrolled.applications import (
    allowed_line,
    keep_applications,
    proposals,
    read_applications,
)
from haremile_probe.runtime import BadInput, Run

EXAMPLES = """examples: haremile-probe allow                    shows the list
          haremile-probe allow Coppicer=coppicer.desktop
          haremile-probe allow 'Inkwarren=inkwarren --new-window'
          haremile-probe allow --proposed         file manager, browser, office of the menu
          haremile-probe allow --remove Coppicer"""


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``allow``."""
    verb.add_argument(
        "lines", nargs="*", metavar="NAME=COMMAND", help="a name and the command or desktop entry"
    )
    verb.add_argument("--proposed", action="store_true", help="also what the menu proposes")
    verb.add_argument("--remove", action="append", default=[], metavar="NAME")


def act(run: Run) -> int:
    """Change the list as asked, and show it."""
    allowed = read_applications()
    for name in run.asked.remove:
        if name not in allowed:
            raise BadInput("%s is not on the list" % name)
        del allowed[name]
    if run.asked.proposed:
        allowed = {**proposals(), **allowed}
    allowed.update(allowed_line(text) for text in run.asked.lines)
    if run.asked.remove or run.asked.proposed or run.asked.lines:
        keep_applications(allowed)
    for name, command in sorted(allowed.items()):
        print("%s=%s" % (name, command))
    if not allowed:
        print("no application may be launched from the server; haremile-probe allow --help")
    return 0
