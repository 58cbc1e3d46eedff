"""Files that a tester brings: captures of the probe, gathered texts, readings files."""

import json
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from uuid import UUID

from haremile.core.records.bounds import (
    MOST_NUMBER,
    checked_resolution,
    checked_text,
    checked_value,
    parse_instant,
)
from haremile.core.records.conditions import checked
from haremile.core.records.metrics import METHODS, Metric, check_possible, metric
from haremile.core.records.procedures import PROCEDURES
from haremile.core.records.units import in_unit
from haremile.errors import BadInputError, HareMileError, UnitError
from haremile.formats.column_map import ColumnMap, parse_mapped
from haremile.formats.readings_csv import MOST_BYTES, ReadingLine, parse_readings, rows_in
from haremile_probe.gathered import FIRST, parse_gathered
from haremile_probe.interpret import PROCEDURES as INTERPRETED
from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.service_manager import parse_units
from haremile_probe.wire import (
    CAPTURE_FORMAT,
    Capture,
    CaptureReading,
    WireError,
    load_capture,
)

GATHERED = "haremile-gather/1"
READINGS = "readings-csv"
MIB = 2**20
MOST_TRACES, MOST_POINTS = 200, 200_000


@dataclass(frozen=True)
class Brought:
    """One thing found in a file: a capture with the bytes that are kept of it, or a readings file.

    Attributes
    ----------
    file : str
        The file's name, as it was given.
    kind : str
        ``haremile-capture/1``, ``haremile-gather/1`` or ``readings-csv``.
    capture : Capture or None
        None of a readings file.
    lines : sequence of ReadingLine
        Of a readings file; else empty.
    column_map : ColumnMap or None
        By which it was read, where its columns are none of ours.
    """

    file: str
    kind: str
    body: bytes
    capture: Capture | None
    lines: Sequence[ReadingLine] = ()
    column_map: ColumnMap | None = None


def parse_brought(
    file: str,
    body: bytes,
    progress: Callable[[int, int], None] = lambda rows, of: None,
    column_map: ColumnMap | None = None,
) -> list[Brought]:
    """Recognise what a file holds by what stands in it, whatever its name.

    `progress` is told how many rows of a readings file are read, and of how many; `column_map` says
    what its columns mean, where they are none of ours.

    Raises
    ------
    BadInputError
        That names the file and what is wrong with it; nothing of a faulty file is used.
    """
    if len(body) > MOST_BYTES:
        raise too_large(file, len(body))
    kind = kind_of(body)
    try:
        if kind == CAPTURE_FORMAT:
            return [Brought(file, CAPTURE_FORMAT, body, checked_capture(load_capture(body)))]
        if kind == GATHERED:
            return [_gathered(file, part) for part in _parts(body)]
        lines = readings_in(body, progress, column_map)
        return [Brought(file, READINGS, body, None, lines, column_map)]
    except (WireError, HareMileError) as error:
        raise BadInputError(f"{file}: {error}") from None


def readings_in(
    body: bytes, progress: Callable[[int, int], None], column_map: ColumnMap | None
) -> list[ReadingLine]:
    """The lines of a readings file, or of a table whose columns the map explains."""
    rows = rows_in(body)

    def tell(done: int) -> None:
        progress(done, rows)

    return (
        parse_readings(body, tell) if column_map is None else parse_mapped(body, column_map, tell)
    )


def kind_of(body: bytes) -> str:
    """What a file is, by how it begins; a readings file where it is nothing else."""
    if body.lstrip()[:1] == b"{":
        return CAPTURE_FORMAT
    return GATHERED if body.startswith(FIRST.encode()) else READINGS


def too_large(file: str, size: int) -> BadInputError:
    """What is said of a file beyond the limit."""
    return BadInputError(
        f"{file} holds {size / MIB:.1f} MiB; at most {MOST_BYTES // MIB} MiB are taken in"
    )


def parse_stored(kind: str, body: bytes) -> Capture | None:
    """The capture that kept bytes hold, None where they are no capture.

    Raises
    ------
    BadInputError
        If they cannot be read any more.
    """
    try:
        if kind == CAPTURE_FORMAT:
            return load_capture(body)
        return parse_gathered(body.decode())[0] if kind == GATHERED else None
    except WireError as error:
        raise BadInputError(f"the capture cannot be read: {error}") from error


@dataclass(frozen=True)
class BootUnit:
    """A unit of the service manager; seconds since the kernel began, `ready_s` None where it never
    was."""

    name: str
    start_s: float
    ready_s: float | None


