"""Where a capture is written, so that nothing that was measured is lost at the end."""

import os
import sys
import tempfile
from typing import Callable, List, Optional

Say = Callable[[str], None]


class NoPlace(Exception):
    """The place that was asked for cannot be written to; nothing was measured yet."""


def target(asked: Optional[str], name: str) -> str:
    """The file that a capture goes to: as asked, of that name in a folder, else of it here."""
    if asked is None:
        return name
    if asked.endswith(os.path.sep) or os.path.isdir(asked):
        return os.path.join(asked, name)
    return asked


def check_place(asked: str) -> None:
    """Try whether the place that was asked for takes a file. Raises NoPlace, which says why not."""
    folder = os.path.dirname(target(asked, "x")) or "."
    try:
        with tempfile.TemporaryFile(dir=folder):
            pass
        if os.path.exists(asked) and not os.path.isdir(asked):
            with open(asked, "ab"):
                pass
    except OSError as error:
        said = "%s cannot be written to: %s" % (asked, error.strerror)
        raise NoPlace("%s; name another place with --out" % said) from None


def keep(body: bytes, asked: Optional[str], name: str, say: Say) -> Optional[str]:
    """Write a capture; where that fails in a second place, and at last to standard output.

    Returns the file that holds it, None where it went to standard output.
    """
    for path in [target(asked, name), *_second_places(name)]:
        try:
            write_whole(path, body)
            return path
        except OSError as error:
            say("%s cannot be written: %s" % (path, error.strerror))
    say("it could be written nowhere and follows on standard output: keep it from there")
    sys.stdout.write(body.decode() + "\n")
    return None


def _second_places(name: str) -> List[str]:
    home = os.path.expanduser("~")
    return [os.path.join(folder, name) for folder in (home, "/var/tmp", tempfile.gettempdir())]


def write_whole(path: str, body: bytes) -> None:
    """Write a file whole or not at all, on the disk itself; raises OSError and leaves nothing."""
    part = path + ".part"
    try:
        with open(part, "wb") as file:
            file.write(body)
            file.flush()
            os.fsync(file.fileno())
        os.replace(part, path)
    except OSError:
        if os.path.exists(part):
            os.remove(part)
        raise
