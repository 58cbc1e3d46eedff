"""Readings as CSV, in and out. `docs/formats.md` describes the columns."""

import csv
import io
import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from difflib import get_close_matches
from operator import itemgetter

from haremile.core.records.bounds import (
    MOST_NUMBER,
    checked_resolution,
    checked_text,
    checked_value,
    parse_instant,
)
from haremile.core.records.conditions import KEYS
from haremile.core.records.metrics import CATALOGUE, METHODS, check_possible, is_undefined, metric
from haremile.core.records.units import to_canonical
from haremile.errors import BadInputError, ReadingsFileError, UnitError, UnknownMetricError

REQUIRED = ("system", "machine", "metric", "value", "unit")
OPTIONAL = (
    "install",
    "procedure",
    "method",
    "resolution",
    "run",
    "block",
    "at",
    "outcome",
    "reason",
    "set_aside",
    "step",
)
CONDITION = "condition."
DONE = "done"
MOST_BYTES = 32 * 2**20
MOST_ROWS = 200_000
MOST_LINE = 16_384
"""Characters of one line."""

MOST_COLUMNS = len(REQUIRED) + len(OPTIONAL) + len(KEYS)
"""Each column that there is, once."""

MOST_FAULTS = 1000
"""Reading ends at so many: the file is refused anyway."""

MOST_NAME = 200
MOST_SHARED = 20_000
"""Combinations of cells that are remembered; a file of more is read more slowly."""

SAID_EVERY = 5000
"""Rows between two words of progress."""

FORMULA = "=+-@\t\r'"
"""What a cell may not begin with when it is written: a spreadsheet would take it for a formula.
A ``'`` is put before it, and taken off again when it is read."""

_NUMBER = re.compile(r"[-+]?(?:[0-9]+\.?[0-9]*|\.[0-9]+)(?:[eE][-+]?[0-9]{1,3})?")
_WITH_COMMA = re.compile(r"[-+]?[0-9]+,[0-9]+")
"""A decimal comma, where another sign parts the cells."""

_WHOLE = re.compile(r"[0-9]{1,10}")

GIVES = {key: one.procedures for key, one in CATALOGUE.items()}
EVERY_PROCEDURE = frozenset(name for names in GIVES.values() for name in names)

Progress = Callable[[int], None]
"""Told how many rows are done."""


@dataclass(frozen=True, slots=True)
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
    step: int | None = None
    procedure: str | None = None
    conditions: dict[str, str] = field(default_factory=dict)


class _Faults:
    """Collects faults by line and column, so that all are told at once."""

    def __init__(self) -> None:
        self.found: list[tuple[int, int, str]] = []

    def add(self, line: int, column: int, what: str) -> None:
        self.found.append((line, column, what))
        if len(self.found) >= MOST_FAULTS:
            raise ReadingsFileError(self.found, is_cut=True)


def parse_readings(body: bytes, progress: Progress = lambda rows: None) -> list[ReadingLine]:
    """Read a readings file, row by row.

    Parameters
    ----------
    body : bytes
    progress : callable
        Told every `SAID_EVERY` rows how many are read.

    Raises
    ------
    ReadingsFileError
        With every fault by line and column; nothing of a bad file is taken.
    """
    _check_size(body)
    faults = _Faults()
    lines: list[ReadingLine] = []
    separator = separator_of(body)
    reader = csv.reader(lines_of(body), strict=True, delimiter=separator)
    try:
        rows = _rows(reader, faults, progress, separator, last_places(body, separator))
        lines += rows
    except csv.Error as error:
        faults.add(reader.line_num, 1, f"not CSV: {error}")
    except UnicodeDecodeError as error:
        line = body[: error.start].count(b"\n") + 1 if error.object == body else reader.line_num + 1
        faults.add(line, 1, "not UTF-8 text")
    if not lines and not faults.found:
        faults.add(1, 1, "no readings below the header")
    if faults.found:
        raise ReadingsFileError(faults.found)
    return lines


