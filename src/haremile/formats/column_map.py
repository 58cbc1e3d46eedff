"""Readings in columns of somebody's own: which of them mean what, and the same rows as ours.

A table of results often has a column for each measure, and says nothing of what is the same in all
rows. A `ColumnMap` says it; `mapped` writes the rows as a readings file, which is then read as any.
"""

import csv
import hashlib
import io
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import asdict, dataclass, field
from typing import Any

from haremile.core.records.conditions import KEYS
from haremile.core.records.metrics import metric
from haremile.core.records.units import UNITS, to_canonical
from haremile.errors import BadInputError, ReadingsFileError
from haremile.formats.readings_csv import (
    CONDITION,
    OPTIONAL,
    REQUIRED,
    ReadingLine,
    known_names,
    lines_of,
    parse_readings,
    separator_of,
)

OURS = frozenset({*REQUIRED, *OPTIONAL, *(CONDITION + key for key in KEYS)})
OF_A_MEASURE = ("metric", "value", "unit")
SAMPLE_ROWS = 5
MOST_HEAD = 2**16
"""Bytes of a file that are looked at to show its columns."""

MOST_MAPPED = 200
"""Columns of a file that is mapped."""


@dataclass(frozen=True)
class Measure:
    """A column that holds the values of one metric, in one unit as written."""

    metric: str
    unit: str


@dataclass(frozen=True)
class ColumnMap:
    """What the columns of a file mean.

    Attributes
    ----------
    columns : mapping of a column of the file to one of ours
    measures : mapping of a column of the file to the measure whose values it holds
    fixed : mapping of one of our columns to what it holds in every row
    units : mapping of a unit as the file writes it to one of ours
    """

    columns: Mapping[str, str] = field(default_factory=dict)
    measures: Mapping[str, Measure] = field(default_factory=dict)
    fixed: Mapping[str, str] = field(default_factory=dict)
    units: Mapping[str, str] = field(default_factory=dict)

    @classmethod
    def of(cls, document: Mapping[str, Any]) -> "ColumnMap":
        """The map that a document of `as_document` holds."""
        measures = {name: Measure(**one) for name, one in document.get("measures", {}).items()}
        return cls(
            dict(document.get("columns", {})),
            measures,
            dict(document.get("fixed", {})),
            dict(document.get("units", {})),
        )

    def as_document(self) -> dict[str, Any]:
        """The map as plain words, to be kept."""
        return asdict(self)


@dataclass(frozen=True)
class Columns:
    """The columns of a file, the first of its rows, and what they seem to mean.

    `missing` names what is still to be said before its readings can be read.
    """

    header: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    guess: ColumnMap
    missing: tuple[str, ...]

    @property
    def key(self) -> str:
        """A short name of this very header, whatever stands below it."""
        return header_key(self.header)


def header_key(header: Sequence[str]) -> str:
    """A short name of a header."""
    return hashlib.sha256("\0".join(header).encode()).hexdigest()


def columns_of(body: bytes) -> Columns:
    """The columns of a readings file or of a table of somebody's own.

    Raises
    ------
    ReadingsFileError
        If it is no table at all.
    """
    head = body[:MOST_HEAD]
    if len(body) > MOST_HEAD:
        head = head[: head.rfind(b"\n") + 1]
    reader = csv.reader(lines_of(head), strict=True, delimiter=separator_of(head))
    try:
        header = tuple(name.strip() for name in next(reader, []))
        rows = tuple(
            tuple(cells) for cells, _ in zip(_full(reader), range(SAMPLE_ROWS), strict=False)
        )
    except (csv.Error, UnicodeDecodeError) as error:
        raise ReadingsFileError([(reader.line_num + 1, 1, f"not CSV: {error}")]) from None
    guess = _guess(header)
    return Columns(header, rows, guess, missing(guess, header))


def _full(rows: Iterator[list[str]]) -> Iterator[list[str]]:
    return (cells for cells in rows if any(cell.strip() for cell in cells))


def missing(found: ColumnMap, header: Sequence[str]) -> tuple[str, ...]:
    """Which of our required columns neither the file nor the map gives."""
    named = {found.columns.get(name, name) for name in header if name not in found.measures}
    wanted = [name for name in REQUIRED if not (found.measures and name in OF_A_MEASURE)]
    return tuple(name for name in wanted if name not in named and name not in found.fixed)


def check_map(found: ColumnMap, header: Sequence[str]) -> None:
    """Refuse a map that does not fit the file.

    Raises
    ------
    BadInputError
        If it names a column that the file or the format has not, two columns that mean the same,
        a metric or unit that is none, or leaves out what is required.
    """
    if len(header) > MOST_MAPPED:
        raise BadInputError(f"{len(header)} columns; at most {MOST_MAPPED} are mapped")
    for name in (*found.columns, *found.measures):
        if name not in header:
            raise BadInputError(f"the file has no column {name}")
    _check_ours(found)
    _check_measures(found)
    for unit in found.units.values():
        to_canonical(1.0, unit)
    left = missing(found, header)
    if left:
        raise BadInputError(f"still to be said: {', '.join(left)}")


def _check_ours(found: ColumnMap) -> None:
    for ours in (*found.columns.values(), *found.fixed):
        if ours not in OURS:
            raise BadInputError(f"no column of a readings file: {ours}")
    taken = [*found.columns.values(), *found.fixed]
    for ours in taken:
        if taken.count(ours) > 1:
            raise BadInputError(f"{ours} is given twice")
        if found.measures and ours in OF_A_MEASURE:
            raise BadInputError(f"{ours} is given by the columns of measures already")


