"""What is made of a procedure's texts: readings, conditions, facts, and faults that add up."""

from typing import Any, Callable, Dict, List, Optional, Sequence, TypeVar

from haremile_probe import VERSION
from haremile_probe.parsers import UnreadableError
from haremile_probe.wire import CaptureReading, CaptureTrace, Fault, Record

T = TypeVar("T")


class Account:
    """Collects what texts say. A text that cannot be read is a fault, never a value."""

    def __init__(self, records: Sequence[Record], faults: Sequence[Fault] = ()):
        self.records = list(records)
        self.faults: List[Fault] = list(faults)
        self.readings: List[CaptureReading] = []
        self.traces: List[CaptureTrace] = []
        self.conditions: Dict[str, str] = {"probe_version": VERSION}
        self.facts: Dict[str, Any] = {}
        self.failure: Optional[str] = None
        """Why what was measured failed itself, where it did."""

    def text(self, name: str) -> Optional[str]:
        """The newest text of that name."""
        return next((r.text for r in reversed(self.records) if r.name == name), None)

    def all(self, name: str) -> List[Record]:
        """Every record of that name, in order."""
        return [record for record in self.records if record.name == name]

    def read(self, name: str, parse: Callable[[str], T]) -> Optional[T]:
        """What the parser makes of the newest text; None where there is none or it is garbled."""
        text = self.text(name)
        return None if text is None else self.parsed(name, parse, text)

    def parsed(self, name: str, parse: Callable[[str], T], text: str) -> Optional[T]:
        """What the parser makes of this text; a fault and None where it is garbled."""
        try:
            return parse(text)
        except UnreadableError as error:
            fault = Fault("unreadable", "%s: %s" % (name, error))
            if fault not in self.faults:
                self.faults.append(fault)
            return None

    def add(
        self,
        metric: str,
        value: Optional[float],
        unit: str,
        method: str,
        resolution: Optional[float] = None,
    ) -> None:
        """A reading, if there is a value."""
        if value is not None:
            self.readings.append(CaptureReading(metric, value, unit, method, resolution))

    def condition(self, key: str, value: Optional[str]) -> None:
        """A condition, if it is known."""
        if value is not None:
            self.conditions[key] = value