ALIASES = {
    "distribution": "system",
    "distro": "system",
    "os": "system",
    "computer": "machine",
    "host": "machine",
    "hostname": "machine",
    "measure": "metric",
    "measurement": "metric",
    "result": "value",
    "reading": "value",
    "units": "unit",
    "iteration": "run",
    "repeat": "block",
    "timestamp": "at",
}
"""What people call columns, and which of ours that is."""


def known_names(header: Sequence[str]) -> list[str]:
    """The names of the columns as ours: without regard to case, to blanks and dashes between words,
    and by what else people call them, where no other column has the name already."""
    plain = [name.strip() for name in header]
    found: list[str] = []
    for name in plain:
        small = _small(name)
        meant = ALIASES.get(small, small)
        is_ours = meant in (*REQUIRED, *OPTIONAL) or small.startswith(CONDITION)
        is_free = meant not in plain and meant not in found
        found.append(meant if is_ours and (is_free or meant == name) else name)
    return found


def renamed_columns(body: bytes) -> dict[str, str]:
    """Columns that a file calls by another word, and as which of ours they are read."""
    reader = csv.reader(lines_of(body), strict=True, delimiter=separator_of(body))
    try:
        header = [name.strip() for name in next(reader, [])]
    except (csv.Error, UnicodeDecodeError, ReadingsFileError):
        return {}  # told, with its line, by the reader proper
    pairs = zip(header, known_names(header), strict=True)
    return {theirs: ours for theirs, ours in pairs if _small(theirs) != ours}


def _small(name: str) -> str:
    return re.sub(r"[\s-]+", "_", name.casefold())


SEPARATORS = ",;\t"


def separator_of(body: bytes) -> str:
    """What parts the cells: the sign by which the header has most of the columns that there are."""
    header = body[:MOST_LINE].partition(b"\n")[0].decode(errors="replace")
    known = {*REQUIRED, *OPTIONAL}

    def columns(sign: str) -> int:
        names = [name.strip(' \r\ufeff"') for name in header.split(sign)]
        return sum(name in known for name in known_names(names))

    return max(SEPARATORS, key=lambda sign: (columns(sign), header.count(sign)))


MOST_WRITTEN = 9
"""Nobody writes more decimals: such values were calculated, and tell no step."""


def last_places(body: bytes, separator: str) -> dict[tuple[str, str, str], float]:
    """The step of readings where a file states none: the last place that somebody wrote, of all
    values of one metric, method and unit, in that unit.

    Empty where the file has a column for it, without those that no person wrote. What cannot be
    read is left to the reader proper.
    """
    reader = csv.reader(lines_of(body), strict=True, delimiter=separator)
    finest: dict[tuple[str, str, str], int] = {}
    try:
        header = known_names(next(reader, []))
        if "resolution" in header or not set(REQUIRED) <= set(header):
            return {}
        places = [header.index(name) for name in ("metric", "unit", "value")]
        method = header.index("method") if "method" in header else None
        for cells in reader:
            if len(cells) == len(header):
                key, unit, text = (cells[place].strip() for place in places)
                how = cells[method].strip() if method is not None else ""
                decimals = _decimals(text)
                if decimals is not None:
                    of = (key, how, unit)
                    finest[of] = max(finest.get(of, 0), decimals)
    except (csv.Error, UnicodeDecodeError):
        pass  # told, with its line, by the reader proper
    return {key: 10.0**-places for key, places in finest.items() if places <= MOST_WRITTEN}


def _decimals(text: str) -> int | None:
    """Places behind the point or comma; None where it is no plain number."""
    if _WITH_COMMA.fullmatch(text):
        return len(text) - text.index(",") - 1
    if not _NUMBER.fullmatch(text):
        return None
    return 17 if "e" in text.lower() else len(text.partition(".")[2])


def rows_in(body: bytes) -> int:
    """How many rows a readings file seems to have, for progress: its lines below the header."""
    return max(body.count(b"\n") - 1, 1)


def _check_size(body: bytes) -> None:
    """Refuse at once what is too large to be read, with the limit."""
    if len(body) > MOST_BYTES:
        raise ReadingsFileError([(1, 1, f"larger than {MOST_BYTES // 2**20} MiB")])
    found = body.count(b"\n")
    if found > MOST_ROWS + 1:
        raise ReadingsFileError([(1, 1, f"{found:,} lines; at most {MOST_ROWS:,} rows are taken")])


