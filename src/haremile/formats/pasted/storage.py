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
    if INODES.fullmatch(head.text):
        found.questions.append(
            Question(head.start, rows[-1][1].end, "these are numbers of files, not space")
        )
        return end - at
    root = [(row, line) for row, line in rows if row[5] == "/"]
    if not root:
        says = "no line of the root file system: nothing is taken from it"
        found.questions.append(Question(head.start, rows[-1][1].end, says))
        return end - at
    row, line = root[0]
    blocks = BLOCKS.search(head.text)
    is_decimal = re.search(r"\s-[a-zA-Z]*H\b|--si\b", head.command) is not None
    used = size(row[3], BLOCK_BYTES[blocks[1]] if blocks else 1.0, is_decimal)
    is_bare = not row[3][-1].isalpha()
    if used is None or (is_bare and blocks is None):
        found.questions.append(
            Question(line.start, line.end, f"{row[3]}: in which unit? its heading does not say")
        )
        return end - at
    says = "space in use on the root file system"
    if not head.command and not is_bare:
        says += ", powers of 1024"
    found.pieces.append(Piece(line.start, line.end, "df", "disk.used", used[0], "B", used[1], says))
    return end - at


DU_ROW = re.compile(r"([\d.,]+[KMGT]?)\t(\S.*)")


def read_du(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """``du -s`` of the root folder."""
    row = DU_ROW.fullmatch(lines[at].text)
    if row is None:
        return 0
    line = lines[at]
    used = size(row[1], KIB)
    if row[2].strip() != "/" or used is None:
        says = f"space of {row[2][:60]} alone: nothing is taken from it"
        found.questions.append(Question(line.start, line.end, says))
        return 1
    found.pieces.append(
        Piece(
            line.start,
            line.end,
            "du",
            "disk.walked",
            used[0],
            "B",
            used[1],
            "space of all files that were walked",
        )
    )
    return 1


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
