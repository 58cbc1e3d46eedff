"""Our own documents for office and picture programs, in open formats: the same bytes every time.

A text of some forty pages, a sheet of 5,000 rows with sums, a drawing of 2,000
shapes and a picture of 1600 by 1200 pixels. Each step opens a copy of its own.
"""

import io
import random
import zipfile
from functools import lru_cache
from typing import Callable, Dict, List

from haremile_probe.load.kinds import NAMES
from haremile_probe.load.page_set import WORDS, png

TEXT_PARAGRAPHS, SHEET_ROWS, SHEET_COLUMNS, SHAPES = 400, 5000, 8, 2000
PICTURE = (1600, 1200, 300)
STAMP = (1980, 1, 1, 0, 0, 0)
SPACES = " ".join(
    'xmlns:%s="urn:oasis:names:tc:opendocument:xmlns:%s:1.0"' % pair
    for pair in (("office", "office"), ("text", "text"), ("table", "table"))
)
CONTENT = (
    '<?xml version="1.0" encoding="UTF-8"?><office:document-content %s office:version="1.2">'
    "<office:body><office:%s>%s</office:%s></office:body></office:document-content>"
)
MANIFEST = (
    '<?xml version="1.0" encoding="UTF-8"?><manifest:manifest '
    'xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0" manifest:version="1.2">'
    '<manifest:file-entry manifest:full-path="/" manifest:media-type="%s"/>'
    '<manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/>'
    "</manifest:manifest>"
)
OPEN = "application/vnd.oasis.opendocument."


@lru_cache(maxsize=len(NAMES))
def document(kind: str) -> bytes:
    """The document of a kind in `NAMES`."""
    return _MADE[kind]()


def _packed(kind: str, body: str) -> bytes:
    """An OpenDocument file (OASIS, version 1.2, part 3: the kind comes first, stored)."""
    packed = io.BytesIO()
    media = OPEN + kind
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_STORED) as archive:
        for name, text in (
            ("mimetype", media),
            ("content.xml", CONTENT % (SPACES, kind, body, kind)),
            ("META-INF/manifest.xml", MANIFEST % media),
        ):
            archive.writestr(zipfile.ZipInfo(name, STAMP), text)
    return packed.getvalue()


def _text() -> bytes:
    dice, words = random.Random(11), WORDS.split(" ")
    parts: List[str] = []
    for number in range(TEXT_PARAGRAPHS):
        if number % 20 == 0:
            parts.append('<text:h text:outline-level="1">Drawer %d</text:h>' % (1 + number // 20))
        said = " ".join(dice.choice(words) for _ in range(70)).capitalize()
        parts.append("<text:p>%s.</text:p>" % said)
    return _packed("text", "".join(parts))


def _sheet() -> bytes:
    dice = random.Random(12)
    cell = (
        '<table:table-cell office:value-type="float" office:value="%d"><text:p>%d</text:p>'
        "</table:table-cell>"
    )
    total = '<table:table-cell table:formula="of:=SUM([.A%d:.%s%d])"/>'
    last = chr(ord("A") + SHEET_COLUMNS - 1)
    rows = []
    for number in range(1, SHEET_ROWS + 1):
        values = [dice.randrange(10_000) for _ in range(SHEET_COLUMNS)]
        cells = "".join(cell % (value, value) for value in values)
        whole = cells + total % (number, last, number)
        rows.append("<table:table-row>%s</table:table-row>" % whole)
    return _packed(
        "spreadsheet", '<table:table table:name="Seeds">%s</table:table>' % "".join(rows)
    )


def _drawing() -> bytes:
    dice = random.Random(13)
    shapes = "".join(
        '<circle cx="%d" cy="%d" r="%d" fill="hsl(%d,45%%,45%%)" fill-opacity="0.6"/>'
        % (dice.randrange(2000), dice.randrange(1500), dice.randrange(4, 60), dice.randrange(360))
        for _ in range(SHAPES)
    )
    head = '<svg xmlns="http://www.w3.org/2000/svg" width="2000" height="1500">'
    return (head + shapes + "</svg>").encode()


def _picture() -> bytes:
    return png(*PICTURE)


_MADE: Dict[str, Callable[[], bytes]] = {
    "text": _text,
    "sheet": _sheet,
    "drawing": _drawing,
    "picture": _picture,
}
