"""Memory as tools print it: free, top, vmstat, ps, /proc/meminfo, swapon, zramctl."""

import re
from collections.abc import Sequence
from dataclasses import replace

from haremile.formats.pasted.pieces import (
    KIB,
    MIB,
    Line,
    Piece,
    Question,
    Recognised,
    Stated,
    is_prompt,
    size,
)
from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.meminfo import memory_use, parse_meminfo

USED = "total less available"
SWAP = "swap in use"

FREE_ROW = re.compile(r"\s*([^\s:]{2,12}):((?:\s+\d[\d.,]*[KMGT]?i?B?){3,7})\s*")
FREE_HEAD = re.compile(r"\s{6,}\S+(?:\s+\S+){2,7}\s*")
UNIT_OPTION = re.compile(r"\s(?:-[a-z]*([bkmg])\b|--(bytes|kibi|mebi|gibi|kilo|mega|giga))")
OPTION_BYTES = {
    "b": 1.0,
    "k": KIB,
    "m": MIB,
    "g": 2.0**30,
    "bytes": 1.0,
    "kibi": KIB,
    "mebi": MIB,
    "gibi": 2.0**30,
    "kilo": 1e3,
    "mega": 1e6,
    "giga": 1e9,
}
LEAST_MACHINE, MOST_MACHINE = 32 * MIB, 8 * 2.0**40
"""With less memory nothing runs that has these tools, and more there is not: beyond that the
command was not read right."""

SURE_KIB, SURE_MIB, SURE_BYTES = 2**21, 30_000, 2**31
"""A bare total from the first to the last counts KiB; below the second, MiB: elsewhere it may be
either."""


