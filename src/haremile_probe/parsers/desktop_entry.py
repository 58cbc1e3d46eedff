"""Desktop entries: what a menu would start (freedesktop.org Desktop Entry Specification 1.5)."""

import re
import shlex
from typing import Dict, List, NamedTuple, Optional

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


def starts_in(text: str, desktops: str) -> Optional[str]:
    """The file name of an autostart entry, if a session of these desktops (parted by ``:``) starts
    it; None if not. The text is its name in brackets, and what it says of where it is started."""
    name, _, rest = text.partition("\n")
    said: Dict[str, str] = {}
    for line in rest.splitlines():
        key, _, value = line.partition("=")
        said.setdefault(key.strip(), value.strip())
    here = set(desktops.split(":"))
    only = {one for one in said.get("OnlyShowIn", "").split(";") if one}
    never = {one for one in said.get("NotShowIn", "").split(";") if one}
    is_off = said.get("Hidden", "").lower() == "true" or here & never or (only and not here & only)
    return None if is_off else name.strip("[]").rpartition(".desktop")[0]
