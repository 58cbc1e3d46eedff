"""The versioned messages between a measured machine and the server.

Two forms: the capture document ``haremile-capture/1`` (JSON), and the framed records that a guest
writes line by line on its port::

    HM1 NAME UPTIME
    |first line of the record
    |second line
    HM1 . UPTIME
"""

import json
import re
from dataclasses import MISSING, asdict, dataclass, field, fields, is_dataclass
from typing import Any, Dict, List, NamedTuple, Optional, Tuple, Union, get_type_hints

CAPTURE_FORMAT = "haremile-capture/1"
FRAME = "HM1"
PORT_NAME = "haremile.probe"
FAULT_KINDS = ("denied", "absent", "unreadable", "timed-out")
NOT_MEASURED = "could-not-measure"
"""Nothing came of it because of us, or of a right that is missing: no failure of the system."""

OUTCOMES = ("done", "failed", NOT_MEASURED)
REFUSED = "refused"
"""What the reason of a failed capture begins with where the machine would not do what was asked."""

MOST = 2.0**63
"""No number of a capture is as far from 0 as this."""

MOST_TEXT = 2000
"""Characters of any text but evidence."""

_NAME = re.compile(
    "^[^\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069]*$"
)
"""No control characters, and no marks that turn the direction of what follows."""

MOST_ITEMS = 100_000
"""Readings, faults and pieces of evidence, each."""


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

    @property
    def is_open(self) -> bool:
        """Whether a record has begun and not ended."""
        return self._open is not None

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
    """One value as it was taken, in the unit that it was taken in.

    `conditions` are those of this reading alone, where they differ from those of its capture.
    """

    metric: str
    value: float
    unit: str
    method: str
    resolution: Optional[float] = None
    step: int = 0
    conditions: Dict[str, str] = field(default_factory=dict)


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
    """Read a capture document; raises WireError that names the fault and where it stands."""
    try:
        document: Any = json.loads(body, object_pairs_hook=_object)
    except (ValueError, RecursionError) as error:
        raise WireError("the capture is not JSON: %s" % error) from None
    if not isinstance(document, dict) or document.pop("format", None) != CAPTURE_FORMAT:
        raise WireError("not a capture of format %s" % CAPTURE_FORMAT)
    for name in ("ticket", "conditions", "readings", "traces", "evidence", "faults"):
        if name not in document:  # empty or null where there is none, but said
            raise WireError("the capture lacks %s" % name)
    capture: Capture = _decoded(Capture, document, "the capture")
    if capture.outcome not in OUTCOMES:
        known = ", ".join(OUTCOMES)
        raise WireError("unknown outcome: %s; expected one of %s" % (capture.outcome[:40], known))
    for fault in capture.faults:
        if fault.kind not in FAULT_KINDS:
            known = ", ".join(FAULT_KINDS)
            raise WireError(
                "unknown kind of fault: %s; expected one of %s" % (fault.kind[:40], known)
            )
    for trace in capture.traces:
        if len(trace.times_s) != len(trace.values):
            raise WireError(
                "a trace has %d times and %d values" % (len(trace.times_s), len(trace.values))
            )
    return capture


def _object(pairs: List[Tuple[str, Any]]) -> Dict[str, Any]:
    """An object, none of whose names may stand twice: which of them was meant?"""
    found = dict(pairs)
    if len(found) < len(pairs):
        raise ValueError("a name stands twice in one object")
    return found


def _decoded(wanted: Any, value: Any, where: str) -> Any:
    """The value in the type that a field states; raises WireError that says where it is not."""
    if is_dataclass(wanted):
        return _decoded_record(wanted, value, where)
    shape = getattr(wanted, "__origin__", None)
    if shape is Union:  # Optional
        return None if value is None else _decoded(wanted.__args__[0], value, where)
    if shape in (list, List):
        _expect(isinstance(value, list), "a list", value, where)
        (item,) = wanted.__args__
        _expect(item is float or len(value) <= MOST_ITEMS, "a shorter list", len(value), where)
        return [_decoded(item, one, "%s[%d]" % (where, i)) for i, one in enumerate(value)]
    if shape in (dict, Dict):
        _expect(isinstance(value, dict), "an object", value, where)
        return {
            _text(key, where): _decoded(str, one, "%s.%s" % (where, key[:40]))
            for key, one in value.items()
        }
    if wanted is str:
        return _text(value, where)
    _expect(
        isinstance(value, (int, float)) and not isinstance(value, bool), "a number", value, where
    )
    _expect(abs(value) < MOST, "a finite number", value, where)
    if wanted is int:
        _expect(value == int(value), "a whole number", value, where)
    return wanted(value)


def _decoded_record(wanted: Any, value: Any, where: str) -> Any:
    _expect(isinstance(value, dict), "an object", value, where)
    hints = get_type_hints(wanted)
    known = {one.name: one for one in fields(wanted)}
    for name in value:
        if name not in known:
            raise WireError("%s has an unknown field: %s" % (where, name[:40]))
    for name, one in known.items():
        if name not in value and one.default is MISSING and one.default_factory is MISSING:
            raise WireError("%s lacks %s" % (where, name))
    return wanted(
        **{name: _decoded(hints[name], one, "%s.%s" % (where, name)) for name, one in value.items()}
    )


def _text(value: Any, where: str) -> str:
    _expect(isinstance(value, str), "a text", value, where)
    if not where.endswith(".text") and (len(value) > MOST_TEXT or not _NAME.match(value)):
        raise WireError("%s is too long or holds control characters: %r" % (where, value[:40]))
    try:
        value.encode()
    except UnicodeEncodeError:
        raise WireError("%s holds half a character" % where) from None
    return str(value)


def _expect(is_so: bool, what: str, value: Any, where: str) -> None:
    if not is_so:
        raise WireError("%s: expected %s, met %s" % (where, what, repr(value)[:40]))
