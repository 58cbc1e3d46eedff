"""Photographs as evidence: JPEG, PNG and WebP within bounds, with nothing in them but the picture.

The page draws a photograph anew before it sends it, which leaves place, time and device behind.
Here it is seen to that this was done: the pieces of a file that hold such data are looked for by
the structure of its format, and a file that has any is refused.
"""

import base64
import binascii
import struct
from collections.abc import Iterator

from haremile.errors import BadInputError

MOST_PHOTOGRAPHS = 12
MOST_BYTES = 1_500_000
MOST_IMAGE = 2_100_000
"""Characters of a photograph as it is written, base64 in a ``data:`` address."""

KINDS = {
    "data:image/jpeg;base64,": b"\xff\xd8\xff",
    "data:image/png;base64,": b"\x89PNG\r\n\x1a\n",
    "data:image/webp;base64,": b"RIFF",
}
PRIVATE_PNG = {b"eXIf", b"tEXt", b"zTXt", b"iTXt", b"tIME"}
PRIVATE_WEBP = {b"EXIF", b"XMP "}
PRIVATE_JPEG = {0xE1, 0xED, 0xFE}
"""Segments of Exif and XMP, of a photo editor, and of comments (JPEG, ITU-T T.81, annex B)."""


def checked_photograph(image: str) -> str:
    """The photograph as it came, if it is one and holds nothing else. Raises BadInputError."""
    kind = next((known for known in KINDS if image.startswith(known)), None)
    if kind is None:
        raise BadInputError("a photograph is a JPEG, a PNG or a WebP")
    try:
        body = base64.b64decode(image.removeprefix(kind), validate=True)
    except binascii.Error as error:
        raise BadInputError(f"the photograph cannot be read: {error}") from error
    if len(body) > MOST_BYTES:
        raise BadInputError(
            f"a photograph of {len(body) // 1000} kB; at most {MOST_BYTES // 1000} kB are kept"
        )
    if not body.startswith(KINDS[kind]):
        raise BadInputError("the photograph is none of the kind that it says")
    try:
        is_private = any(_private(kind, body))
    except (struct.error, IndexError) as error:
        raise BadInputError("the photograph is cut short") from error
    if is_private:
        raise BadInputError(
            "the photograph says where, when or with what it was taken; take that out first"
        )
    return image


def _private(kind: str, body: bytes) -> Iterator[bool]:
    """For each piece of the file, whether it holds what is nobody's business."""
    if "jpeg" in kind:
        at = 2
        while body[at] == 0xFF and body[at + 1] != 0xDA:  # until the picture itself begins
            yield body[at + 1] in PRIVATE_JPEG
            at += 2 + struct.unpack_from(">H", body, at + 2)[0]
    elif "png" in kind:
        at = 8
        while at < len(body):
            length, name = struct.unpack_from(">I4s", body, at)
            yield name in PRIVATE_PNG
            at += 12 + length
        if at > len(body):
            raise IndexError(at)
    else:
        at = 12
        while at + 8 <= len(body):
            name, length = struct.unpack_from("<4sI", body, at)
            yield name in PRIVATE_WEBP
            at += 8 + length + length % 2
