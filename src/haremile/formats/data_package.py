"""Studies as a Frictionless data package: CSV tables with their schemas, evidence as files."""

import csv
import hashlib
import io
import json
import math
import zipfile
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from pathlib import Path
from typing import IO, Any
from uuid import UUID

from haremile.core.records.bounds import checked_text
from haremile.errors import BadInputError

FORMAT = "haremile-package/1"
DESCRIPTION = "datapackage.json"
NOTHING = "\\N"
"""How a cell says that there is nothing: an empty one is an empty text."""

MOST_PACKED = 2**30
MOST_UNPACKED = 4 * 2**30
MOST_MEMBERS = 500_000
MOST_CELL = 64 * 2**20
MOST_DESCRIPTION = 4 * 2**20
LONG_AGO = (2000, 1, 1, 0, 0, 0)


@dataclass(frozen=True)
class Column:
    """A column; `kind` is a type of the table schema, ``uuid``, or ``file`` for what stands in a
    file of its own, named by its sha256."""

    name: str
    kind: str


@dataclass(frozen=True)
class Table:
    """Rows of one kind; `key` are the columns that tell them apart, `refers` those that name a row
    of another table."""

    name: str
    columns: tuple[Column, ...]
    key: tuple[str, ...]
    refers: Mapping[str, str]
    rows: Sequence[Sequence[Any]] = ()

    def lines(self) -> Iterator[dict[str, Any]]:
        """Each row by the names of its columns."""
        names = [column.name for column in self.columns]
        for row in self.rows:
            yield dict(zip(names, row, strict=True))


@dataclass(frozen=True)
class Package:
    """What is handed from one bench book to another; `pages` are read in a browser without any
    server."""

    title: str
    origin: UUID
    origin_name: str
    made_at: datetime
    tables: tuple[Table, ...]
    pages: Mapping[str, bytes] = field(default_factory=dict)

    def table(self, name: str) -> Table | None:
        """The table of that name."""
        return next((one for one in self.tables if one.name == name), None)


_TEXT: Mapping[str, Callable[[Any], str]] = {
    "string": str,
    "uuid": str,
    "integer": str,
    "number": repr,
    "boolean": lambda value: "true" if value else "false",
    "datetime": lambda value: str(value.isoformat()),
    "date": lambda value: str(value.isoformat()),
    "object": lambda value: json.dumps(value, sort_keys=True, ensure_ascii=False),
    "array": lambda value: json.dumps(value, ensure_ascii=False),
}


def _plain(text: str) -> str:
    """A text of several lines, without characters that cannot be seen."""
    checked_text(text.translate(_LINES), MOST_CELL)
    return text


_LINES = str.maketrans("\n\r\t", "   ")


def _number(text: str) -> float:
    value = float(text)
    if not math.isfinite(value):
        raise ValueError(text)
    return value


def _truth(text: str) -> bool:
    if text not in ("true", "false"):
        raise ValueError(text)
    return text == "true"


def _json_of(kind: type) -> Callable[[str], Any]:
    def read(text: str) -> Any:
        found = json.loads(text)
        if not isinstance(found, kind):
            raise ValueError(text)
        return found

    return read


_VALUE: Mapping[str, Callable[[str], Any]] = {
    "string": _plain,
    "uuid": UUID,
    "integer": int,
    "number": _number,
    "boolean": _truth,
    "datetime": datetime.fromisoformat,
    "date": date.fromisoformat,
    "object": _json_of(dict),
    "array": _json_of(list),
}


def _described(column: Column) -> dict[str, str]:
    """A column as the table schema has it."""
    if column.kind == "uuid":
        return {"name": column.name, "type": "string", "format": "uuid"}
    return {"name": column.name, "type": "string" if column.kind == "file" else column.kind}


def write_package(package: Package, target: Path) -> None:
    """Write the whole package as one ZIP file.

    Raises
    ------
    BadInputError
        If a text is the very mark that stands for nothing.
    """
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as packed:
        resources = []
        kept: set[str] = set()
        for table in package.tables:
            output = io.StringIO(newline="")
            writer = csv.writer(output, lineterminator="\n")
            writer.writerow([column.name for column in table.columns])
            for row in table.rows:
                writer.writerow(
                    _kept(packed, kept, bytes(value))
                    if column.kind == "file" and value is not None
                    else _cell(column, value)
                    for column, value in zip(table.columns, row, strict=True)
                )
            body = output.getvalue().encode()
            path = f"data/{table.name}.csv"
            _put(packed, path, body)
            resources.append(_resource(table, path, body))
        for name, page in package.pages.items():
            _put(packed, name, page)
        described = {
            "profile": "data-package",
            "name": "haremile",
            "title": package.title,
            "created": package.made_at.isoformat(),
            "haremile": {
                "format": FORMAT,
                "origin": str(package.origin),
                "origin_name": package.origin_name,
            },
            "resources": resources,
        }
        _put(packed, DESCRIPTION, json.dumps(described, indent=1, ensure_ascii=False).encode())


def _put(packed: zipfile.ZipFile, name: str, body: bytes) -> None:
    packed.writestr(zipfile.ZipInfo(name, LONG_AGO), body, zipfile.ZIP_DEFLATED)


def _kept(packed: zipfile.ZipFile, kept: set[str], body: bytes) -> str:
    digest = hashlib.sha256(body).hexdigest()
    if digest not in kept:
        kept.add(digest)
        _put(packed, f"files/{digest}", body)
    return digest


def _cell(column: Column, value: Any) -> str:
    if value is None:
        return NOTHING
    text = _TEXT["string" if column.kind == "file" else column.kind](value)
    if text == NOTHING:
        raise BadInputError(f"a text of {column.name} is {NOTHING}, which stands for nothing")
    return text


