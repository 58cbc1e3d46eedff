"""What ``stat -f`` states of a file system: block size, blocks in all, free blocks."""

import re
from typing import NamedTuple

from haremile_probe.parsers import UnreadableError

_SHAPE = re.compile(r"^block_size=(\d+) blocks=(\d+) free=(\d+)$")


class FileSystem(NamedTuple):
    """Sizes of a file system, in bytes."""

    total_bytes: int
    used_bytes: int


def parse_file_system(text: str) -> FileSystem:
    """Read ``block_size=… blocks=… free=…`` as the guests write it.

    Raises UnreadableError on another shape or on more free blocks than there are.
    """
    match = _SHAPE.match(text.strip())
    if match is None:
        raise UnreadableError("not a file system record: %r" % text[:80])
    size, blocks, free = (int(group) for group in match.groups())
    if free > blocks or size == 0:
        raise UnreadableError("impossible file system record: %r" % text[:80])
    return FileSystem(size * blocks, size * (blocks - free))
