"""Desktop entries: what a menu would start (freedesktop.org Desktop Entry Specification 1.5)."""

import re
import shlex
from typing import Dict, List, NamedTuple, Set

from haremile_probe.parsers import UnreadableError

_FIELD_CODE = re.compile(r"%[fFuUdDnNickvm]")


class DesktopEntry(NamedTuple):
    """Name of an application and the argument list that starts it."""

    name: str
    arguments: List[str]


def parse_desktop_entry(text: str) -> DesktopEntry:
    """Read ``Name`` and ``Exec`` of the main group; field codes for files are left out.

    Raises UnreadableError where there is no command or its quotes do not balance.
    """
    keys: Dict[str, str] = {}
    group = None
    for line in map(str.strip, text.splitlines()):
        if line.startswith("["):
            group = line
        elif group == "[Desktop Entry]" and line and not line.startswith("#"):
            key, _, value = line.partition("=")
            keys.setdefault(key.strip(), value.strip())
    if not keys.get("Exec"):
        raise UnreadableError("the desktop entry holds no command")
    try:
        words = shlex.split(keys["Exec"].replace("\\\\", "\\"))
    except ValueError:
        raise UnreadableError("unbalanced quotes in %r" % keys["Exec"][:80]) from None
    arguments = [_FIELD_CODE.sub("", word).replace("%%", "%") for word in words]
    kept = [word for word, before in zip(arguments, words) if word or not before]
    if not kept:
        raise UnreadableError("the desktop entry holds no command")
    return DesktopEntry(keys.get("Name", kept[0]), kept)


def started_in(text: str, desktops: str) -> List[str]:
    """The autostart entries that a session of these desktops (parted by ``:``) starts, by their
    file names, in order. Each begins with its name in brackets, then what it says of where it is
    started (XDG autostart specification)."""
    found: Dict[str, Dict[str, str]] = {}
    said: Dict[str, str] = {}
    for line in text.splitlines():
        if line.startswith("["):
            said = found.setdefault(line.strip("[]").rpartition(".desktop")[0], {})
        else:
            key, _, value = line.partition("=")
            said.setdefault(key.strip(), value.strip())
    here = set(desktops.split(":"))
    return sorted(name for name, one in found.items() if _is_started(one, here))


def _is_started(said: Dict[str, str], here: Set[str]) -> bool:
    only = {one for one in said.get("OnlyShowIn", "").split(";") if one}
    never = {one for one in said.get("NotShowIn", "").split(";") if one}
    is_hidden = said.get("Hidden", "").lower() == "true"
    return not is_hidden and not here & never and (not only or bool(here & only))
