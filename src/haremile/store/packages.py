"""Studies, or the whole bench book, as tables of a package, and back."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from hashlib import sha256
from typing import Any
from uuid import UUID

import peewee
from playhouse.postgres_ext import ArrayField, BinaryJSONField, DateTimeTZField
from psycopg import errors as sql_errors
from psycopg.types.json import Jsonb

from haremile.core.records.study import RunState, StudyState
from haremile.errors import BadInputError, ConflictError, NotFoundError
from haremile.formats.data_package import Column, Package, Table
from haremile.store.database import connected, grew, rows_of
from haremile.store.events import PostgresEventLog
from haremile.store.rows import (
    AliasRow,
    AttemptRow,
    BandsRow,
    BenchBookRow,
    CaptureRow,
    ClaimRow,
    ContenderRow,
    DistributionRow,
    FactRow,
    HostRow,
    HoursRow,
    IncidentRow,
    InstallRow,
    LaneRow,
    MachineRow,
    MarginRow,
    OverrideRow,
    OwnMeasureRow,
    PhotographRow,
    QuotedRow,
    ReadingRow,
    ReportRow,
    ReportVersionRow,
    RunRow,
    ScorecardRow,
    StudyOriginRow,
    StudyRow,
    SystemRow,
    TombstoneRow,
    TraceRow,
    WeightSetRow,
    WorksRow,
    database,
)
from haremile.usecases.ports import (
    Differing,
    OfferedCommands,
    PackageChoices,
    PackageTaken,
    TakenName,
    TakenStudy,
)

STUDIES = "select unnest(%(studies)s::uuid[])"
CONTENDERS = f"select id from contender where study_id in ({STUDIES})"
INSTALLS = f"select install_id from contender where study_id in ({STUDIES})"
SYSTEMS = f"select system_id from install where id in ({INSTALLS})"
MACHINES = f"select machine_id from install where id in ({INSTALLS})"
RUNS = f"select id from run where study_id in ({STUDIES})"
ATTEMPTS = f"select id from attempt where run_id in ({RUNS})"
OF_SYSTEMS = f"system_id in ({SYSTEMS}) and (machine_id is null or machine_id in ({MACHINES}))"
HELD: Sequence[tuple[type[peewee.Model], str | None]] = (
    (DistributionRow, f"id in (select distribution_id from system where id in ({SYSTEMS}))"),
    (SystemRow, f"id in ({SYSTEMS})"),
    (HostRow, f"id in (select host_id from machine where id in ({MACHINES}))"),
    (MachineRow, f"id in ({MACHINES})"),
    (InstallRow, f"id in ({INSTALLS})"),
    (FactRow, f"thing in ({SYSTEMS} union {MACHINES})"),
    (AliasRow, f"thing in ({SYSTEMS} union {MACHINES})"),
    (ClaimRow, f"system_id in ({SYSTEMS})"),
    (StudyRow, f"id in ({STUDIES})"),
    (ContenderRow, f"study_id in ({STUDIES})"),
    (MarginRow, f"study_id in ({STUDIES})"),
    (OverrideRow, f"study_id in ({STUDIES})"),
    (RunRow, f"study_id in ({STUDIES})"),
    (CaptureRow, f"id in (select capture_id from attempt where run_id in ({RUNS}))"),
    (AttemptRow, f"run_id in ({RUNS})"),
    (LaneRow, f"contender_id in ({CONTENDERS})"),
    (ReadingRow, f"attempt_id in ({ATTEMPTS})"),
    (TraceRow, f"attempt_id in ({ATTEMPTS})"),
    (QuotedRow, f"study_id in ({STUDIES})"),
    (PhotographRow, f"run_id in ({RUNS})"),
    (IncidentRow, OF_SYSTEMS),
    (HoursRow, OF_SYSTEMS),
    (ScorecardRow, f"system_id in ({SYSTEMS})"),
    (WorksRow, OF_SYSTEMS),
    (ReportRow, f"study_id in ({STUDIES})"),
    (ReportVersionRow, f"study_id in ({STUDIES})"),
    (BandsRow, None),
    (WeightSetRow, None),
    (OwnMeasureRow, f"key in (select metric from lane where contender_id in ({CONTENDERS}))"),
)
"""Every table of a package, what it rests on before it, and which rows belong to given studies;
None where the table belongs to the whole bench book alone."""

OF_HERE = {"attempt": ("conductor", "beat_at"), "install": ("offered",)}
"""What says something of this bench alone."""

BY_HASH = frozenset({("capture", "body")})
"""What is compared by the hash beside it: it may be large."""

NAMED = {"distribution": "name", "system": "name", "host": "name", "machine": "name"}
ASKED = ("system", "machine")
THINGS = {"fact": "thing", "alias": "thing"}
BATCH = 500
MOST_LISTED = 200
_KINDS: Sequence[tuple[type[peewee.Field], str]] = (
    (DateTimeTZField, "datetime"),
    (peewee.DateField, "date"),
    (ArrayField, "array"),
    (peewee.BooleanField, "boolean"),
    (peewee.DoubleField, "number"),
    (peewee.IntegerField, "integer"),
    (peewee.BlobField, "file"),
    (peewee.UUIDField, "uuid"),
    (peewee.ForeignKeyField, "uuid"),
)


def _kind(column: peewee.Field) -> str:
    if isinstance(column, BinaryJSONField):
        is_list = column.default is list or column.name in ARRAYS
        return "array" if is_list else "object"
    return next((kind for made, kind in _KINDS if isinstance(column, made)), "string")


ARRAYS = frozenset({"procedures", "changes", "texts", "ends", "names", "limits", "tags"})
"""Columns that hold lists as JSON."""


def _table(row: type[peewee.Model]) -> Table:
    meta = row._meta
    left_out = OF_HERE.get(meta.table_name, ())
    fields = [one for one in meta.sorted_fields if one.column_name not in left_out]
    refers = {
        one.column_name: one.rel_model._meta.table_name
        for one in fields
        if isinstance(one, peewee.ForeignKeyField)
    }
    return Table(
        meta.table_name,
        tuple(Column(one.column_name, _kind(one)) for one in fields),
        (str(meta.primary_key.column_name),),  # type: ignore[union-attr]
        refers,
    )


class PostgresPackages:
    """Hands on and takes in."""

    def __init__(self, events: PostgresEventLog):
        self._events = events

    @connected
    def bench(self) -> UUID:
        """Which bench book this is."""
        found: UUID = BenchBookRow.select(BenchBookRow.id).scalar()
        return found

    def known(self) -> list[Table]:
        """The tables that a package can hold, without rows."""
        return [_table(row) for row, _ in HELD]

    @connected
    def tables(self, studies: Sequence[UUID] | None) -> list[Table]:
        """The rows of these studies and of all that they rest on; of everything with None. Raises
        NotFoundError."""
        with database.atomic():
            database.execute_sql("set transaction isolation level repeatable read")
            for key in studies or ():
                if not StudyRow.select().where(StudyRow.id == key).exists():
                    raise NotFoundError("study", key)
            return list(self._filled(studies))

    def _filled(self, studies: Sequence[UUID] | None) -> Iterator[Table]:
        for row, where in HELD:
            table = _table(row)
            if studies is not None and where is None:
                continue
            names = ", ".join(f'"{one.name}"' for one in table.columns)
            chosen = f"where {where}" if studies is not None else ""
            query = f'select {names} from "{table.name}" {chosen} order by "{table.key[0]}"'
            found = database.execute_sql(query, {"studies": list(studies or ())})
            yield replace(table, rows=[list(one) for one in found])

    @connected
    def look(self, package: Package, choices: PackageChoices) -> PackageTaken:
        """What a package would bring; nothing is kept."""
        with database.atomic() as whole:
            taken = self._taken(package, choices)
            whole.rollback()
        return taken

    @connected
    def take_in(self, package: Package, choices: PackageChoices) -> PackageTaken:
        """Keep everything of a package, or nothing. Raises BadInputError, ConflictError."""
        with database.atomic():
            taken = self._taken(package, choices)
            if taken.rows > BATCH:
                grew("reading")
            for one in taken.studies:
                if one.what in (NEW, MORE):
                    self._events.add("package.taken_in", one.id, origin=package.origin_name)
        return taken

    def _taken(self, package: Package, choices: PackageChoices) -> PackageTaken:
        try:
            return _Taking(package, choices, self.bench()).all()
        except (sql_errors.IntegrityError, peewee.IntegrityError) as broken:
            told = str(broken).splitlines()[0]
            raise ConflictError(f"the package does not fit what is here: {told}") from None
        except (sql_errors.DataError, peewee.DataError) as broken:
            told = str(broken).splitlines()[0]
            raise BadInputError(f"the package holds what cannot be kept: {told}") from None

    @connected
    def offered(self) -> list[OfferedCommands]:
        """Commands that wait to be approved."""
        rows = InstallRow.select().where(InstallRow.offered.is_null(False))
        return [
            OfferedCommands(row.id, _install_name(row), _commands(row.offered))
            for row in rows.order_by(InstallRow.id)
        ]

    @connected
    def approve(self, install: UUID, is_approved: bool) -> None:
        """Let an install's commands be run, or forget them. Raises NotFoundError."""
        with database.atomic():
            row = InstallRow.get_or_none(
                InstallRow.id == install, InstallRow.offered.is_null(False)
            )
            if row is None:
                raise NotFoundError("install with commands that wait", install)
            given: dict[str, Any] = {"offered": None}
            if is_approved:
                given |= {"recipe": row.offered["recipe"], "rig": row.offered["rig"]}
            InstallRow.update(given).where(InstallRow.id == install).execute()
            what = "commands.approved" if is_approved else "commands.forgotten"
            self._events.add(what, None, install=_install_name(row))

    @connected
    def origin(self, study_id: UUID) -> str | None:
        """Name of the bench book that a study was taken in from; None if from none."""
        found: str | None = (
            StudyOriginRow.select(StudyOriginRow.name)
            .where(StudyOriginRow.study == study_id)
            .scalar()
        )
        return found


