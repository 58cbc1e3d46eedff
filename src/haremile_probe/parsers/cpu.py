"""``/proc/cpuinfo``, the first line of ``/proc/stat``, ``/proc/uptime``."""

import re
from typing import NamedTuple, Optional

from haremile_probe.parsers import UnreadableError

_MODEL_KEYS = ("model name", "Model", "cpu model", "Hardware")


class Processor(NamedTuple):
    """What the kernel says of the processor; `is_guest` where it knows of a hypervisor."""

    cores: int
    model: Optional[str]
    is_guest: bool


def parse_cpuinfo(text: str) -> Processor:
    """Read cores, model name and whether a hypervisor is announced.

    Raises UnreadableError where no processor is listed.
    """
    cores = len(re.findall(r"^processor\s*:\s*\d+\s*$", text, re.MULTILINE))
    if cores == 0:
        raise UnreadableError("cpuinfo lists no processor: %r" % text[:80])
    names = [re.search(r"^%s\s*:\s*(.+)$" % key, text, re.MULTILINE) for key in _MODEL_KEYS]
    model = next((match for match in names if match is not None), None)
    flags = re.search(r"^(?:flags|Features)\s*:(.*)$", text, re.MULTILINE)
    is_guest = flags is not None and "hypervisor" in flags.group(1).split()
    return Processor(cores, model.group(1).strip() if model else None, is_guest)


class CpuTime(NamedTuple):
    """Ticks that all cores spent, in all and doing nothing, since boot; and what was stolen of them
    by a host, within `total`."""

    total: int
    idle: int
    steal: int = 0


def parse_cpu_time(text: str) -> CpuTime:
    """Read the ``cpu`` line of ``/proc/stat``: guest time is within user time, and counted once.

    Raises UnreadableError where the line is missing or of another shape.
    """
    match = re.search(r"^cpu +(\d[\d ]*)$", text, re.MULTILINE)
    fields = [int(word) for word in match.group(1).split()] if match else []
    if len(fields) < 5:
        raise UnreadableError("stat holds no line of all processors: %r" % text[:80])
    steal = fields[7] if len(fields) > 7 else 0
    return CpuTime(sum(fields[:8]), fields[3] + fields[4], steal)


def busy_share(first: CpuTime, last: CpuTime) -> float:
    """Share of all cores' time between two records that was not idle.

    Raises UnreadableError where no time passed between them.
    """
    total = last.total - first.total
    if total <= 0 or not 0 <= last.idle - first.idle <= total:
        raise UnreadableError("the two records of processor time do not follow one another")
    return 1.0 - (last.idle - first.idle) / total


def parse_uptime(text: str) -> float:
    """Seconds since boot, from ``/proc/uptime``."""
    words = text.split()
    try:
        return float(words[0])
    except (IndexError, ValueError):
        raise UnreadableError("not an uptime: %r" % text[:80]) from None
