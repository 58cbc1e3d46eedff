"""Times as tools print them: systemd-analyze, and a shell's time."""

import re
from collections.abc import Sequence

from haremile.formats.pasted.pieces import Line, Piece, Question, Recognised

STARTUP = re.compile(r"Startup finished in (.+?)\s*(?:=\s*(.+?))?\s*$")
PART = re.compile(r"((?:[\d.]+(?:h|min|ms|us|s)\s*)+)\((\w+)\)")
FIGURE = re.compile(r"([\d.]+)(h|min|ms|us|s)")
SECONDS = {"h": 3600.0, "min": 60.0, "s": 1.0, "ms": 1e-3, "us": 1e-6}
PARTS = {
    "firmware": "boot.firmware",
    "loader": "boot.loader",
    "kernel": "boot.kernel",
    "initrd": "boot.initrd",
    "userspace": "boot.userspace",
}
TARGET = re.compile(r"(\S+\.target) reached after (.+?) in userspace.*")


def seconds(text: str) -> tuple[float, float]:
    """A span such as ``1min 2.345s`` in seconds, and the step of its last place."""
    total, step = 0.0, 1.0
    for figure, unit in FIGURE.findall(text):
        rest = figure.partition(".")[2]
        total += float(figure) * SECONDS[unit]
        step = SECONDS[unit] * 10.0 ** -len(rest)
    return total, step


def read_startup(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """``systemd-analyze time``: the parts of the boot, and its whole where it begins with the
    power."""
    line = lines[at]
    match = STARTUP.fullmatch(line.text.strip())
    if match is None:
        return 0
    parts = PART.findall(match[1])
    names = [name for _, name in parts]
    if not parts or any(name not in PARTS for name in names):
        return 0
    for text, name in parts:
        value, step = seconds(text)
        found.pieces.append(
            Piece(
                line.start,
                line.end,
                "systemd-analyze",
                PARTS[name],
                value,
                "s",
                step,
                f"its {name}",
            )
        )
    if match[2]:
        value, step = seconds(match[2])
        if "firmware" in names:
            says = "from power-on to the end of the startup, as the service manager knows it"
            found.pieces.append(
                Piece(line.start, line.end, "systemd-analyze", "boot.total", value, "s", step, says)
            )
        else:
            says = "its sum begins with the kernel, not with the power: no whole boot is taken"
            found.questions.append(Question(line.start, line.end, says))
    used = 1
    if at + 1 < len(lines) and TARGET.fullmatch(lines[at + 1].text.strip()):
        used = 2
    return used


BLAME = re.compile(
    r"\s*(?:[\d.]+(?:h|min|ms|us|s)\s+)+[\w@\\:.-]+\.(?:service|device|mount|socket|target|swap|timer|path|slice|scope|automount)\s*"
)
CHAIN_FIRST = re.compile(r"The time when unit became active or started is printed after.*")


def read_blame(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """``systemd-analyze blame``: units run beside one another, so that nothing adds up."""
    end = at
    while end < len(lines) and BLAME.fullmatch(lines[end].text):
        end += 1
    if end - at < 2:
        return 0
    says = "units start beside one another: their times add up to nothing that is measured"
    found.questions.append(Question(lines[at].start, lines[end - 1].end, says))
    return end - at


def read_chain(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """``systemd-analyze critical-chain``: evidence, no reading."""
    if not CHAIN_FIRST.match(lines[at].text):
        return 0
    end = at + 1
    while end < len(lines) and (
        lines[end].text.startswith("The time the unit")
        or "@" in lines[end].text
        or not lines[end].text.strip()
    ):
        end += 1
    return end - at


REAL = re.compile(r"(real|user|sys)\s+(?:(\d+)m)?(\d+(?:[.,]\d+))s?\s*")
ELAPSED = re.compile(
    r".*?(\d+(?:[.,]\d+))user (\d+(?:[.,]\d+))system (?:(\d+):)?(\d+):(\d+(?:[.,]\d+))elapsed.*"
)


def read_time(lines: Sequence[Line], at: int, found: Recognised) -> int:
    """A shell's ``time``: of which step it is, a person says."""
    line = lines[at]
    match = REAL.fullmatch(line.text.strip())
    if match is not None and match[1] == "real":
        value = int(match[2] or 0) * 60 + float(match[3].replace(",", "."))
        step = 10.0 ** -len(re.split("[.,]", match[3])[1])
        end = at + 1
        while end < len(lines) and REAL.fullmatch(lines[end].text.strip()):
            end += 1
        _ask_time(found, line, value, step)
        return end - at
    old = ELAPSED.fullmatch(line.text.strip())
    if old is None:
        return 0
    value = int(old[3] or 0) * 3600 + int(old[4]) * 60 + float(old[5].replace(",", "."))
    _ask_time(found, line, value, 0.01)
    follows = at + 1 < len(lines) and "pagefaults" in lines[at + 1].text
    return 2 if follows else 1


def _ask_time(found: Recognised, line: Line, value: float, step: float) -> None:
    says = f"{value:g} s of the clock went by for this command: what is it the time of?"
    choices = [
        Piece(line.start, line.end, "time", metric, value, "s", step, "time of the clock")
        for metric in ("install.total", "install.updates", "launch.settled")
    ]
    found.questions.append(Question(line.start, line.end, says, choices))