def _check_measures(found: ColumnMap) -> None:
    for name, one in found.measures.items():
        canonical = to_canonical(1.0, one.unit)[1]
        expected = metric(one.metric).unit
        if expected and canonical != expected and not one.metric.startswith("own."):
            raise BadInputError(f"{name}: {one.metric} is measured in {expected}, not {one.unit}")


def map_text(found: ColumnMap) -> str:
    """What the columns are read as, in words."""
    said = [f"{theirs} is read as {ours}" for theirs, ours in found.columns.items()]
    said += [f"{name} as {one.metric} in {one.unit}" for name, one in found.measures.items()]
    said += [f"{ours} is {text} in every row" for ours, text in found.fixed.items()]
    said += [f"the unit {theirs} is {ours}" for theirs, ours in found.units.items()]
    return ", ".join(said)


def parse_mapped(
    body: bytes, found: ColumnMap, progress: Any = lambda rows: None
) -> list[ReadingLine]:
    """Read a table of somebody's own.

    Raises
    ------
    BadInputError
        If the map does not fit the file.
    ReadingsFileError
        As `parse_readings`, with the lines of the file as it came.
    """
    written, origins = mapped(body, found)
    try:
        return parse_readings(written, progress)
    except ReadingsFileError as error:
        faults = [(origins.get(line, line), 1, what) for line, _, what in error.faults]
        raise ReadingsFileError(faults) from None


def mapped(body: bytes, found: ColumnMap) -> tuple[bytes, dict[int, int]]:
    """The rows as a readings file; and for each of its lines the line of `body` that it is of."""
    separator = separator_of(body)
    reader = csv.reader(lines_of(body), strict=True, delimiter=separator)
    try:
        header = [name.strip() for name in next(reader, [])]
        check_map(found, header)
        return _written(reader, header, found, separator)
    except (csv.Error, UnicodeDecodeError) as error:
        raise ReadingsFileError([(reader.line_num + 1, 1, f"not CSV: {error}")]) from None


def _written(
    reader: Any, header: Sequence[str], found: ColumnMap, separator: str
) -> tuple[bytes, dict[int, int]]:
    ours = [found.columns.get(name, name) for name in header]
    kept = [
        place
        for place, name in enumerate(ours)
        if name in OURS and header[place] not in found.measures
    ]
    measures = [(header.index(name), one) for name, one in found.measures.items()]
    head = [*(ours[place] for place in kept), *found.fixed, *(OF_A_MEASURE if measures else ())]
    output = io.StringIO(newline="")
    writer = csv.writer(output, lineterminator="\n", delimiter=separator)
    writer.writerow(head)
    origins = {1: 1}
    line = 1

    def put(cells: Sequence[str]) -> None:
        nonlocal line
        writer.writerow(cells)
        line += 1
        origins[line] = reader.line_num

    unit = next((n for n, place in enumerate(kept) if ours[place] == "unit"), None)
    for cells in _full(reader):
        if len(cells) != len(header):
            what = f"{len(cells)} cells where the header has {len(header)}"
            raise ReadingsFileError([(reader.line_num, 1, what)])
        shared = [cells[place] for place in kept]
        if unit is not None:
            shared[unit] = found.units.get(shared[unit].strip(), shared[unit])
        shared += found.fixed.values()
        if not measures:
            put(shared)
        for place, one in measures:
            if cells[place].strip():  # an empty cell was not measured
                put([*shared, one.metric, cells[place], one.unit])
    return output.getvalue().encode(), origins


MEANT = (
    (re.compile(r"boot|start-?up", re.I), "boot.total", "s"),
    (re.compile(r"swap", re.I), "memory.swap_used", "MiB"),
    (re.compile(r"\bram\b|memory|\bmem\b", re.I), "memory.used", "MiB"),
    (re.compile(r"disk|space|footprint|storage", re.I), "disk.used", "GiB"),
    (re.compile(r"package", re.I), "package.count", "1"),
    (re.compile(r"process", re.I), "process.count", "1"),
    (re.compile(r"launch|open", re.I), "launch.window", "s"),
)
"""Words in the names of columns that hold values, and what they mostly mean."""

_UNIT = re.compile(r"[\s(\[_/,]([A-Za-z%]+(?:/s)?)[)\]]?\s*$")


def _guess(header: Sequence[str]) -> ColumnMap:
    """What a header seems to mean; columns that are ours already need no map."""
    names = known_names(header)
    columns = {
        theirs: ours
        for theirs, ours in zip(header, names, strict=True)
        if ours in OURS and theirs != ours
    }
    measures: dict[str, Measure] = {}
    if "value" not in names:
        for theirs, ours in zip(header, names, strict=True):
            if ours not in OURS and (meant := _measure(theirs)):
                measures[theirs] = meant
    return ColumnMap(columns, measures)


def _measure(name: str) -> Measure | None:
    found = next(((key, unit) for words, key, unit in MEANT if words.search(name)), None)
    if found is None:
        return None
    key, usual = found
    written = _UNIT.search(name)
    unit = written.group(1) if written and written.group(1) in UNITS else usual
    fits = to_canonical(1.0, unit)[1] == to_canonical(1.0, usual)[1]
    return Measure(key, unit if fits else usual)