def lines_of(body: bytes) -> Iterator[str]:
    """The lines of a file one by one, none longer than what is allowed."""
    text = io.TextIOWrapper(io.BytesIO(body), "utf-8-sig", newline="")
    number = 0
    while line := text.readline(MOST_LINE):
        number += 1
        if len(line) == MOST_LINE:
            raise ReadingsFileError([(number, 1, f"longer than {MOST_LINE:,} characters")])
        yield line


def _rows(
    reader: "Iterator[list[str]]",
    faults: _Faults,
    progress: Progress,
    separator: str,
    steps: Mapping[tuple[str, str, str], float],
) -> Iterator[ReadingLine]:
    header = known_names(next(reader, []))
    _check_header(header, faults)
    if faults.found:
        raise ReadingsFileError(faults.found)
    table = _Table(header, faults, steps, has_comma=separator != ",")
    for number, cells in enumerate(reader, start=1):
        if any(cell.strip() for cell in cells):
            found = table.line(cells, reader.line_num)  # type: ignore[attr-defined]  # csv's own
            if found is not None:
                yield found
        if number % SAID_EVERY == 0:
            progress(number)


def is_understood(body: bytes) -> bool:
    """Whether its header is one of ours, or has other words for it that are known."""
    reader = csv.reader(lines_of(body), strict=True, delimiter=separator_of(body))
    faults = _Faults()
    try:
        _check_header(known_names(next(reader, [])), faults)
    except (csv.Error, UnicodeDecodeError, ReadingsFileError):
        return True  # no table: the reader proper says why
    return not faults.found


def _check_header(header: Sequence[str], faults: _Faults) -> None:
    if len(header) > MOST_COLUMNS:
        faults.add(1, MOST_COLUMNS + 1, f"{len(header)} columns; there are {MOST_COLUMNS}")
        return
    for name in REQUIRED:
        if name not in header:
            faults.add(1, 1, f"the column {name} is missing")
    for column, name in enumerate(header, start=1):
        if header.index(name) != column - 1:
            faults.add(1, column, f"the column {name[:40]} stands twice")
        elif name.startswith(CONDITION):
            if name.removeprefix(CONDITION) not in KEYS:
                faults.add(1, column, f"unknown condition: {name.removeprefix(CONDITION)[:40]}")
        elif name not in (*REQUIRED, *OPTIONAL):
            faults.add(1, column, f"unknown column: {name[:40]}")


OF_EACH_ROW = ("value", "resolution", "run", "block", "at", "reason", "set_aside", "step")
"""Columns that differ from row to row; the others are checked once for each combination."""


@dataclass(frozen=True, slots=True)
class _Shared:
    """What the cells of the other columns say."""

    system: str
    machine: str
    install: str
    metric: str
    method: str
    unit: tuple[float, str]
    outcome: str
    procedure: str | None
    conditions: dict[str, str]
    step: float | None


def _meant(text: str, known: Iterable[str]) -> str:
    """What somebody may have meant, and else what there is."""
    close = get_close_matches(text, list(known), n=1)
    return f"; did you mean {close[0]}?" if close else ""