NEW, MORE, SAME, DELETED = "new", "more of one that is here", "the same as here", "deleted here"


def _install_name(row: InstallRow) -> str:
    parts = [row.system.name, row.machine.name, row.name]
    return ", ".join(one for one in parts if one)


def _commands(offered: Mapping[str, Any]) -> dict[str, str]:
    told = {name: str(text) for name, text in offered["recipe"].items()}
    return told if offered["rig"] is None else {"operated by": str(offered["rig"]), **told}


@dataclass
class _Taking:
    """One package on its way in, within a transaction."""

    package: Package
    choices: PackageChoices
    bench: UUID
    ours: dict[tuple[str, Any], Any] = field(default_factory=dict)
    """Their key, by table, where ours is another."""
    left: set[tuple[str, Any]] = field(default_factory=set)
    """What is left out, with all that rests on it."""
    names: list[TakenName] = field(default_factory=list)
    differing: list[Differing] = field(default_factory=list)
    commands: list[OfferedCommands] = field(default_factory=list)
    added: dict[str, int] = field(default_factory=dict)
    fresh: set[UUID] = field(default_factory=set)
    changed: set[UUID] = field(default_factory=set)

    def all(self) -> PackageTaken:
        for row, _ in HELD:
            table = self.package.table(row._meta.table_name)
            if table is not None:
                self._take(table)
        studies = self.package.table("study")
        is_own = self.package.origin == self.bench
        found = []
        for known in studies.lines() if studies else ():
            found.append(TakenStudy(known["id"], known["title"], self._what(known["id"])))
            if not is_own and known["id"] in self.fresh:
                StudyOriginRow.create(
                    study=known["id"], bench=self.package.origin, name=self.package.origin_name
                )
        return PackageTaken(
            self.package.origin,
            self.package.origin_name,
            is_own,
            found,
            sum(self.added.values()),
            self.names,
            self.differing[:MOST_LISTED],
            self.commands,
        )

    def _what(self, study: UUID) -> str:
        if ("study", study) in self.left:
            return DELETED
        if study in self.fresh:
            return NEW
        return MORE if study in self.changed else SAME

    def _take(self, table: Table) -> None:
        names = [column.name for column in table.columns]
        incoming = []
        for row in table.lines():
            if self._is_left(table, row):
                self.left.add((table.name, row[table.key[0]]))
                continue
            if table.name == "capture" and sha256(row["body"]).hexdigest() != row["sha256"]:
                raise BadInputError(f"capture {row['id']}: its bytes are not those that were taken")
            self._refer(table, row)
            incoming.append(row)
        told = [one for one in names if (table.name, one) not in BY_HASH]
        here = self._here(table, told, [row[table.key[0]] for row in incoming])
        for row in incoming:
            known = here.get(row[table.key[0]])
            if known is not None:
                self._meet(table, row, known)
            elif not self._is_ours(table, row):
                self._add(table, row)

    def _is_left(self, table: Table, row: Mapping[str, Any]) -> bool:
        if table.name in ("study", "run", "capture"):
            gone = TombstoneRow.select().where(TombstoneRow.id == row["id"]).exists()
            if gone:
                return True
        return any((to, row[name]) in self.left for name, to in table.refers.items())

    def _refer(self, table: Table, row: dict[str, Any]) -> None:
        """What it rests on, by our keys."""
        for name, to in table.refers.items():
            row[name] = self.ours.get((to, row[name]), row[name])
        thing = THINGS.get(table.name)
        if thing:
            row[thing] = self.ours.get((row["noun"], row[thing]), row[thing])

    def _here(
        self, table: Table, names: Sequence[str], keys: Sequence[Any]
    ) -> dict[Any, dict[str, Any]]:
        found = {}
        columns = ", ".join(f'"{name}"' for name in names)
        for start in range(0, len(keys), BATCH):
            query = f'select {columns} from "{table.name}" where "{table.key[0]}" = any(%s)'
            for one in database.execute_sql(query, (list(keys[start : start + BATCH]),)):
                row = {
                    name: bytes(value) if isinstance(value, memoryview) else value
                    for name, value in zip(names, one, strict=True)
                }
                found[row[table.key[0]]] = row
        return found

    def _meet(self, table: Table, row: dict[str, Any], known: Mapping[str, Any]) -> None:
        """The same id is here already: once is enough."""
        ignored = ("recipe", "rig") if table.name == "install" and not self._is_own() else ()
        columns = [
            name
            for name, value in row.items()
            if name in known and known[name] != value and name not in ignored
        ]
        if not columns:
            return
        if table.name == "capture":
            raise ConflictError(f"capture {row['id']} is here with other bytes; it stays as it is")
        self.differing.append(Differing(table.name, _called(row), columns))
        if self.choices.is_theirs:
            given = {name: row[name] for name in columns}
            self._write(table, given, row[table.key[0]])
            self._note(table, row)

    def _is_own(self) -> bool:
        return self.package.origin == self.bench

    def _is_ours(self, table: Table, row: dict[str, Any]) -> bool:
        """Whether something of ours is what this is, under another id."""
        if table.name in NAMED:
            return self._is_named(table, row)
        if table.name == "install":
            query = "select id from install where system_id = %s and machine_id = %s and name = %s"
            found = rows_of(query, row["system_id"], row["machine_id"], row["name"])
            if found:
                self.ours["install", row["id"]] = found[0].id
            return bool(found)
        alike = ALIKE.get(table.name)
        if alike is None:
            return False
        found = rows_of(alike[0], *(row[name] for name in alike[1]))
        if found and table.name != "alias":
            self.differing.append(Differing(table.name, _called(row), ("id",)))
        return bool(found)

    def _is_named(self, table: Table, row: dict[str, Any]) -> bool:
        found = rows_of(f'select id from "{table.name}" where name = %s', row["name"])
        if not found:
            return False
        if table.name in ASKED:
            self.names.append(TakenName(row["id"], table.name, row["name"]))
        if row["id"] in self.choices.renamed and table.name in ASKED:
            row["name"] = self._free_name(table.name, row["name"])
            return False
        self.ours[table.name, row["id"]] = found[0].id
        return True

    def _free_name(self, table: str, name: str) -> str:
        origin = self.package.origin_name or "another bench"
        for number in range(1, 100):
            tried = f"{name} ({origin})" if number == 1 else f"{name} ({origin} {number})"
            if not rows_of(f'select id from "{table}" where name = %s', tried):
                return tried
        raise ConflictError(f"there is no free name for {name}")

    def _add(self, table: Table, row: dict[str, Any]) -> None:
        self._settle(table, row)
        names = list(row)
        columns = ", ".join(f'"{name}"' for name in names)
        places = ", ".join(["%s"] * len(names))
        values = [_stored(table.name, name, row[name]) for name in names]
        query = f'insert into "{table.name}" ({columns}) values ({places})'
        database.execute_sql(query, values)
        self.added[table.name] = self.added.get(table.name, 0) + 1
        if table.name == "study":
            self.fresh.add(row["id"])
        self._note(table, row)

    def _settle(self, table: Table, row: dict[str, Any]) -> None:
        """What was under way there is not under way here; commands wait to be approved."""
        if table.name == "study" and row["state"] == StudyState.RUNNING:
            row["state"] = str(StudyState.PAUSED)
        if table.name == "run" and row["state"] in (RunState.LEASED, RunState.RUNNING):
            row["state"] = str(RunState.PLANNED)
        if table.name != "install" or self._is_own():
            return
        recipe, rig = row["recipe"], row["rig"]
        row["recipe"], row["rig"] = {}, None
        if recipe or rig is not None:
            row["offered"] = {"recipe": recipe, "rig": rig}
            called = f"{row['name'] or 'install'} {row['id']}"
            self.commands.append(OfferedCommands(row["id"], called, _commands(row["offered"])))

    def _note(self, table: Table, row: Mapping[str, Any]) -> None:
        """To which study this belongs."""
        study = row.get("study_id")
        if study is not None:
            self.changed.add(study)
        if table.name in ("attempt", "photograph"):
            found = rows_of("select study_id from run where id = %s", row["run_id"])
            self.changed.update(one.study_id for one in found)

    def _write(self, table: Table, given: Mapping[str, Any], key: Any) -> None:
        columns = ", ".join(f'"{name}" = %s' for name in given)
        values = [_stored(table.name, name, value) for name, value in given.items()]
        query = f'update "{table.name}" set {columns} where "{table.key[0]}" = %s'
        database.execute_sql(query, [*values, key])


ALIKE: Mapping[str, tuple[str, tuple[str, ...]]] = {
    "alias": ("select id from alias where noun = %s and name = %s", ("noun", "name")),
    "weight_set": ("select id from weight_set where name = %s", ("name",)),
    "own_measure": ("select id from own_measure where key = %s", ("key",)),
    "scorecard": (
        "select id from scorecard where system_id = %s and version = %s",
        ("system_id", "version"),
    ),
    "report_version": (
        "select id from report_version where study_id = %s and version = %s",
        ("study_id", "version"),
    ),
}
"""What of ours is meant by something that bears another id."""


JSON = frozenset(
    (row._meta.table_name, one.column_name)
    for row, _ in HELD
    for one in row._meta.sorted_fields
    if isinstance(one, BinaryJSONField)
)


def _stored(table: str, name: str, value: Any) -> Any:
    return Jsonb(value) if value is not None and (table, name) in JSON else value


def _called(row: Mapping[str, Any]) -> str:
    found = row.get("name") or row.get("title") or row.get("metric") or row.get("id")
    return str(found)
