import base64
import struct
import zlib

import pytest

from haremile.errors import BadInputError
from haremile.formats.photographs import MOST_BYTES, checked_photograph


def piece(name, body):
    return struct.pack(">I4s", len(body), name) + body + struct.pack(">I", zlib.crc32(name + body))


HEAD = piece(b"IHDR", struct.pack(">IIBBBBB", 1, 1, 8, 2, 0, 0, 0))
PICTURE = piece(b"IDAT", zlib.compress(b"\0\1\2\3"))
PNG = b"\x89PNG\r\n\x1a\n" + HEAD + PICTURE + piece(b"IEND", b"")
PLACED = b"\x89PNG\r\n\x1a\n" + HEAD + piece(b"eXIf", b"II*\0") + PICTURE
FRAME = b"\xff\xe0\x00\x04ab"
JPEG = b"\xff\xd8" + FRAME + b"\xff\xda\x00\x02xx\xff\xd9"
EXIF_JPEG = b"\xff\xd8" + FRAME + b"\xff\xe1\x00\x08Exif\0\0" + b"\xff\xda\x00\x02xx"
WEBP = b"RIFF" + struct.pack("<I", 20) + b"WEBP" + b"VP8 " + struct.pack("<I", 4) + b"abcd"
EXIF_WEBP = WEBP + b"EXIF" + struct.pack("<I", 2) + b"II"


def written(kind, body):
    return f"data:image/{kind};base64,{base64.b64encode(body).decode()}"


@pytest.mark.parametrize(("kind", "body"), [("png", PNG), ("jpeg", JPEG), ("webp", WEBP)])
def test_a_bare_picture_is_kept_as_it_came(kind, body):
    assert checked_photograph(written(kind, body)) == written(kind, body)


@pytest.mark.parametrize(
    ("image", "says"),
    [
        (written("png", PLACED), "where, when or with what"),
        (written("jpeg", EXIF_JPEG), "where, when or with what"),
        (written("webp", EXIF_WEBP), "where, when or with what"),
        (written("gif", b"GIF89a"), "JPEG, a PNG or a WebP"),
        (written("png", JPEG), "none of the kind"),
        (written("png", PNG[:20]), "cut short"),
        (written("jpeg", b"\xff\xd8\xff"), "cut short"),
        ("data:image/png;base64,@@", "cannot be read"),
        (written("png", PNG[:8] + b"x" * MOST_BYTES), "at most"),
    ],
)
def test_anything_else_is_refused(image, says):
    with pytest.raises(BadInputError, match=says):
        checked_photograph(image)
