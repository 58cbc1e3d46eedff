"""The versioned messages between a measured machine and the server.

Two forms: the capture document ``haremile-capture/1`` (JSON), and the framed records that a guest
writes line by line on its port::

    HM1 NAME UPTIME
    |first line of the record
    |second line
    HM1 . UPTIME
"""

import json
from dataclasses import asdict, dataclass, field
from typing import Any, Dict, List, NamedTuple, Optional

CAPTURE_FORMAT = "haremile-capture/1"
FRAME = "HM1"
PORT_NAME = "haremile.probe"
FAULT_KINDS = ("denied", "absent", "unreadable", "timed-out")
OUTCOMES = ("done", "failed")


class WireError(ValueError):
    """A message that is not of the stated form."""


class Record(NamedTuple):
    """A framed record: its name, the machine's uptime in seconds, its text."""

    name: str
    uptime_s: float
    text: str


class RecordReader:
    """Puts framed records together from lines as they arrive."""

    def __init__(self) -> None:
        self._open: Optional[Record] = None
        self._lines: List[str] = []

    def feed(self, line: str) -> Optional[Record]:
        """Take one line; return the record that it completes, if any."""
        if line.startswith("|") and self._open is not None:
            self._lines.append(line[1:])
            return None
        parts = line.split()
        if len(parts) != 3 or parts[0] != FRAME:
            raise WireError("not a framed record: %r" % line[:80])
        if parts[1] != ".":
            self._open = Record(parts[1], float(parts[2]), "")
            self._lines = []
            return None
        if self._open is None:
            raise WireError("a record ended that had not begun")
        done = self._open._replace(text="\n".join(self._lines) + "\n")
        self._open = None
        return done


@dataclass
class CaptureReading:
    """One value as it was taken, in the unit that it was taken in."""

    metric: str
    value: float
    unit: str
    method: str
    resolution: Optional[float] = None
    step: int = 0


@dataclass
class CaptureTrace:
    """A curve: values of a metric over seconds since boot."""

    metric: str
    unit: str
    times_s: List[float]
    values: List[float]


@dataclass
class Evidence:
    """A text kept as it was met."""

    name: str
    text: str


@dataclass
class Fault:
    """Something that could not be read, and in which of four ways."""

    kind: str
    what: str


@dataclass
class Ticket:
    """Which run and which attempt a capture answers."""

    run: str
    attempt: int


@dataclass
class Capture:
    """All that one run brought in."""

    id: str
    made_at: str
    probe: str
    asked: str
    machine: str
    system: str
    outcome: str
    reason: Optional[str] = None
    ticket: Optional[Ticket] = None
    conditions: Dict[str, str] = field(default_factory=dict)
    readings: List[CaptureReading] = field(default_factory=list)
    traces: List[CaptureTrace] = field(default_factory=list)
    evidence: List[Evidence] = field(default_factory=list)
    faults: List[Fault] = field(default_factory=list)

    def text_of(self, name: str) -> Optional[str]:
        """The text of a piece of evidence, None where there is none of that name."""
        for item in self.evidence:
            if item.name == name:
                return item.text
        return None


def dump_capture(capture: Capture) -> bytes:
    """Write a capture as its JSON document, the same bytes for the same content."""
    document = {"format": CAPTURE_FORMAT, **asdict(capture)}
    return json.dumps(document, sort_keys=True, ensure_ascii=False).encode()


def load_capture(body: bytes) -> Capture:
    """Read a capture document; raises WireError that names the fault."""
    try:
        document: Any = json.loads(body)
    except ValueError as error:
        raise WireError("the capture is not JSON: %s" % error) from None
    if not isinstance(document, dict) or document.pop("format", None) != CAPTURE_FORMAT:
        raise WireError("not a capture of format %s" % CAPTURE_FORMAT)
    try:
        ticket = document.pop("ticket")
        parts: Dict[str, Any] = {
            "readings": [CaptureReading(**r) for r in document.pop("readings")],
            "traces": [CaptureTrace(**t) for t in document.pop("traces")],
            "evidence": [Evidence(**e) for e in document.pop("evidence")],
            "faults": [Fault(**f) for f in document.pop("faults")],
        }
        capture = Capture(ticket=Ticket(**ticket) if ticket else None, **parts, **document)
    except (KeyError, TypeError) as error:
        raise WireError("the capture lacks or exceeds its form: %s" % error) from None
    if capture.outcome not in OUTCOMES:
        raise WireError("unknown outcome: %s; expected one of done, failed" % capture.outcome)
    for fault in capture.faults:
        if fault.kind not in FAULT_KINDS:
            known = ", ".join(FAULT_KINDS)
            raise WireError("unknown kind of fault: %s; expected one of %s" % (fault.kind, known))
    return capture
