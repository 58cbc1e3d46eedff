"""Whether the host had other work, or too little to give, while a guest ran on it."""

import time
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.cpu import CpuTime, parse_cpu_time

PRESSURE = Path("pressure/cpu")
MICROSECOND = 1e-6
CALM_SHARE = 0.10
"""The host is calm where work waits for a processor for no more of the time."""

LOOK_EVERY_S = 2.0


class _Record(NamedTuple):
    """What the host says of itself at one instant; None for what it does not tell."""

    at: float
    waited_s: float | None
    cpu: CpuTime | None
    throttled: int | None


class HostWatch:
    """Tells what the host did since it was made.

    *Wait*: for how much of the time something waited for a processor (pressure stall information,
    in the kernel's documents). *Steal*: which share of its processors' time the host's own host
    gave to others (``/proc/stat``, proc(5)). *Throttled*: whether a processor slowed down for its
    heat (``thermal_throttle``, in the kernel's ABI documents).

    Parameters
    ----------
    proc, sys : Path
        Where the kernel tells.
    """

    def __init__(self, proc: Path = Path("/proc"), sys: Path = Path("/sys")):
        self._proc, self._sys = proc, sys
        self._begun = self._record()

    def share(self) -> float | None:
        """Of the time for which work waited, between 0 and 1; None where that is not told."""
        return _waited(self._begun, self._record())

    def conditions(self) -> dict[str, str]:
        """As conditions of the run, as far as they are known."""
        now = self._record()
        found: dict[str, str] = {}
        for key, share in (
            ("host_wait", _waited(self._begun, now)),
            ("host_steal", _stolen(self._begun, now)),
        ):
            if share is not None:
                found[key] = f"{share:.0%}".replace("%", " %")
        if now.throttled is not None and self._begun.throttled is not None:
            found["throttled"] = "yes" if now.throttled > self._begun.throttled else "no"
        return found

    def _record(self) -> _Record:
        return _Record(time.monotonic(), self._waited_s(), self._cpu(), self._throttled())

    def _waited_s(self) -> float | None:
        try:
            text = (self._proc / PRESSURE).read_text()
        except OSError:
            return None
        for line in text.splitlines():
            kind, *fields = line.split()
            stated = dict(field.split("=") for field in fields)
            if kind == "some" and "total" in stated:
                return int(stated["total"]) * MICROSECOND
        return None

    def _cpu(self) -> CpuTime | None:
        try:
            return parse_cpu_time((self._proc / "stat").read_text())
        except (OSError, UnreadableError):
            return None

    def _throttled(self) -> int | None:
        places = self._sys.glob("devices/system/cpu/cpu*/thermal_throttle/*_throttle_count")
        try:
            counts = [int(place.read_text()) for place in places]
        except (OSError, ValueError):
            return None
        return sum(counts) if counts else None


def _waited(begun: _Record, now: _Record) -> float | None:
    if begun.waited_s is None or now.waited_s is None or now.at <= begun.at:
        return None
    return min(max((now.waited_s - begun.waited_s) / (now.at - begun.at), 0.0), 1.0)


def _stolen(begun: _Record, now: _Record) -> float | None:
    if begun.cpu is None or now.cpu is None or now.cpu.total <= begun.cpu.total:
        return None
    return (now.cpu.steal - begun.cpu.steal) / (now.cpu.total - begun.cpu.total)


def wait_until_calm(
    most_s: float,
    say: Callable[[float], None],
    new_watch: Callable[[], HostWatch] = HostWatch,
    sleep: Callable[[float], None] = time.sleep,
) -> bool:
    """Wait until work on the host waits for a processor no more than `CALM_SHARE` of the time.

    Parameters
    ----------
    most_s : float
        The longest wait; with 0 there is none.
    say : callable
        Told how long it has been waited, every look.

    Returns
    -------
    bool
        Whether it is calm; true also where the host does not tell.
    """
    waited = 0.0
    while waited < most_s:
        watch = new_watch()
        sleep(LOOK_EVERY_S)
        waited += LOOK_EVERY_S
        share = watch.share()
        if share is None or share <= CALM_SHARE:
            return True
        say(waited)
    return most_s <= 0.0
