"""The machine's own state beside a run: heat, frequency and throttling, looked at all the while."""

import glob
import threading
import time
from typing import List, NamedTuple, Optional

from haremile_probe.collect.sources import Sources

NAME = "machine-state"
EVERY_S = 2.0
MOST_LOOKS = 600
"""Beyond so many looks every second one is dropped, and they are taken half as often."""

MOST_FILES = 64
ZONES = "/sys/class/thermal/thermal_zone*/temp"
CHIPS = "/sys/class/hwmon/hwmon*/temp*_input"
FREQUENCIES = "/sys/devices/system/cpu/cpu*/cpufreq/scaling_cur_freq"
THROTTLES = "/sys/devices/system/cpu/cpu*/thermal_throttle/core_throttle_count"


class _Look(NamedTuple):
    at_s: float
    hottest: Optional[int]
    frequency: Optional[int]
    throttles: Optional[int]

    def line(self) -> str:
        """``seconds millidegrees kilohertz times``; a dash stands for what is not told here."""
        told = ["-" if one is None else "%d" % one for one in self[1:]]
        return " ".join(["%.1f" % self.at_s, *told])


class StateWatch:
    """Looks every two seconds, from a thread of its own, until it is ended.

    A look reads a few small files of the kernel and takes about a millisecond.
    """

    def __init__(self, sources: Sources, every_s: float = EVERY_S):
        self._sources, self._every_s = sources, every_s
        self._zones = self._there(ZONES) or self._there(CHIPS)
        self._frequencies, self._throttles = self._there(FREQUENCIES), self._there(THROTTLES)
        self._looks: List[_Look] = []
        self._over = threading.Event()
        self._begun = time.monotonic()
        self._look()
        self._thread = threading.Thread(target=self._watch, daemon=True)
        self._thread.start()

    def end(self) -> None:
        """Keep what was seen as ``machine-state``; once."""
        if self._over.is_set():
            return
        self._over.set()
        self._thread.join()
        self._look()
        self._sources.add(NAME, "".join(look.line() + "\n" for look in self._looks))

    def _there(self, pattern: str) -> List[str]:
        found = sorted(glob.glob(self._sources.path(pattern)))[:MOST_FILES]
        return [path[len(self._sources.root) :] for path in found]

    def _watch(self) -> None:
        while not self._over.wait(self._every_s):
            self._look()
            if len(self._looks) > MOST_LOOKS:
                self._looks = self._looks[::2]
                self._every_s *= 2.0

    def _look(self) -> None:
        heat, frequencies = self._numbers(self._zones), self._numbers(self._frequencies)
        throttles = self._numbers(self._throttles)
        look = _Look(
            time.monotonic() - self._begun,
            max(heat) if heat else None,
            sum(frequencies) // len(frequencies) if frequencies else None,
            sum(throttles) if throttles else None,
        )
        self._looks.append(look)

    def _numbers(self, paths: List[str]) -> List[int]:
        found = []
        for path in paths:
            try:
                found.append(int(self._sources.text_of(path)))
            except (OSError, ValueError):
                continue  # a zone that is switched off says so each time: the others tell
        return found