def _resource(table: Table, path: str, body: bytes) -> dict[str, Any]:
    return {
        "name": table.name,
        "path": path,
        "profile": "tabular-data-resource",
        "format": "csv",
        "mediatype": "text/csv",
        "encoding": "utf-8",
        "bytes": len(body),
        "hash": f"sha256:{hashlib.sha256(body).hexdigest()}",
        "schema": {
            "fields": [_described(one) for one in table.columns],
            "primaryKey": list(table.key),
            "missingValues": [NOTHING],
            "foreignKeys": [
                {"fields": name, "reference": {"resource": to, "fields": "id"}}
                for name, to in table.refers.items()
            ],
        },
    }


def read_package(file: IO[bytes], known: Sequence[Table]) -> Package:
    """Read a package whose tables are as `known` has them; pages are left out.

    Raises
    ------
    BadInputError
        If it is none, is larger than its bounds, of a later format, holds what its schema does not
        say, or a file whose sha256 is another.
    """
    try:
        with zipfile.ZipFile(file) as packed:
            return _Reader(packed, known).package()
    except zipfile.BadZipFile as broken:
        raise BadInputError(f"this is no data package: {broken}") from None


class _Reader:
    """Reads one package, bounded."""

    def __init__(self, packed: zipfile.ZipFile, known: Sequence[Table]):
        self._packed, self._known = packed, {one.name: one for one in known}
        members = packed.infolist()
        if len(members) > MOST_MEMBERS:
            raise BadInputError(f"{len(members)} files in one package; {MOST_MEMBERS} at most")
        if sum(one.file_size for one in members) > MOST_UNPACKED:
            raise BadInputError(f"the package unpacks to more than {MOST_UNPACKED // 2**30} GiB")
        self._sizes = {one.filename: one.file_size for one in members}

    def package(self) -> Package:
        described = self._described()
        own = described["haremile"]
        tables = tuple(self._tables(described.get("resources")))
        try:
            return Package(
                checked_text(str(described.get("title", ""))),
                UUID(own["origin"]),
                checked_text(str(own.get("origin_name", ""))),
                datetime.fromisoformat(described["created"]),
                tables,
            )
        except (KeyError, ValueError, TypeError, AttributeError):
            raise BadInputError("the package does not say where it is from, and when") from None

    def _described(self) -> dict[str, Any]:
        try:
            found = json.loads(self._body(DESCRIPTION, MOST_DESCRIPTION))
        except (ValueError, RecursionError):
            raise BadInputError(f"{DESCRIPTION} is no JSON") from None
        own = found.get("haremile") if isinstance(found, dict) else None
        if not isinstance(own, dict) or own.get("format") != FORMAT:
            has = own.get("format") if isinstance(own, dict) else None
            raise BadInputError(
                f"this package is of format {str(has)[:60]}; expected {FORMAT}"
                if has
                else "this data package is not of a bench book"
            )
        return dict(found)

    def _body(self, name: str, most: int) -> bytes:
        if name not in self._sizes:
            raise BadInputError(f"the package lacks {name[:200]}")
        if self._sizes[name] > most:
            raise BadInputError(f"{name[:200]} holds more than {most // 2**20} MiB")
        with self._packed.open(name) as member:
            body = member.read(most + 1)
        if len(body) > most:
            raise BadInputError(f"{name[:200]} holds more than {most // 2**20} MiB")
        return body

    def _tables(self, resources: Any) -> Iterator[Table]:
        names = [one.get("name") for one in resources] if isinstance(resources, list) else []
        stray = next((one for one in names if one not in self._known), None)
        if stray is not None or len(set(names)) < len(names):
            raise BadInputError(f"the package holds a table {str(stray)[:60]}, unknown or twice")
        for name, table in self._known.items():
            if name in names:
                yield self._table(table)

    def _table(self, table: Table) -> Table:
        path = f"data/{table.name}.csv"
        if path not in self._sizes:
            raise BadInputError(f"the package lacks {path}")
        csv.field_size_limit(MOST_CELL)
        rows = []
        with self._packed.open(path) as member:
            lines = csv.reader(io.TextIOWrapper(member, "utf-8", newline=""), strict=True)
            try:
                head = next(lines, [])
                if head != [column.name for column in table.columns]:
                    raise BadInputError(f"{path}: its columns are not those of {FORMAT}")
                rows = [self._row(table, path, i, cells) for i, cells in enumerate(lines, start=2)]
            except (csv.Error, UnicodeDecodeError, zipfile.BadZipFile) as broken:
                raise BadInputError(f"{path}: {broken}") from None
        return Table(table.name, table.columns, table.key, table.refers, rows)

    def _row(self, table: Table, path: str, line: int, cells: list[str]) -> list[Any]:
        if len(cells) != len(table.columns):
            raise BadInputError(f"{path}, line {line}: {len(cells)} cells")
        found = []
        for column, text in zip(table.columns, cells, strict=True):
            try:
                found.append(self._value(column, text))
            except (ValueError, RecursionError):
                raise BadInputError(
                    f"{path}, line {line}: {column.name} is no {column.kind}: {text[:60]}"
                ) from None
        return found

    def _value(self, column: Column, text: str) -> Any:
        if text == NOTHING:
            return None
        if column.kind != "file":
            return _VALUE[column.kind](text)
        if len(text) != 64:
            raise ValueError(text)
        body = self._body(f"files/{text}", MOST_CELL)
        if hashlib.sha256(body).hexdigest() != text:
            raise BadInputError(f"files/{text} is not what its name says")
        return body
