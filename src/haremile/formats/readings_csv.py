"""Readings as CSV, in and out. `docs/formats.md` describes the columns."""

import csv
import io
import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from datetime import datetime

from haremile.core.conditions import KEYS
from haremile.core.metrics import METHODS, metric
from haremile.core.units import to_canonical
from haremile.errors import ReadingsFileError, UnitError, UnknownMetricError

REQUIRED = ("system", "machine", "metric", "value", "unit")
OPTIONAL = (
    "install", "method", "resolution", "run", "block", "at", "outcome", "reason", "set_aside",
)  # fmt: skip
CONDITION = "condition."
DONE = "done"
MOST_BYTES = 32 * 2**20


@dataclass(frozen=True)
class ReadingLine:
    """One row of a readings file, canonical; `value` is None for a run that gave none."""

    line: int
    system: str
    machine: str
    install: str
    metric: str
    method: str
    value: float | None
    unit: str
    resolution: float | None
    run: str | None
    block: int | None
    at: datetime | None
    outcome: str
    reason: str | None
    set_aside: str | None
    conditions: dict[str, str] = field(default_factory=dict)


class _Faults:
    """Collects faults by line and column, so that all are told at once."""

    def __init__(self) -> None:
        self.found: list[tuple[int, int, str]] = []

    def add(self, line: int, column: int, what: str) -> None:
        self.found.append((line, column, what))


def parse_readings(body: bytes) -> list[ReadingLine]:
    """Read a readings file.

    Raises
    ------
    ReadingsFileError
        With every fault by line and column; nothing of a bad file is taken.
    """
    if len(body) > MOST_BYTES:
        raise ReadingsFileError([(1, 1, f"larger than {MOST_BYTES // 2**20} MiB")])
    try:
        text = body.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = body[: error.start].count(b"\n") + 1
        raise ReadingsFileError([(line, 1, "not UTF-8 text")]) from None
    reader = csv.reader(io.StringIO(text, newline=""), strict=True)
    faults = _Faults()
    lines: list[ReadingLine] = []
    try:
        header = [name.strip() for name in next(reader, [])]
        _check_header(header, faults)
        if faults.found:
            raise ReadingsFileError(faults.found)
        for cells in reader:
            if any(cell.strip() for cell in cells):
                found = _Row(header, cells, reader.line_num, faults).line()
                if found is not None:
                    lines.append(found)
    except csv.Error as error:
        faults.add(reader.line_num, 1, f"not CSV: {error}")
    if not lines and not faults.found:
        faults.add(1, 1, "no readings below the header")
    if faults.found:
        raise ReadingsFileError(faults.found)
    return lines


def _check_header(header: Sequence[str], faults: _Faults) -> None:
    for name in REQUIRED:
        if name not in header:
            faults.add(1, 1, f"the column {name} is missing")
    for column, name in enumerate(header, start=1):
        if header.index(name) != column - 1:
            faults.add(1, column, f"the column {name} stands twice")
        elif name.startswith(CONDITION):
            if name.removeprefix(CONDITION) not in KEYS:
                faults.add(1, column, f"unknown condition: {name.removeprefix(CONDITION)}")
        elif name not in (*REQUIRED, *OPTIONAL):
            faults.add(1, column, f"unknown column: {name}")