def read_free(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """``free``: what is in use is computed from total and available, whatever the column *used* of
    that version means."""
    if not FREE_HEAD.fullmatch(lines[at].text) or at + 1 >= len(lines):
        return 0
    row = FREE_ROW.fullmatch(lines[at + 1].text)
    words = lines[at].text.split()
    if row is None or any(any(c.isdigit() for c in word) for word in words):
        return 0
    cells = row[2].split()
    if len(cells) != len(words) or len(cells) < 6 or None in [size(cell) for cell in cells]:
        return 0
    end = at + 2
    is_old = end < len(lines) and lines[end].text.lstrip().startswith("-/+")
    end += is_old
    swap = FREE_ROW.fullmatch(lines[end].text) if end < len(lines) else None
    unit = _free_unit(lines[at], cells)
    place = lines[at + 1]
    if unit is None:
        _ask_unit(found, place, cells)
    else:
        is_si = "--si" in lines[at].command
        sizes = [size(cell, unit, is_si) for cell in cells]
        if is_old:
            says = "this version of free states no available memory: its used counts caches too"
            found.questions.append(Question(place.start, place.end, says))
        elif None not in sizes:
            (total, step), (available, other) = sizes[0], sizes[-1]  # type: ignore[misc]
            _keep_used(found, place, max(total - available, 0.0), step + other)
        if swap is not None:
            used = size(swap[2].split()[1], unit, is_si)
            if used is not None:
                line = lines[end]
                found.pieces.append(
                    Piece(line.start, line.end, "free", "memory.swap_used", *used_of(used), SWAP)
                )
    end += swap is not None
    while end < len(lines) and FREE_ROW.fullmatch(lines[end].text):
        end += 1  # sums of memory and swap
    return end - at


def _keep_used(found: Recognised, place: Line, used: float, step: float) -> None:
    """Keep memory in use, unless its figures are rounded so coarsely that nothing is left of it."""
    piece = Piece(
        place.start, place.end, "free", "memory.used", used, "B", step, f"{USED}, as rounded there"
    )
    if used < step:
        says = "total and available are rounded so coarsely that their difference says little: "
        says += "free -m tells it"
        found.questions.append(Question(place.start, place.end, says, [piece]))
    else:
        found.pieces.append(replace(piece, definition=USED))


def used_of(found: tuple[float, float]) -> tuple[float, str, float]:
    """A size as a piece wants it: value, unit, step."""
    return found[0], "B", found[1]


def _free_unit(head: Line, cells: Sequence[str]) -> float | None:
    """Bytes in one of the row's figures; None where that may be two things."""
    if any(cell[-1].isalpha() for cell in cells):
        is_open = any(cell[-1] in "KMGT" for cell in cells) and "--si" not in head.command
        return None if is_open else 1.0
    option = UNIT_OPTION.search(head.command)
    total = float(cells[0].replace(",", "."))
    if head.command:
        unit = OPTION_BYTES[option[1] or option[2]] if option else KIB
        return unit if LEAST_MACHINE <= total * unit <= MOST_MACHINE else None
    if total * KIB > MOST_MACHINE:
        return 1.0
    if SURE_KIB <= total < SURE_BYTES:
        return KIB
    return MIB if 64 <= total < SURE_MIB else None


def _ask_unit(found: Recognised, place: Line, cells: Sequence[str]) -> None:
    """Ask in which unit a row of ``free`` is."""
    is_lettered = any(cell[-1] in "KMGT" for cell in cells)
    if is_lettered:
        ways = (("powers of 1024", 1.0, False), ("powers of 1000", 1.0, True))
        says = f"{cells[0]}: powers of 1024, or (with --si) of 1000?"
    else:
        ways = (("KiB", KIB, False), ("MiB", MIB, False))
        says = f"a total of {cells[0]}: in which unit? (free counts KiB, with -m MiB)"
    choices = []
    for name, unit, is_si in ways:
        total, available = size(cells[0], unit, is_si), size(cells[-1], unit, is_si)
        if total is None or available is None:
            continue
        value, step = max(total[0] - available[0], 0.0), total[1] + available[1]
        meant = f"{USED}, figures in {name}"
        choices.append(
            Piece(place.start, place.end, "free", "memory.used", value, "B", step, meant)
        )
    found.questions.append(Question(place.start, place.end, says, choices))


TOP_TASKS = re.compile(
    r"(?:Tasks|Threads|Aufgaben|Tâches|Tareas):\s+(\d+)\s+total.*", re.IGNORECASE
)
TOP_MEMORY = re.compile(
    r"([KMGT]i?B) Mem\s*:\s*([\d.,]+)[+ ]total,\s*([\d.,]+)[+ ]free,\s*([\d.,]+)[+ ]used.*"
)
TOP_SWAP = re.compile(
    r"([KMGT]i?B) Swap\s*:\s*([\d.,]+)[+ ]total,\s*([\d.,]+)[+ ]free,\s*([\d.,]+)[+ ]used\.\s*"
    r"([\d.,]+)[+ ]avail Mem.*"
)
TOP_FIRST = re.compile(r"top - \d\d:\d\d:\d\d up .*load average.*")
TOP_ROW = re.compile(r"\s*\d+\s+\S+\s+(?:\d+|rt)\s+-?\d+\s+\S+\s+\S+\s+\S+\s+[A-Z]\s+[\d.,]+\s.*")


def read_top(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """``top -b``, its first screen: later ones are told as not used."""
    if not TOP_FIRST.fullmatch(lines[at].text):
        return 0
    end, memory = at + 1, None
    while end < len(lines) and not TOP_FIRST.fullmatch(lines[end].text):
        text = lines[end].text
        if match := TOP_MEMORY.match(text):
            memory = (match, end)
        elif (match := TOP_SWAP.match(text)) and memory is not None:
            _top_memory(found, lines, memory, (match, end))
        elif not (
            TOP_TASKS.match(text)
            or text.startswith("%Cpu")
            or text.lstrip().startswith("PID ")
            or TOP_ROW.fullmatch(text)
            or not text.strip()
        ):
            break
        end += 1
    return end - at


def _top_memory(
    found: Recognised,
    lines: Sequence[Line],
    memory: "tuple[re.Match[str], int]",
    swap: "tuple[re.Match[str], int]",
) -> None:
    first, second = memory[0], swap[0]
    letter = first[1][0]
    total = size(f"{first[2]}{letter}")
    available = size(f"{second[5]}{letter}")
    used = size(f"{second[4]}{letter}")
    start, end = lines[memory[1]].start, lines[swap[1]].end
    if total and available:
        found.pieces.append(
            Piece(
                start,
                end,
                "top",
                "memory.used",
                max(total[0] - available[0], 0.0),
                "B",
                total[1] + available[1],
                USED,
            )
        )
    if used:
        line = lines[swap[1]]
        found.pieces.append(
            Piece(line.start, line.end, "top", "memory.swap_used", *used_of(used), SWAP)
        )


VMSTAT_HEAD = re.compile(r"\s*r\s+b\s+swpd\s+free\s+.*")
VMSTAT_TOP = re.compile(r"\s*-*procs-*\s+-+memory-+.*")


def read_vmstat(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """``vmstat``: swap alone; it states no available memory."""
    head = at + 1 if VMSTAT_TOP.match(lines[at].text) else at
    if head >= len(lines) or not VMSTAT_HEAD.match(lines[head].text):
        return 0
    end = head + 1
    while (
        end < len(lines) and re.fullmatch(r"[\s\d]+", lines[end].text) and lines[end].text.strip()
    ):
        end += 1
    if end == head + 1:
        return 0
    line = lines[end - 1]
    if any(len(one.text.split()) != len(lines[head].text.split()) for one in lines[head:end]):
        says = "its columns do not fit its heading: nothing is taken from it"
        found.questions.append(Question(line.start, line.end, says))
        return end - at
    option = re.search(r"-S\s*([kKmM])|--unit\s+([kKmM])", lines[at].command)
    letter = (option[1] or option[2]) if option else "K"
    unit = {"k": 1e3, "K": KIB, "m": 1e6, "M": MIB}[letter]
    used = float(line.text.split()[2])
    found.pieces.append(
        Piece(line.start, line.end, "vmstat", "memory.swap_used", used * unit, "B", unit, SWAP)
    )
    return end - at


def read_meminfo(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """``/proc/meminfo``: as the probe reads it."""
    if not re.match(r"MemTotal:\s+\d+ kB", lines[at].text):
        return 0
    end = at
    while end < len(lines) and re.match(r"[A-Za-z_()0-9]+:\s+\d+( kB)?\s*$", lines[end].text):
        end += 1
    text = "\n".join(line.text for line in lines[at:end]) + "\n"
    start, stop = lines[at].start, lines[end - 1].end
    try:
        figures = parse_meminfo(text)
        use = memory_use(figures)
    except UnreadableError as error:
        found.questions.append(Question(start, stop, f"this is not all of /proc/meminfo: {error}"))
        return end - at
    for metric, value, says in (
        ("memory.used", use.used, "MemTotal less MemAvailable"),
        (
            "memory.used_nocache",
            use.used_nocache,
            "without buffers and caches, shared memory in it",
        ),
        ("memory.swap_used", use.swap_used, SWAP),
    ):
        found.pieces.append(
            Piece(start, stop, "/proc/meminfo", metric, float(value), "B", KIB, says)
        )
    memory = f"{round(figures['MemTotal'] / MIB)} MiB"
    found.stated.append(Stated(lines[at].start, lines[at].end, "memory", memory))
    return end - at


def read_swapon(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """``swapon --show`` and ``/proc/swaps``."""
    head = lines[at].text.split()
    if head[:2] not in (["NAME", "TYPE"], ["Filename", "Type"]):
        return 0
    if not head[-1].upper().startswith("PRIO"):
        return 0
    column = 3
    usual = KIB if head[0] == "Filename" else 1.0
    end, total, step = at + 1, 0.0, 0.0
    while end < len(lines):
        cells = lines[end].text.split()
        used = size(cells[column], usual) if len(cells) == 5 else None
        if used is None:
            break
        total, step, end = total + used[0], step + used[1], end + 1
    if end == at + 1:
        return 0
    first, last = lines[at].start, lines[end - 1].end
    whole = Piece(first, last, "swapon", "memory.swap_used", total, "B", step, SWAP)
    return keep_table(lines, at, end, found, [whole])


def read_zramctl(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """``zramctl``: the memory that compressed swap takes."""
    head = lines[at].text.split()
    if head[:1] != ["NAME"] or "COMPR" not in head or "TOTAL" not in head:
        return 0
    column, end, total, step = head.index("TOTAL"), at + 1, 0.0, 0.0
    while end < len(lines) and lines[end].text.startswith("/dev/zram"):
        cells = lines[end].text.split()
        used = size(cells[column]) if len(cells) > column else None
        if used is None:
            break
        total, step, end = total + used[0], step + used[1], end + 1
    if end == at + 1:
        return 0
    first, last = lines[at].start, lines[end - 1].end
    says = "memory that compressed swap takes, with what it loses"
    whole = Piece(first, last, "zramctl", "memory.swap_compressed", total, "B", step, says)
    return keep_table(lines, at, end, found, [whole])


def keep_table(
    lines: Sequence[Line], at: int, end: int, found: Recognised, whole: Sequence[Piece]
) -> int:
    """Keep the sums of a table, if it is whole: what follows it directly may be a row of it."""
    follows = lines[end].text if end < len(lines) else ""
    if follows.strip() and lines[end].command == lines[at].command and not is_prompt(follows):
        says = "the line below may belong to it and cannot be read: is this the whole table?"
        found.questions.append(Question(lines[at].start, lines[end].end, says, whole))
    else:
        found.pieces += whole
    return end - at


PS_HEAD = re.compile(
    r"USER\s+PID\s+%CPU\s+%MEM\s+VSZ\s+RSS\s+TTY\s+STAT\s+START\s+TIME\s+COMMAND\s*"
)
PS_ROW = re.compile(r"\S+\s+\d+\s+[\d.,]+\s+[\d.,]+\s+\d+\s+(\d+)\s+\S+\s+\S+\s+\S+\s+\S+\s+(.*)")


def read_ps(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """``ps aux``: resident memory and number of processes outside the kernel."""
    if not PS_HEAD.fullmatch(lines[at].text):
        return 0
    end, total, count = at + 1, 0.0, 0
    while end < len(lines) and (row := PS_ROW.fullmatch(lines[end].text)):
        is_kernel = row[1] == "0" and row[2].startswith("[")
        total += float(row[1]) * KIB
        count += not is_kernel
        end += 1
    if end == at + 1:
        return 0
    start, stop = lines[at].start, lines[end - 1].end
    if count < 2:
        found.questions.append(Question(start, stop, "is this the whole list of processes?"))
        return end - at
    says = "resident memory of processes: what they share counts several times"
    whole = [
        Piece(start, stop, "ps", "memory.rss", total, "B", KIB, says),
        Piece(start, stop, "ps", "process.count", count, "1", None, "processes outside the kernel"),
    ]
    return keep_table(lines, at, end, found, whole)
