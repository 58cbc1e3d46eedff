"""Space as tools print it: df, du, lsblk."""

import re
from collections.abc import Sequence

from haremile.formats.pasted.pieces import KIB, Line, Piece, Question, Recognised, size

DF_ROW = re.compile(
    r"(\S+)\s+(?:[a-z0-9.]{2,10}\s+)?([\d.,]+[KMGT]?)\s+([\d.,]+[KMGT]?)\s+([\d.,]+[KMGT]?)\s+\d+%\s+(/\S*)\s*"
)
DF_HEAD = re.compile(r"\S.*\s+\S*%\s+.*|\S+\s+1024-blocks\s.*")
INODES = re.compile(r".*\b(?:IUse|IUti|IUso)%.*|.*\bI(?:nodes|nœuds)\b.*", re.IGNORECASE)
BLOCKS = re.compile(r"\b(1K|1024|512B|1M|1048576)-")
BLOCK_BYTES = {"1K": KIB, "1024": KIB, "512B": 512.0, "1M": 2.0**20, "1048576": 2.0**20}


def read_df(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """``df``: the space in use on the root file system."""
    head = lines[at]
    if not DF_HEAD.fullmatch(head.text) or at + 1 >= len(lines):
        return 0
    end = at + 1
    rows = []
    while end < len(lines) and (row := DF_ROW.fullmatch(lines[end].text)):
        rows.append((row, lines[end]))
        end += 1
    if not rows:
        return 0
    roots = [(row[3], line) for row, line in rows if row[5] == "/"]
    last = rows[-1][1].end
    if INODES.fullmatch(head.text):
        says = "these are numbers of files, not space"
        found.questions.append(Question(head.start, last, says))
    elif not roots:
        says = "no line of the root file system: nothing is taken from it"
        found.questions.append(Question(head.start, last, says))
    else:
        _keep_root(found, head, *roots[0])
    return end - at


def _keep_root(found: Recognised, head: Line, figure: str, line: Line) -> None:
    if figure[-1].isalpha():
        keep_lettered(found, line, figure, "df", "disk.used", ON_ROOT)
        return
    blocks = BLOCKS.search(head.text)
    used = size(figure, BLOCK_BYTES[blocks[1]]) if blocks else None
    if used is None:
        says = f"{figure}: in which unit? its heading does not say"
        found.questions.append(Question(line.start, line.end, says))
        return
    piece = Piece(line.start, line.end, "df", "disk.used", used[0], "B", used[1], ON_ROOT)
    found.pieces.append(piece)


ON_ROOT = "space in use on the root file system"
OF_1024 = re.compile(r"\s-[a-zA-Z]*h[a-zA-Z]*\b|--human-readable|\s-[a-zA-Z]*B\s?[KMGT]\b")
OF_1000 = re.compile(r"\s-[a-zA-Z]*H[a-zA-Z]*\b|--si\b")


def keep_lettered(
    found: Recognised, line: Line, figure: str, tool: str, metric: str, says: str
) -> None:
    """Keep a figure such as ``27G``, if its command tells whether that is 1024 or 1000 thrice."""
    pieces = []
    for name, is_decimal in (("powers of 1024", False), ("powers of 1000", True)):
        read = size(figure, 1.0, is_decimal)
        if read is not None:
            meant = f"{says}, {name}"
            pieces.append(Piece(line.start, line.end, tool, metric, read[0], "B", read[1], meant))
    binary, decimal = (bool(way.search(line.command)) for way in (OF_1024, OF_1000))
    if binary == decimal or not pieces:
        asked = f"{figure}: powers of 1024 (with -h), or of 1000 (with -H or --si)?"
        found.questions.append(Question(line.start, line.end, asked, pieces))
    else:
        found.pieces.append(pieces[decimal])


DU_ROW = re.compile(r"([\d.,]+[KMGT]?)\t(\S.*)")


def read_du(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """``du -s`` of the root folder."""
    row = DU_ROW.fullmatch(lines[at].text)
    if row is None:
        return 0
    line = lines[at]
    if row[2].strip() != "/":
        says = f"space of {row[2][:60]} alone: nothing is taken from it"
        found.questions.append(Question(line.start, line.end, says))
        return 1
    if row[1][-1].isalpha():
        keep_lettered(found, line, row[1], "du", "disk.walked", WALKED)
        return 1
    used = size(row[1], KIB)
    if used is None:
        return 0
    if not line.command:
        says = f"{row[1]}: du counts KiB, unless it was told otherwise; is it so?"
        piece = Piece(line.start, line.end, "du", "disk.walked", used[0], "B", used[1], WALKED)
        found.questions.append(Question(line.start, line.end, says, [piece]))
        return 1
    found.pieces.append(
        Piece(line.start, line.end, "du", "disk.walked", used[0], "B", used[1], WALKED)
    )
    return 1


WALKED = "space of all files that were walked"
LSBLK = re.compile(r"NAME\s+.*\b(?:MAJ:MIN|SIZE|TYPE|FSTYPE|ROTA)\b.*")
LSBLK_ROW = re.compile(r"[\s├└│─|`-]*[a-z][\w./-]*\s+.*|\s{8,}(?:/|\[)\S*")


def read_lsblk(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """``lsblk``: understood, but no reading comes from it."""
    if not LSBLK.fullmatch(lines[at].text):
        return 0
    end = at + 1
    while end < len(lines) and LSBLK_ROW.fullmatch(lines[end].text):
        end += 1
    return end - at