class _Row:
    """One row being read."""

    def __init__(self, header: Sequence[str], cells: Sequence[str], line: int, faults: _Faults):
        self.columns = {name: i for i, name in enumerate(header)}
        self.cells, self.number, self.faults = cells, line, faults
        self.before = len(faults.found)
        if len(cells) != len(header):
            self.fault(None, f"{len(cells)} cells where the header has {len(header)}")

    def fault(self, column: str | None, what: str) -> None:
        place = self.columns[column] + 1 if column else 1
        self.faults.add(self.number, place, what)

    def text(self, column: str) -> str:
        place = self.columns.get(column)
        return self.cells[place].strip() if place is not None and place < len(self.cells) else ""

    def number_in(self, column: str) -> float | None:
        text = self.text(column)
        if not text:
            return None
        try:
            value = float(text)
        except ValueError:
            self.fault(column, f"not a number: {text}")
            return None
        if not math.isfinite(value):
            self.fault(column, f"not a finite number: {text}")
            return None
        return value

    def whole_in(self, column: str) -> int | None:
        text = self.text(column)
        if not text:
            return None
        if not text.isdecimal() or int(text) < 1:
            self.fault(column, f"not a whole number from 1: {text}")
            return None
        return int(text)

    def time_in(self, column: str) -> datetime | None:
        text = self.text(column)
        if not text:
            return None
        try:
            at = datetime.fromisoformat(text)
        except ValueError:
            self.fault(column, f"not a date and time: {text}")
            return None
        if at.tzinfo is None:
            self.fault(column, f"a time without its zone: {text}")
        return at

    def _metric(self) -> str:
        key = self.text("metric")
        if key:
            try:
                metric(key)
            except UnknownMetricError as error:
                self.fault("metric", str(error).partition(";")[0])
        return key

    def _value(self, key: str, outcome: str) -> tuple[float | None, str, float | None]:
        value, resolution = self.number_in("value"), self.number_in("resolution")
        if value is None and outcome == DONE and not self.text("value"):
            self.fault("value", "no value, though the outcome is done")
        unit = self.text("unit")
        try:
            canonical = to_canonical(1.0, unit)
        except UnitError as error:
            if unit:
                self.fault("unit", str(error).partition(";")[0])
            return value, unit, resolution
        factor, name = canonical
        self._check_unit(key, unit, name)
        scaled = None if value is None else value * factor
        return scaled, name, None if resolution is None else resolution * factor

    def _check_unit(self, key: str, written: str, canonical: str) -> None:
        try:
            expected = metric(key).unit
        except UnknownMetricError:
            return  # told already
        if canonical != expected and not key.startswith("own."):
            self.fault("unit", f"{key} is measured in {expected}, not in {written}")

    def _method(self) -> str:
        method = self.text("method") or "typed"
        if method not in METHODS:
            self.fault("method", f"unknown method: {method}")
        return method

    def line(self) -> ReadingLine | None:
        for column in ("system", "machine", "metric", "unit"):
            if not self.text(column):
                self.fault(column, f"no {column}")
        outcome = self.text("outcome") or DONE
        key = self._metric()
        value, unit, resolution = self._value(key, outcome)
        result = ReadingLine(
            line=self.number, system=self.text("system"), machine=self.text("machine"),
            install=self.text("install"), metric=key, method=self._method(), value=value,
            unit=unit, resolution=resolution, run=self.text("run") or None,
            block=self.whole_in("block"), at=self.time_in("at"), outcome=outcome,
            reason=self.text("reason") or None, set_aside=self.text("set_aside") or None,
            conditions=self._conditions(),
        )  # fmt: skip
        return result if len(self.faults.found) == self.before else None

    def _conditions(self) -> dict[str, str]:
        stated = {}
        for name in self.columns:
            if name.startswith(CONDITION) and self.text(name):
                stated[name.removeprefix(CONDITION)] = self.text(name)
        return stated


def write_readings(lines: Iterable[ReadingLine]) -> bytes:
    """Write readings as CSV in canonical units; full doubles, columns that nobody fills left out.

    Reading the result gives the same lines again.
    """
    rows = list(lines)
    keys = sorted({key for row in rows for key in row.conditions})
    used = [name for name in OPTIONAL if any(getattr(row, name) for row in rows)]
    output = io.StringIO(newline="")
    writer = csv.writer(output, lineterminator="\n")
    writer.writerow([*REQUIRED, *used, *(CONDITION + key for key in keys)])
    for row in rows:
        cells = [_cell(getattr(row, name)) for name in (*REQUIRED, *used)]
        writer.writerow([*cells, *(row.conditions.get(key, "") for key in keys)])
    return output.getvalue().encode()


def _cell(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, float):
        return repr(value)
    return value.isoformat() if isinstance(value, datetime) else str(value)
