"""Which applications a server may have launched here, and which commands give a tester's own
measures, by name: this machine's own allow-lists.

What a name stands for is said here and nowhere else; a server that asks for another name, or for a
command, is refused.
"""

import json
import os
import shlex
from typing import Dict, List, NamedTuple, Optional

from haremile_probe.enrolled.enrolment import home_folder
from haremile_probe.jobs import MOST_NAME, NAME
from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.desktop_entry import parse_desktop_entry
from haremile_probe.runtime import BadInput

FILE = "applications.json"
MEASURES = "measures.json"
ENTRY_END = ".desktop"
KINDS = (
    ("files", ("FileManager",), "inode/directory"),
    ("browser", ("WebBrowser",), "x-scheme-handler/http"),
    ("office", ("WordProcessor", "Office"), "application/vnd.oasis.opendocument.text"),
)
"""What is proposed: a kind, the menu categories it has, and what its default opens."""


class MenuEntry(NamedTuple):
    """An application in the system's menu."""

    id: str
    name: str
    categories: List[str]


def read_applications() -> Dict[str, str]:
    """What each name stands for: a command, or the id of a desktop entry."""
    return read_list(FILE)


def keep_applications(allowed: Dict[str, str]) -> None:
    """Keep the list, so that only this user writes it."""
    keep_list(FILE, allowed)


def read_list(name: str) -> Dict[str, str]:
    """A list of what is allowed here. Raises BadInput for one that cannot be read."""
    try:
        with open(os.path.join(home_folder(), name), encoding="utf-8") as file:
            found = json.load(file)
    except FileNotFoundError:
        return {}
    except (OSError, ValueError) as error:
        raise BadInput("the list %s cannot be read: %s" % (name, error)) from None
    return {str(name): str(text) for name, text in found.items()}


def keep_list(name: str, allowed: Dict[str, str]) -> None:
    """Keep a list, so that only this user writes it."""
    os.makedirs(home_folder(), mode=0o700, exist_ok=True)
    path = os.path.join(home_folder(), name)
    handle = os.open(path + ".part", os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(handle, "w", encoding="utf-8") as file:
        json.dump(allowed, file, indent=1, sort_keys=True)
    os.replace(path + ".part", path)


def allowed_line(text: str) -> "tuple[str, str]":
    """``NAME=COMMAND`` or ``NAME=ENTRY.desktop`` as name and what it stands for; or BadInput."""
    name, mark, command = text.partition("=")
    name, command = name.strip(), command.strip()
    if not mark or not command or not NAME.match(name):
        raise BadInput(
            "write NAME=COMMAND, the name of at most %d characters; not %s" % (MOST_NAME, text)
        )
    try:
        shlex.split(command)
    except ValueError as error:
        raise BadInput("%s: %s" % (command, error)) from None
    return name, command


def command_for(name: str, of: str = FILE) -> Optional[List[str]]:
    """What an allowed name stands for, as words; None where it is not allowed."""
    command = read_list(of).get(name)
    return None if command is None else shlex.split(command)


def menu_folders() -> List[str]:
    """Where the menu's entries lie, the user's own first."""
    home = os.environ.get("XDG_DATA_HOME") or os.path.expanduser("~/.local/share")
    shared = os.environ.get("XDG_DATA_DIRS") or "/usr/local/share:/usr/share"
    return [os.path.join(folder, "applications") for folder in [home, *shared.split(":")]]


def read_menu() -> List[MenuEntry]:
    """Everything that the menu shows, each id once."""
    found: Dict[str, MenuEntry] = {}
    for folder in menu_folders():
        try:
            names = sorted(os.listdir(folder))
        except OSError:
            continue  # a folder that is not there holds nothing
        for name in names:
            if name.endswith(ENTRY_END) and name not in found:
                entry = _entry(os.path.join(folder, name), name)
                if entry is not None:
                    found[name] = entry
    return sorted(found.values())


def _entry(path: str, name: str) -> Optional[MenuEntry]:
    try:
        with open(path, encoding="utf-8", errors="replace") as file:
            text = file.read(65536)
        entry = parse_desktop_entry(text)
    except (OSError, UnreadableError):
        return None  # what cannot be read cannot be started from the menu either
    keys = dict(line.partition("=")[::2] for line in text.splitlines() if "=" in line)
    if keys.get("NoDisplay", "").strip() == "true" or keys.get("Hidden", "").strip() == "true":
        return None
    return MenuEntry(
        name, entry.name, [one for one in keys.get("Categories", "").split(";") if one]
    )


def defaults() -> Dict[str, str]:
    """Which entry opens which kind of content, as far as the user or the system says."""
    config = os.environ.get("XDG_CONFIG_HOME") or os.path.expanduser("~/.config")
    found: Dict[str, str] = {}
    for path in [
        *(os.path.join(one, "mimeapps.list") for one in reversed(menu_folders())),
        os.path.join(config, "mimeapps.list"),
    ]:
        try:
            with open(path, encoding="utf-8", errors="replace") as file:
                lines = file.read(262144).splitlines()
        except OSError:
            continue
        for line in lines:
            kind, mark, entries = line.partition("=")
            if mark:
                found[kind.strip()] = entries.split(";")[0].strip()
    return found


def proposals() -> Dict[str, str]:
    """File manager, browser and office of the menu, by the names that they state."""
    menu, usual = read_menu(), defaults()
    found: Dict[str, str] = {}
    for _, categories, content in KINDS:
        fitting = [one for wanted in categories for one in menu if wanted in one.categories]
        chosen = [one for one in fitting if one.id == usual.get(content)] or fitting
        if chosen:
            found[chosen[0].name[:MOST_NAME]] = chosen[0].id
    return found
