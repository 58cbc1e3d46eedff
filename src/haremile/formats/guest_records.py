"""From the records that a machine wrote of itself to readings, each with its definition."""

from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.file_system import parse_file_system
from haremile_probe.parsers.meminfo import memory_use, parse_meminfo
from haremile_probe.parsers.process_stats import parse_process_stats
from haremile_probe.parsers.settling import SettleRule, Settling, settled
from haremile_probe.wire import Capture, CaptureReading, CaptureTrace, Fault

KIB = 1024.0
TINY_RULE = SettleRule(window_s=3.0, timeout_s=60.0)


class MeminfoWatch:
    """Watches ``/proc/meminfo`` records until the settle rule holds."""

    def __init__(self, rule: SettleRule = TINY_RULE):
        self._rule = rule
        self._texts: list[str] = []
        self._times: list[float] = []
        self._levels: list[float] = []
        self._settling: Settling | None = None

    @property
    def rule_text(self) -> str:
        """The rule as a condition value."""
        return self._rule.text

    @property
    def timeout_s(self) -> float:
        """When waiting ends, seconds after the first record."""
        return self._rule.timeout_s

    def add(self, uptime_s: float, meminfo: str) -> bool:
        """Take one record; tell whether the machine is settled."""
        self._texts.append(meminfo)
        self._times.append(uptime_s)
        self._levels.append(float(memory_use(parse_meminfo(meminfo)).used))
        self._settling = settled(self._times, self._levels, self._rule)
        return self._settling is not None

    def picked(self) -> str | None:
        """The record whose level is the settled window's median."""
        return self._texts[self._settling.pick] if self._settling else None

    def trace(self) -> CaptureTrace:
        """Memory in use over uptime."""
        return CaptureTrace("memory.used", "B", list(self._times), list(self._levels))


def add_idle_readings(capture: Capture) -> None:
    """Append the readings that the capture's evidence gives; what cannot be read is a fault."""
    for name, read in (
        ("meminfo", _memory),
        ("processes", _processes),
        ("filesystem", _file_system),
    ):
        text = capture.text_of(name)
        if text is None:
            if not any(fault.what.startswith(name) for fault in capture.faults):
                capture.faults.append(Fault("absent", name))
            continue
        try:
            capture.readings += read(text)
        except UnreadableError as error:
            capture.faults.append(Fault("unreadable", f"{name}: {error}"))


def _memory(text: str) -> list[CaptureReading]:
    use = memory_use(parse_meminfo(text)).by_metric()
    return [CaptureReading(key, value, "B", "probe", KIB) for key, value in use.items()]


def _processes(text: str) -> list[CaptureReading]:
    own = [process for process in parse_process_stats(text) if not process.is_kernel]
    threads = sum(process.threads for process in own)
    return [
        CaptureReading("process.count", len(own), "1", "probe"),
        CaptureReading("thread.count", threads, "1", "probe"),
    ]


def _file_system(text: str) -> list[CaptureReading]:
    return [CaptureReading("disk.used", parse_file_system(text).used_bytes, "B", "statvfs")]