class _Table:
    """Reads the rows below one header; what many rows share is checked and kept once."""

    def __init__(
        self,
        header: Sequence[str],
        faults: _Faults,
        steps: Mapping[tuple[str, str, str], float],
        has_comma: bool = False,
    ):
        self._has_comma, self._steps = has_comma, steps
        self.columns = {name: place for place, name in enumerate(header)}
        self.conditions = [
            (name.removeprefix(CONDITION), place)
            for name, place in self.columns.items()
            if name.startswith(CONDITION)
        ]
        self.faults, self.number = faults, 0
        self.cells: Sequence[str] = ()
        self._of_each = {name: self.columns.get(name, len(header)) for name in OF_EACH_ROW}
        self._pick_shared = itemgetter(
            *(place for name, place in self.columns.items() if name not in OF_EACH_ROW)
        )
        self._shared: dict[tuple[str, ...], _Shared] = {}
        self._is_named = [self.columns[name] for name in ("run", "block", "at") if name in header]
        self._seen: dict[int, int] = {}

    def fault(self, column: str | None, what: str) -> None:
        place = self.columns[column] + 1 if column else 1
        self.faults.add(self.number, place, what)

    def raw(self, column: str) -> str:
        place = self.columns.get(column)
        return "" if place is None else self.cells[place]

    def text(self, column: str, most: int = MOST_NAME) -> str:
        """A cell's text, without what kept a spreadsheet from reading it as a formula."""
        text = self.raw(column)
        if not text:
            return text
        known = text[1:] if text[:1] == "'" and text[1:2] in tuple(FORMULA) else text
        try:
            checked_text(known, most)
        except BadInputError as error:
            self.fault(column, str(error))
        return known

    def number_in(self, column: str) -> float | None:
        text = self.raw(column)
        if not text:
            return None
        if self._has_comma and _WITH_COMMA.fullmatch(text):
            text = text.replace(",", ".")
        if not _NUMBER.fullmatch(text):
            self.fault(column, f"not a number: {text[:40]}")
            return None
        return float(text)

    def whole_in(self, column: str) -> int | None:
        text = self.raw(column)
        if not text:
            return None
        if not _WHOLE.fullmatch(text) or not 1 <= int(text) <= MOST_NUMBER:
            self.fault(column, f"not a whole number from 1 to {MOST_NUMBER}: {text[:40]}")
            return None
        return int(text)

    def time_in(self, column: str) -> datetime | None:
        text = self.raw(column)
        if not text:
            return None
        try:
            return parse_instant(text)
        except BadInputError as error:
            self.fault(column, str(error))
            return None

    def _unit(self, key: str, written: str) -> tuple[float, str] | None:
        """Factor to the canonical unit of a metric, and that unit; None where there is a fault."""
        try:
            expected = metric(key).unit
        except UnknownMetricError as error:
            self.fault("metric", str(error).partition(";")[0][:100] + _meant(key, CATALOGUE))
            return None
        try:
            known = (1.0, written) if written == expected else to_canonical(1.0, written)
        except UnitError as error:
            near = f"; {key} is in {expected or 'whole numbers'}"
            self.fault("unit", str(error).partition(";")[0][:100] + near)
            return None
        if known[1] != expected and not is_undefined(key):
            self.fault("unit", f"{key} is measured in {expected}, not in {written}")
            return None
        return known

    def _value(self, shared: "_Shared") -> float | None:
        value = self.number_in("value")
        if value is None:
            if shared.outcome == DONE and not self.raw("value"):
                self.fault("value", "no value, though the outcome is done")
            return None
        try:
            meant = checked_value(
                value * shared.unit[0], may_be_negative=shared.metric.startswith("own.")
            )
            if shared.unit[1]:  # else its metric or unit is none, which is told already
                check_possible(metric(shared.metric), meant, shared.conditions)
            return meant
        except BadInputError as error:
            self.fault("value", str(error))
            return None

    def _resolution(self, unit: tuple[float, str]) -> float | None:
        step = self.number_in("resolution")
        try:
            return checked_resolution(None if step is None else step * unit[0])
        except BadInputError as error:
            self.fault("resolution", str(error))
            return None

    def _step(self, key: str, unit: tuple[float, str] | None) -> float | None:
        """The last place written, in the canonical unit; what is counted is exact."""
        step = self._steps.get((key, self.raw("method"), self.raw("unit")))
        if step is None or unit is None or metric(key).is_exact:
            return None
        return step * unit[0]

    def _method(self) -> str:
        method = self.text("method") or "typed"
        if method not in METHODS:
            self.fault("method", f"unknown method: {method[:40]}")
        return method

    def _procedure(self, key: str) -> str | None:
        """The procedure that gave it, where the file says; else the metric's first is assumed."""
        procedure = self.text("procedure") or None
        if procedure is not None and key and procedure not in GIVES.get(key, (procedure,)):
            able = ", ".join(GIVES[key])
            self.fault("procedure", f"{key} comes of {able}, not of {procedure[:40]}")
        elif procedure is not None and procedure not in EVERY_PROCEDURE:
            self.fault("procedure", f"unknown procedure: {procedure[:40]}")
        return procedure

    def _check_repeated(self) -> None:
        """A row that names its run, block or instant cannot be there twice, alike in every cell."""
        if any(self.cells[place] for place in self._is_named):
            cells = tuple(self.cells)
            alike = hash(cells) << 64 | hash(cells[::-1]) & (1 << 64) - 1
            first = self._seen.setdefault(alike, self.number)
            if first != self.number:
                self.fault(None, f"the same as line {first}, cell by cell")

    def line(self, cells: Sequence[str], number: int) -> ReadingLine | None:
        """The row as a line; None, and its faults, where it is not valid."""
        self.number = number
        before = len(self.faults.found)
        if len(cells) != len(self.columns):
            self.fault(None, f"{len(cells)} cells where the header has {len(self.columns)}")
            return None
        self.cells = stripped = [cell.strip() for cell in cells]
        stripped.append("")  # for columns that the header has not
        self._check_repeated()
        shared, place = self._shared_cells(), self._of_each
        made = ReadingLine(
            line=number,
            system=shared.system,
            machine=shared.machine,
            install=shared.install,
            metric=shared.metric,
            method=shared.method,
            value=self._value(shared),
            unit=shared.unit[1],
            resolution=self._resolution(shared.unit)
            if stripped[place["resolution"]]
            else shared.step,
            run=(self.text("run") or None) if stripped[place["run"]] else None,
            block=self.whole_in("block") if stripped[place["block"]] else None,
            at=self.time_in("at") if stripped[place["at"]] else None,
            outcome=shared.outcome,
            reason=(self.text("reason", 2000) or None) if stripped[place["reason"]] else None,
            set_aside=(self.text("set_aside", 2000) or None)
            if stripped[place["set_aside"]]
            else None,
            step=self.whole_in("step") if stripped[place["step"]] else None,
            procedure=shared.procedure,
            conditions=shared.conditions,
        )
        return made if len(self.faults.found) == before else None

    def _shared_cells(self) -> _Shared:
        """What this row shares with others, checked where it is seen first."""
        key = self._pick_shared(self.cells)
        known = self._shared.get(key)
        if known is not None:
            return known
        before = len(self.faults.found)
        for column in ("system", "machine", "metric", "unit"):
            if not self.raw(column):
                self.fault(column, f"no {column}")
        name = self.text("metric")
        unit = self._unit(name, self.raw("unit")) if name and self.raw("unit") else None
        found = _Shared(
            system=self.text("system"),
            machine=self.text("machine"),
            install=self.text("install"),
            metric=name,
            method=self._method(),
            unit=unit or (1.0, ""),
            outcome=self.text("outcome") or DONE,
            procedure=self._procedure(name),
            conditions={
                key: self.text(CONDITION + key)
                for key, _ in self.conditions
                if self.raw(CONDITION + key)
            },
            step=self._step(name, unit),
        )
        if len(self.faults.found) == before and len(self._shared) < MOST_SHARED:
            self._shared[key] = found
        return found


def write_readings(lines: Iterable[ReadingLine]) -> bytes:
    """Write readings as CSV in canonical units; full doubles, columns that nobody fills left out.

    Reading the result gives the same lines again.
    """
    rows = list(lines)
    keys = sorted({key for row in rows for key in row.conditions})
    used = [
        name
        for name in OPTIONAL
        if name == "resolution" or any(getattr(row, name) for row in rows)  # stated, even as none
    ]
    output = io.StringIO(newline="")
    writer = csv.writer(output, lineterminator="\n")
    writer.writerow([*REQUIRED, *used, *(CONDITION + key for key in keys)])
    for row in rows:
        cells = [_cell(getattr(row, name)) for name in (*REQUIRED, *used)]
        writer.writerow([*cells, *(_inert(row.conditions.get(key, "")) for key in keys)])
    return output.getvalue().encode()


def _cell(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, float):
        return repr(value)
    return value.isoformat() if isinstance(value, datetime) else _inert(str(value))


def _inert(text: str) -> str:
    """The text so that no spreadsheet takes it for a formula."""
    return f"'{text}" if text[:1] in tuple(FORMULA) else text
