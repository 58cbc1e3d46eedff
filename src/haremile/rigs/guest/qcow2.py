"""What the head of a qcow2 image says of other files: one that names any is not opened.

The format lets an image name a backing file or an external data file (QEMU's docs/interop/qcow2),
which the emulator would open on this host and show to the guest.
"""

import struct
from pathlib import Path

from haremile.errors import BadInputError

MAGIC = b"QFI\xfb"
HEAD = struct.Struct(">4sIQ")
FEATURES = struct.Struct(">Q")
FEATURES_AT = 72
EXTERNAL_DATA = 1 << 2
EXTENSIONS_AT = {2: 72, 3: 100}
DATA_FILE_NAME = 0x44415441
END = 0
MOST_HEAD = 2**20


def check_image(path: Path) -> None:
    """Raises BadInputError where a qcow2 image is none, or names other files."""
    with path.open("rb") as file:
        check_head(file.read(MOST_HEAD), path.name)


def check_head(head: bytes, name: str) -> None:
    """As `check_image`, from the image's first bytes."""
    if len(head) < FEATURES_AT or head[:4] != MAGIC:
        raise BadInputError(f"{name} is no qcow2 image")
    _, version, backing = HEAD.unpack_from(head)
    if version not in EXTENSIONS_AT:
        raise BadInputError(f"{name} is a qcow2 image of version {version}; 2 and 3 are known")
    features = FEATURES.unpack_from(head, FEATURES_AT)[0] if version == 3 else 0
    if backing:
        raise BadInputError(f"{name} is based on another file; flatten it: qemu-img convert")
    if features & EXTERNAL_DATA or DATA_FILE_NAME in _extensions(head, version):
        raise BadInputError(f"{name} keeps its data in another file; flatten it: qemu-img convert")


def _extensions(head: bytes, version: int) -> set[int]:
    """The kinds of the header's extensions."""
    at = struct.unpack_from(">I", head, 100)[0] if version == 3 else EXTENSIONS_AT[2]
    found = set()
    while at + 8 <= len(head):
        kind, length = struct.unpack_from(">II", head, at)
        if kind == END:
            break
        found.add(kind)
        at += 8 + (length + 7) // 8 * 8
    return found