def parse_boot_units(kind: str, body: bytes) -> list[BootUnit] | None:
    """What ran when in a boot, in order of start; None where the evidence does not tell.

    Raises
    ------
    BadInputError
        If what was kept cannot be read.
    """
    capture = parse_stored(kind, body)
    text = capture and capture.text_of("boot-units")
    if not text:
        return None
    try:
        units = parse_units(text)
    except UnreadableError as error:
        raise BadInputError(f"the units of this boot cannot be read: {error}") from error
    return [BootUnit(unit.name, unit.start_s, unit.ready_s) for unit in units]


def _parts(body: bytes) -> list[bytes]:
    """A gathered file, cut where each procedure's texts begin."""
    begin = FIRST.encode()
    pieces = (b"\n" + body).split(b"\n" + begin)[1:]
    return [begin + piece + (b"" if piece.endswith(b"\n") else b"\n") for piece in pieces]


def _gathered(file: str, part: bytes) -> Brought:
    text = part.decode("utf-8", "replace")
    return Brought(file, GATHERED, text.encode(), checked_capture(parse_gathered(text)[0]))


def parse_capture(body: bytes) -> Capture:
    """Read a capture document and check it. Raises BadInputError."""
    try:
        return checked_capture(load_capture(body))
    except WireError as error:
        raise BadInputError(str(error)) from error


def checked_capture(capture: Capture) -> Capture:
    """The capture, if every metric, unit, method, condition and key in it is one that we know.

    Raises
    ------
    BadInputError
        That names the first fault.
    """
    _check_head(capture)
    checked(capture.conditions)
    for number, reading in enumerate(capture.readings, start=1):
        checked(reading.conditions)
        try:
            _check_reading(reading, capture.conditions)
        except BadInputError as error:
            raise BadInputError(f"reading {number}: {error}") from None
    _check_traces(capture)
    seen = Counter((r.metric, r.method, r.step) for r in capture.readings)
    for (name, method, step), times in seen.items():
        if times > 1:
            raise BadInputError(f"{name} by {method} stands {times} times under step {step}")
    return capture


def _check_reading(reading: CaptureReading, conditions: Mapping[str, str]) -> None:
    known = metric(reading.metric)
    value = _meant(known, reading.value, reading.unit)
    checked_value(value, may_be_negative=known.key.startswith("own."))
    check_possible(known, value, conditions)
    if reading.method not in METHODS:
        raise BadInputError(f"unknown method: {reading.method}")
    step = reading.resolution and _meant(known, reading.resolution, reading.unit)
    checked_resolution(step)
    if not 0 <= reading.step <= MOST_NUMBER:
        raise BadInputError(f"step out of range: {reading.step}")


def _meant(known: Metric, value: float, written: str) -> float:
    """In the unit of what is measured. Raises UnitError."""
    try:
        return in_unit(value, written, known.unit)
    except UnitError as error:
        raise UnitError(f"{known.key}: {error}") from None


def _check_traces(capture: Capture) -> None:
    points = sum(len(trace.values) for trace in capture.traces)
    if len(capture.traces) > MOST_TRACES or points > MOST_POINTS:
        raise BadInputError(
            f"{len(capture.traces)} curves of {points} points together; at most {MOST_TRACES} "
            f"of {MOST_POINTS} are taken"
        )
    for trace in capture.traces:
        known = metric(trace.metric)
        _meant(known, 1.0, trace.unit)
        for number in (*trace.times_s, *trace.values):
            checked_value(number, may_be_negative=True)


def _check_head(capture: Capture) -> None:
    if capture.asked not in {*INTERPRETED, *PROCEDURES}:
        known = ", ".join(dict.fromkeys((*INTERPRETED, *PROCEDURES)))
        raise BadInputError(f"unknown procedure: {capture.asked}; expected one of {known}")
    for what, name in (("system", capture.system), ("machine", capture.machine)):
        if not name.strip() or len(name) > 200 or "\n" in name:
            raise BadInputError(f"the {what} needs a name of one line and at most 200 characters")
        checked_text(name)
    for text in (capture.reason or "", *capture.conditions.values()):
        checked_text(text)
    try:
        UUID(capture.id)
        if capture.ticket is not None:
            UUID(capture.ticket.run)
    except ValueError as error:
        raise BadInputError(f"the capture's id or run is no UUID: {error}") from None
    if capture.ticket is not None and not 1 <= capture.ticket.attempt <= MOST_NUMBER:
        raise BadInputError(f"there is no attempt {capture.ticket.attempt}")
    parse_instant(capture.made_at)


def facts_of(capture: Capture) -> dict[str, str]:
    """What the capture states of its machine in plain text: cores, memory, storage."""
    facts = {key: text for key, text in capture.conditions.items() if key in ("cores", "memory")}
    try:
        stated = json.loads(capture.text_of("facts") or "{}")
        storage = stated["root"]["storage"]
    except (ValueError, KeyError, TypeError, RecursionError):
        return facts
    if isinstance(storage, str) and storage.isprintable() and len(storage) < 100:
        facts["storage"] = storage
    return facts
