"""Whether the host had other work while a guest ran on it."""

import time
from pathlib import Path

PRESSURE = Path("/proc/pressure/cpu")
MICROSECOND = 1e-6


class HostWatch:
    """Tells for how much of the time since it was made something waited for a processor (pressure
    stall information, in the kernel's documents), the time stolen from this host included where it
    is a guest itself."""

    def __init__(self, pressure: Path = PRESSURE):
        self._pressure = pressure
        self._begun, self._at = self._waited_s(), time.monotonic()

    def share(self) -> float | None:
        """Between 0 and 1; None where this kernel does not tell."""
        now, waited_s = time.monotonic(), self._waited_s()
        if self._begun is None or waited_s is None or now <= self._at:
            return None
        return min(max((waited_s - self._begun) / (now - self._at), 0.0), 1.0)

    def conditions(self) -> dict[str, str]:
        """As a condition of the run, where it is known."""
        share = self.share()
        return {} if share is None else {"host_wait": f"{share:.0%}".replace("%", " %")}

    def _waited_s(self) -> float | None:
        try:
            text = self._pressure.read_text()
        except OSError:
            return None
        for line in text.splitlines():
            kind, *fields = line.split()
            stated = dict(field.split("=") for field in fields)
            if kind == "some" and "total" in stated:
                return int(stated["total"]) * MICROSECOND
        return None
