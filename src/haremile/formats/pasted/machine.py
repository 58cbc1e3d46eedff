"""What a system says of itself: uname, os-release, lscpu, uptime, counts of packages, summaries."""

import re
from collections.abc import Sequence

from haremile.formats.pasted.pieces import Line, Piece, Question, Recognised, Stated, size

UNAME = re.compile(r"Linux\s+(?:(\S+)\s+)?(\d+\.\d+\S*)\s*(?:#.*)?")
KERNEL_ALONE = re.compile(r"(\d+\.\d+\.\d+[-.\w+~]*)")


def read_uname(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """``uname -a`` and ``uname -r``."""
    line = lines[at]
    match = UNAME.fullmatch(line.text.strip())
    kernel = match and match[2]
    if kernel is None and "uname -r" in line.command:
        alone = KERNEL_ALONE.fullmatch(line.text.strip())
        kernel = alone and alone[1]
    if kernel is None:
        return 0
    found.stated.append(Stated(line.start, line.end, "kernel", kernel))
    return 1


OS_RELEASE = re.compile(r'([A-Z][A-Z0-9_]+)=("[^"]*"|\'[^\']*\'|\S*)')


def read_os_release(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """``/etc/os-release``: names the system."""
    end, names = at, {}
    while end < len(lines) and (match := OS_RELEASE.fullmatch(lines[end].text.strip())):
        names[match[1]] = match[2].strip("\"'")
        end += 1
    if not {"PRETTY_NAME", "NAME"} & names.keys() or len(names) < 2:
        return 0
    found.system = names.get("PRETTY_NAME") or names["NAME"]
    return end - at


CPUS = re.compile(r"\s*(?:CPU\(s\)|Prozessor\(en\)|Processeur\(s\)|CPU\(s\)\s*):\s*(\d+)\s*")
LSCPU_FIRST = re.compile(r"\s*(?:Architecture|Architektur|Arquitectura|Arquitetura)\s*:\s*\S+\s*")
NAMED = re.compile(r"\s*[^:\s][^:]{0,60}:\s*.*")


def read_lscpu(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """``lscpu``: the number of cores."""
    if not LSCPU_FIRST.fullmatch(lines[at].text):
        return 0
    end = at
    while end < len(lines) and NAMED.fullmatch(lines[end].text):
        if match := CPUS.fullmatch(lines[end].text):
            line = lines[end]
            found.stated.append(Stated(line.start, line.end, "cores", match[1]))
        end += 1
    return end - at


UPTIME = re.compile(
    r"\s*(?:\d\d:\d\d:\d\d\s+)?up\s+(?:(\d+)\s+(?:days?|Tage?|jours?|días?|dias?),?\s+)?"
    r"(?:(\d+):(\d\d)|(\d+)\s*min),\s+.*(?:load average|Durchschnittslast).*"
)
PRETTY = re.compile(
    r"up\s+(?:(\d+) weeks?(?:, )?)?(?:(\d+) days?(?:, )?)?"
    r"(?:(\d+) hours?(?:, )?)?(?:(\d+) minutes?)?"
)


def read_uptime(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """``uptime``: since when the machine is up."""
    line = lines[at]
    match = UPTIME.fullmatch(line.text)
    if match is not None:
        days, hours, minutes = (int(match[group] or 0) for group in (1, 2, 3))
        seconds = days * 86400 + hours * 3600 + (minutes + int(match[4] or 0)) * 60
    else:
        pretty = PRETTY.fullmatch(line.text.strip())
        if pretty is None or not any(pretty.groups()):
            return 0
        parts = [int(part or 0) for part in pretty.groups()]
        seconds = sum(n * s for n, s in zip(parts, (604800, 86400, 3600, 60), strict=True))
    found.stated.append(Stated(line.start, line.end, "since_boot", f"{seconds} s"))
    return 1


COUNTED = (
    (re.compile(r"\bdpkg-query\b.*-W.*\|\s*wc -l"), "packages that dpkg knows"),
    (re.compile(r"\bdpkg\s+--get-selections.*\|\s*wc -l"), "packages that dpkg knows"),
    (re.compile(r"\brpm\s+-qa\b.*\|\s*wc -l"), "packages that rpm lists"),
    (re.compile(r"\bpacman\s+-Q[qe]*\b.*\|\s*wc -l"), "packages that pacman lists"),
    (re.compile(r"\bapk\s+(?:info|list\s+-I).*\|\s*wc -l"), "packages that apk lists"),
    (re.compile(r"\bxbps-query\s+-l.*\|\s*wc -l"), "packages that xbps lists"),
)
BESIDE = re.compile(r"\b(?:flatpak|snap)\s+list.*\|\s*wc -l")
DPKG_L = re.compile(r"\bdpkg\s+-l\b.*\|\s*wc -l")
DPKG_L_GREP = re.compile(r"\bdpkg\s+-l\b.*grep\s+(?:-c\s+)?['\"]?\^ii")
DPKG_HEADING = 5


def read_count(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """A bare figure below the command that counted it."""
    line = lines[at]
    figure = line.text.strip()
    if not line.command or not re.fullmatch(r"\d{1,7}", figure):
        return 0
    value = int(figure)
    if DPKG_L_GREP.search(line.command):
        found.pieces.append(_packages(line, value, "packages that dpkg has installed"))
        return 1
    if DPKG_L.search(line.command):
        says = f"{DPKG_HEADING} lines of this count are a heading, and removed packages are in it"
        known = "packages that dpkg lists, its heading taken off, removed ones in it"
        choice = _packages(line, max(value - DPKG_HEADING, 0), known)
        found.questions.append(Question(line.start, line.end, says, [choice]))
        return 1
    if BESIDE.search(line.command):
        says = "these come beside the system's packages: nothing is taken from it"
        found.questions.append(Question(line.start, line.end, says))
        return 1
    says = next((one for pattern, one in COUNTED if pattern.search(line.command)), "")
    if not says:
        return 0
    found.pieces.append(_packages(line, value, says))
    return 1


def _packages(line: Line, value: int, says: str) -> Piece:
    return Piece(line.start, line.end, "a count", "package.count", value, "1", None, says)


SUMMARY = re.compile(r"\s*(?:[^\w\s:]{1,40}\s*)?([A-Z][A-Za-z ()/]{1,24}?)\s*[:=]\s+(\S.*)")
MEMORY_OF = re.compile(r"([\d.,]+\s?[KMGT]i?B?)\s*/\s*([\d.,]+\s?[KMGT]i?B?).*", re.IGNORECASE)
PACKAGES_OF = re.compile(r"(\d[\d,.]*)(?:\s*\(([^)]*)\))?(.*)")
SUMMARY_KEYS = {"kernel": "kernel", "linux": "kernel"}
SYSTEM_WORDS = {"os", "distro", "distribution"}
LEAST_SUMMARY = 3


def read_summary(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """A screen of ``Name: value`` lines, as many programs print them. What its memory counts is
    that program's secret, and asked."""
    end, rows = at, []
    while end < len(lines) and (match := SUMMARY.fullmatch(lines[end].text)):
        rows.append((match[1].strip().casefold(), match[2].strip(), lines[end]))
        end += 1
    names = {name.split(" (")[0] for name, _, _ in rows}
    if len(rows) < LEAST_SUMMARY or not names & {"memory", "ram", "packages", "kernel", "uptime"}:
        return 0
    for name, value, line in rows:
        _summary_row(found, name, value, line)
    return end - at


def _summary_row(found: Recognised, name: str, value: str, line: Line) -> None:
    if name in SYSTEM_WORDS:
        found.system = value
    elif name in SUMMARY_KEYS:
        words = value.split()
        kernel = words[-1] if value.startswith("Linux") else words[0]
        found.stated.append(Stated(line.start, line.end, SUMMARY_KEYS[name], kernel))
    elif name in ("memory", "ram") and (match := MEMORY_OF.fullmatch(value)):
        used = size(match[1].replace(" ", ""))
        if used is None:
            return
        choices = [
            Piece(line.start, line.end, "a summary", metric, used[0], "B", used[1], says)
            for metric, says in (
                ("memory.used", "if it is total less available"),
                ("memory.used_nocache", "if it leaves out buffers and caches"),
            )
        ]
        says = "what this program counts as used is not said: which is it?"
        found.questions.append(Question(line.start, line.end, says, choices))
    elif name == "packages" and (match := PACKAGES_OF.fullmatch(value)):
        count = int(re.sub(r"\D", "", match[1]))
        piece = _packages(line, count, f"packages that {match[2] or 'this program'} lists")
        if match[3].strip():
            says = "several lists of packages: the first alone, or none"
            found.questions.append(Question(line.start, line.end, says, [piece]))
        else:
            found.pieces.append(piece)
    elif name.startswith("disk") and (match := MEMORY_OF.fullmatch(value)):
        used = size(match[1].replace(" ", ""))
        if used is not None and name in ("disk", "disk (/)", "disk /"):
            found.pieces.append(
                Piece(
                    line.start,
                    line.end,
                    "a summary",
                    "disk.used",
                    used[0],
                    "B",
                    used[1],
                    "space in use on the root file system",
                )
            )
