"""Sizes of a file tree, folder by folder."""

from typing import Dict, NamedTuple, Tuple

from haremile_probe.parsers import UnreadableError

APART: Dict[str, Tuple[str, ...]] = {
    "caches": ("/var/cache", "/root/.cache"),
    "logs": ("/var/log",),
    "package archives": (
        "/var/cache/apt/archives",
        "/var/cache/pacman/pkg",
        "/var/cache/dnf",
        "/var/cache/libdnf5",
        "/var/cache/apk",
        "/var/cache/zypp/packages",
    ),
}
"""Folders whose contents come and go, named apart within the space used. Archives lie in caches."""


WITHOUT = "without "


class Walk(NamedTuple):
    """Bytes in blocks below each top-level folder, files and folders alike, hard links once."""

    total_bytes: int
    top: Dict[str, int]
    apart: Dict[str, int]
    entries: int
    unreadable: int
    left_out: Dict[str, str] = {}  # noqa: RUF012  # a default of a named tuple, never changed


def parse_walk(text: str) -> Walk:
    """Read ``KIND BYTES NAME`` a line, as probe and gatherer write it; kinds are total, top, apart,
    entries and unreadable (the last two are counts), and ``without PATH: REASON`` of what was left
    out.

    Raises UnreadableError on a line of another shape, or where a total is missing.
    """
    kinds: Dict[str, Dict[str, int]] = {}
    left_out: Dict[str, str] = {}
    for line in text.splitlines():
        if line.startswith(WITHOUT):
            path, _, reason = line[len(WITHOUT) :].rpartition(": ")
            left_out[path] = reason
            continue
        words = line.split(" ", 2)
        try:
            number = int(words[1])
        except (IndexError, ValueError):
            raise UnreadableError("not a line of a walk: %r" % line[:80]) from None
        if number < 0:
            raise UnreadableError("not a line of a walk: %r" % line[:80])
        kinds.setdefault(words[0], {})[words[2] if len(words) > 2 else ""] = number
    unknown = set(kinds) - {"total", "top", "apart", "entries", "unreadable"}
    if unknown or "total" not in kinds or "unreadable" not in kinds:
        raise UnreadableError("the walk did not come to its end: %r" % text[:80])
    return Walk(
        kinds["total"].get("", 0),
        kinds.get("top", {}),
        kinds.get("apart", {}),
        kinds.get("entries", {}).get("", 0),
        kinds["unreadable"].get("", 0),
        left_out,
    )
