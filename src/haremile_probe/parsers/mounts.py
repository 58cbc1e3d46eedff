"""``/proc/self/mountinfo`` and ``/proc/swaps``."""

import re
from typing import Dict, List, NamedTuple

from haremile_probe.parsers import UnreadableError


class Mount(NamedTuple):
    """A mounted file system; `root` is the folder within it that shows at `point`."""

    device_no: str
    point: str
    kind: str
    source: str
    root: str = "/"


class SwapArea(NamedTuple):
    """A swap area; sizes in bytes."""

    path: str
    kind: str
    size_bytes: int
    used_bytes: int


def parse_mountinfo(text: str) -> List[Mount]:
    """Read one mount a line (proc(5)); raises UnreadableError on a line of another shape."""
    found = []
    for line in text.splitlines():
        before, dash, after = line.partition(" - ")
        head, tail = before.split(" "), after.split(" ")
        if not dash or len(head) < 6 or len(tail) < 2:
            raise UnreadableError("not a line of mountinfo: %r" % line[:80])
        found.append(Mount(head[2], _plain(head[4]), tail[0], _plain(tail[1]), _plain(head[3])))
    if not found:
        raise UnreadableError("mountinfo is empty")
    return found


def root_mount(mounts: List[Mount]) -> Mount:
    """The mount that serves ``/``: the last one made there."""
    at_root = [mount for mount in mounts if mount.point == "/"]
    if not at_root:
        raise UnreadableError("nothing is mounted at /")
    return at_root[-1]


def is_below(path: str, folder: str) -> bool:
    """Whether a path is the folder or lies in it."""
    return path == folder or path.startswith(folder.rstrip("/") + "/")


class Reach(NamedTuple):
    """The kind of the file system that is walked, which mount points a walk of it enters, and which
    it leaves out, with the reason."""

    kind: str
    entered: Dict[str, str]
    left_out: Dict[str, str]


def reach_of(mounts: List[Mount], start: str) -> Reach:
    """What of the mounts below a folder belongs to its file system: other parts of it that are
    mounted there (subvolumes) do; other file systems do not, and what is shown a second time (bind
    mounts) is counted where it is.
    """
    base = max((m for m in mounts if is_below(start, m.point)), key=lambda m: len(m.point))
    own = base.root.rstrip("/") + start[len(base.point.rstrip("/")) :]
    counted, reach = [own or "/"], Reach(base.kind, {}, {})
    below = [m for m in mounts if is_below(m.point, start) and m.point not in (start, base.point)]
    for mount in sorted(below, key=lambda m: (len(m.root), m.point)):
        if mount.device_no != base.device_no:
            reach.left_out[mount.point] = "%s, another file system" % mount.kind
        elif any(is_below(mount.root, folder) for folder in counted):
            reach.left_out[mount.point] = "shown a second time there"
        else:
            counted.append(mount.root)
            reach.entered[mount.point] = "another part of the same file system"
    return reach


def parse_swaps(text: str) -> List[SwapArea]:
    """Read ``/proc/swaps``; raises UnreadableError on a line of another shape."""
    lines = text.splitlines()
    if not lines or not lines[0].startswith("Filename"):
        raise UnreadableError("not a list of swap areas: %r" % text[:80])
    found = []
    for line in lines[1:]:
        fields = line.split()
        try:
            sizes = int(fields[2]) * 1024, int(fields[3]) * 1024
        except (IndexError, ValueError):
            raise UnreadableError("not a line of swaps: %r" % line[:80]) from None
        found.append(SwapArea(_plain(fields[0]), fields[1], *sizes))
    return found


def _plain(escaped: str) -> str:
    return re.sub(r"\\([0-7]{3})", lambda match: chr(int(match.group(1), 8)), escaped)
