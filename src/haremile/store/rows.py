"""The tables, as the newest migration leaves them."""

from collections.abc import Iterable, Mapping
from datetime import UTC, datetime
from typing import Any, Self
from uuid import UUID

from peewee import (
    BigAutoField,
    BigIntegerField,
    BlobField,
    BooleanField,
    Check,
    DatabaseProxy,
    DateField,
    DoubleField,
    ForeignKeyField,
    IntegerField,
    Model,
    TextField,
    UUIDField,
)
from playhouse.postgres_ext import ArrayField, BinaryJSONField, DateTimeTZField
from uuid_utils.compat import uuid7

from haremile.errors import DeletedError, NotFoundError

database = DatabaseProxy()


def now() -> datetime:
    """The present instant, with its zone."""
    return datetime.now(UTC)


def _facts(**options: Any) -> BinaryJSONField:
    return BinaryJSONField(index=False, default=dict, **options)


class Row(Model):
    """What every table shares."""

    id = UUIDField(primary_key=True, default=uuid7)

    class Meta:
        database = database
        legacy_table_names = False

    @classmethod
    def kept(cls, defaults: Mapping[str, object] | None = None, **fields: object) -> Self:
        """The row with these fields, made with `defaults` beside them if there was none."""
        row: Self
        row, _ = cls.get_or_create(defaults=dict(defaults or {}), **fields)  # type: ignore[no-untyped-call]
        return row


class DistributionRow(Row):
    """A maker of systems."""

    name = TextField(unique=True)

    class Meta:
        table_name = "distribution"


class SystemRow(Row):
    """A release of a distribution in one edition, for one architecture; null is *not stated*."""

    name = TextField(unique=True)
    distribution = ForeignKeyField(DistributionRow, null=True)
    release = TextField(null=True)
    edition = TextField(null=True)
    architecture = TextField(null=True)
    facts = _facts()
    recipe = _facts()
    put_away_at = DateTimeTZField(null=True)
    distribution_id: UUID | None

    class Meta:
        table_name = "system"


class HostRow(Row):
    """A computer that carries machines; how many runs it can carry at once."""

    name = TextField(unique=True)
    capacity = IntegerField(default=1)

    class Meta:
        table_name = "host"


class MachineRow(Row):
    """What systems are measured on."""

    name = TextField(unique=True)
    host = ForeignKeyField(HostRow)
    kind = TextField(constraints=[Check("kind in ('physical', 'virtual', 'simulated')")])
    facts = _facts()
    profile = BinaryJSONField(index=False, null=True)
    put_away_at = DateTimeTZField(null=True)

    class Meta:
        table_name = "machine"


class InstallRow(Row):
    """A system on a machine in a stated condition."""

    system = ForeignKeyField(SystemRow, backref="installs")
    machine = ForeignKeyField(MachineRow, backref="installs")
    name = TextField(default="")
    rig = TextField(null=True)
    recipe = _facts()
    identity = UUIDField(null=True, unique=True)
    is_reference = BooleanField(default=False)
    put_away_at = DateTimeTZField(null=True)
    added = TextField(default="")
    offered = BinaryJSONField(index=False, null=True)
    machine_id: UUID

    class Meta:
        table_name = "install"
        indexes = ((("system", "machine", "name"), True),)


class StudyRow(Row):
    """One question with its plan."""

    title = TextField()
    state = TextField()
    seed = BigIntegerField()
    blocks = IntegerField()
    procedures = BinaryJSONField(index=False)
    interim_looks = BinaryJSONField(index=False, default=list)
    extensions = BinaryJSONField(index=False, default=list)
    stopping = BinaryJSONField(index=False, null=True)
    draft = BinaryJSONField(index=False, null=True)
    run_order = TextField(default="blocks")
    note = TextField(default="")
    tags = BinaryJSONField(index=False, default=list)
    created_at = DateTimeTZField(default=now)
    put_away_at = DateTimeTZField(null=True)
    contenders: Iterable["ContenderRow"]
    margins: Iterable["MarginRow"]
    overrides: Iterable["OverrideRow"]

    class Meta:
        table_name = "study"


class ContenderRow(Row):
    """An install taking part in a study, in its fixed lane."""

    study = ForeignKeyField(StudyRow, backref="contenders")
    install = ForeignKeyField(InstallRow)
    lane_no = IntegerField()
    label = TextField()

    class Meta:
        table_name = "contender"
        indexes = ((("study", "lane_no"), True), (("study", "install"), True))


class MarginRow(Row):
    """The margin that matters for one metric of a study."""

    study = ForeignKeyField(StudyRow, backref="margins")
    metric = TextField()
    share = DoubleField(null=True)
    amount = DoubleField(null=True)

    class Meta:
        table_name = "margin"
        indexes = ((("study", "metric"), True),)


class OverrideRow(Row):
    """A condition that differs in a study and is accepted, for a reason."""

    study = ForeignKeyField(StudyRow, backref="overrides")
    key = TextField()
    reason = TextField()

    class Meta:
        table_name = "override"
        indexes = ((("study", "key"), True),)


class RunRow(Row):
    """One place of the run sheet."""

    study = ForeignKeyField(StudyRow, backref="runs")
    contender = ForeignKeyField(ContenderRow, backref="runs")
    block = IntegerField()
    position = IntegerField()
    procedure = TextField()
    condition_hash = TextField()
    conditions = _facts()
    repeat = IntegerField(default=1)
    state = TextField()
    reason = TextField(null=True)
    attempt_no = IntegerField(default=0)
    study_id: UUID

    class Meta:
        table_name = "run"
        indexes = (
            (("study", "block", "contender", "procedure", "condition_hash", "repeat"), True),
            (("study", "state", "position"), False),
        )


class CaptureRow(Row):
    """Evidence, kept whole under its maker's id."""

    sha256 = TextField(index=True)
    kind = TextField()
    made_at = DateTimeTZField(null=True)
    body = BlobField()

    class Meta:
        table_name = "capture"


class AttemptRow(Row):
    """One try at a run, fenced by its number."""

    run = ForeignKeyField(RunRow, backref="attempts")
    number = IntegerField()
    state = TextField()
    started_at = DateTimeTZField(null=True)
    finished_at = DateTimeTZField(null=True)
    reason = TextField(null=True)
    conditions = _facts()
    capture = ForeignKeyField(CaptureRow, null=True)
    put_away_at = DateTimeTZField(null=True)
    conductor = BigIntegerField(null=True)
    beat_at = DateTimeTZField(null=True)
    capture_id: UUID | None

    class Meta:
        table_name = "attempt"
        indexes = ((("run", "number"), True),)


class LaneRow(Row):
    """The lane of a contender for one metric, method and set of conditions."""

    contender = ForeignKeyField(ContenderRow)
    metric = TextField()
    method = TextField()
    condition_hash = TextField()
    conditions = _facts()

    class Meta:
        table_name = "lane"
        indexes = ((("contender", "metric", "method", "condition_hash"), True),)


class ReadingRow(Row):
    """One value of one metric, in its canonical unit."""

    attempt = ForeignKeyField(AttemptRow, backref="readings")
    lane = ForeignKeyField(LaneRow, backref="readings")
    metric = TextField()
    method = TextField()
    step = IntegerField(default=0)
    value = DoubleField()
    unit = TextField()
    resolution = DoubleField(null=True)
    set_aside = TextField(null=True)
    set_aside_at = DateTimeTZField(null=True)
    value_before = DoubleField(null=True)

    class Meta:
        table_name = "reading"
        indexes = ((("attempt", "metric", "method", "step"), True),)


class TraceRow(Row):
    """A curve of an attempt."""

    attempt = ForeignKeyField(AttemptRow, backref="traces")
    metric = TextField()
    unit = TextField()
    times_s = ArrayField(DoubleField, index=False)
    values = ArrayField(DoubleField, index=False)

    class Meta:
        table_name = "trace"


class MachineKeyRow(Row):
    """A key by which a machine may speak with the server; only its digest is kept, which is what
    messages are signed with. `name` may be told to everyone."""

    machine = ForeignKeyField(MachineRow)
    name = TextField(unique=True)
    digest = TextField(unique=True)
    made_at = DateTimeTZField(default=now)
    revoked_at = DateTimeTZField(null=True)

    class Meta:
        table_name = "machine_key"


class MachineSignRow(Model):
    """The last sign of an enrolled machine."""

    machine = ForeignKeyField(MachineRow, primary_key=True)
    install = ForeignKeyField(InstallRow, null=True)
    seen_at = DateTimeTZField(default=now)
    boot_id = TextField()
    is_leaving = BooleanField(default=False)
    install_id: UUID | None

    class Meta:
        database = database
        table_name = "machine_sign"


class MachineJobRow(Row):
    """What an enrolled machine is asked to do for one attempt."""

    machine = ForeignKeyField(MachineRow)
    install = ForeignKeyField(InstallRow)
    run = ForeignKeyField(RunRow)
    attempt_no = IntegerField()
    procedure = TextField()
    conditions = _facts()
    stage = TextField()
    stamps = _facts()
    made_at = DateTimeTZField(default=now)
    body = BlobField(null=True)
    run_id: UUID

    class Meta:
        table_name = "job"
        indexes = ((("run", "attempt_no"), True),)


class ReactionRow(Row):
    """A drill of a person who times by hand."""

    person = TextField()
    at = DateTimeTZField(default=now)
    answers_s = BinaryJSONField(index=False)
    delay_s = DoubleField()
    scatter_s = DoubleField()
    error_s = DoubleField()
    signals = IntegerField()
    left_out = IntegerField()

    class Meta:
        table_name = "reaction"


class QuotedRow(Row):
    """A figure from elsewhere, beside a row of the verdict sheet."""

    study = ForeignKeyField(StudyRow)
    lane_no = IntegerField()
    row_key = TextField()
    metric = TextField()
    low = DoubleField()
    high = DoubleField()
    unit = TextField()
    source = TextField()
    dated = TextField()
    at = DateTimeTZField(default=now)
    is_withdrawn = BooleanField(default=False)
    study_id: UUID

    class Meta:
        table_name = "quoted"


class PhotographRow(Row):
    """A photograph beside a run, as the page drew it anew."""

    run = ForeignKeyField(RunRow)
    name = TextField()
    image = TextField()
    at = DateTimeTZField(default=now)
    is_withdrawn = BooleanField(default=False)
    run_id: UUID

    class Meta:
        table_name = "photograph"


class EventRow(Model):
    """Something that happened; rows are only ever added."""

    id = BigAutoField()
    at = DateTimeTZField(default=now)
    kind = TextField()
    study = UUIDField(null=True)
    run = UUIDField(null=True)
    facts = _facts()

    class Meta:
        database = database
        table_name = "event"
        indexes = ((("study", "id"), False),)


class PersonRow(Row):
    """Somebody who may come in, with a role."""

    name = TextField(unique=True)
    role = TextField(constraints=[Check("role in ('look', 'work', 'own')")])
    made_at = DateTimeTZField(default=now)
    keys: int  # where a query counts them

    class Meta:
        table_name = "person"


class PersonKeyRow(Row):
    """A key of a person; only its digest is kept."""

    person = ForeignKeyField(PersonRow)
    digest = TextField(unique=True)
    made_at = DateTimeTZField(default=now)
    revoked_at = DateTimeTZField(null=True)
    person_id: UUID

    class Meta:
        table_name = "person_key"


class EntryRow(Row):
    """A token that becomes one session."""

    person = ForeignKeyField(PersonRow)
    digest = TextField(unique=True)
    is_pairing = BooleanField(default=False)
    made_at = DateTimeTZField(default=now)
    expires_at = DateTimeTZField()
    used_at = DateTimeTZField(null=True)

    class Meta:
        table_name = "entry"


class SessionRow(Row):
    """A browser that came in; digests of its two secrets are kept."""

    person = ForeignKeyField(PersonRow)
    digest = TextField(unique=True)
    page_digest = TextField()
    is_paired = BooleanField(default=False)
    agent = TextField()
    made_at = DateTimeTZField(default=now)
    seen_at = DateTimeTZField(default=now)
    expires_at = DateTimeTZField()
    revoked_at = DateTimeTZField(null=True)

    class Meta:
        table_name = "session"


class FactRow(Row):
    """What was stated of a system or machine, and by whom; the newest of a key holds, one without a
    value says that nothing does any more."""

    noun = TextField(constraints=[Check("noun in ('system', 'machine')")])
    thing = UUIDField()
    key = TextField()
    value = TextField(null=True)
    source = TextField()
    source_on = DateField(null=True)
    at = DateTimeTZField(default=now)
    who = TextField(null=True)

    class Meta:
        table_name = "fact"


class ClaimRow(Row):
    """What the makers of a system, or a tester's own guess, say of it; in a canonical unit."""

    system = ForeignKeyField(SystemRow, backref="claims")
    key = TextField()
    amount = DoubleField()
    is_own_guess = BooleanField()
    source = TextField()
    source_on = DateField(null=True)
    at = DateTimeTZField(default=now)
    put_away_at = DateTimeTZField(null=True)

    class Meta:
        table_name = "claim"


class AliasRow(Row):
    """A name that a system or machine had before; files that bear it are still understood."""

    noun = TextField(constraints=[Check("noun in ('system', 'machine')")])
    name = TextField()
    thing = UUIDField()

    class Meta:
        table_name = "alias"
        indexes = ((("noun", "name"), True),)


class TombstoneRow(Model):
    """Something that was deleted for good; what comes late for it is refused."""

    id = UUIDField(primary_key=True)
    kind = TextField(constraints=[Check("kind in ('study', 'run', 'capture')")])
    at = DateTimeTZField(default=now)

    class Meta:
        database = database
        table_name = "tombstone"


class StudyAnswerRow(Model):
    """What a study answered when its findings were calculated last, and after which event."""

    study = ForeignKeyField(StudyRow, primary_key=True)
    event_id = BigIntegerField()
    headline = TextField()
    about = TextField()
    verdict = TextField()

    class Meta:
        database = database
        table_name = "study_answer"


class ColumnMapRow(Model):
    """What the columns of a header mean."""

    header_key = TextField(primary_key=True)
    header = BinaryJSONField(index=False)
    meaning = BinaryJSONField(index=False)
    at = DateTimeTZField(default=now)

    class Meta:
        database = database
        table_name = "column_map"


class BandsRow(Model):
    """Where light ends and heavy begins, of a metric, as testers set it."""

    metric = TextField(primary_key=True)
    names = BinaryJSONField(index=False)
    limits = BinaryJSONField(index=False)
    at = DateTimeTZField(default=now)

    class Meta:
        database = database
        table_name = "bands"


class WeightSetRow(Row):
    """Measures with their weights, and the reference that is 100, under a name."""

    name = TextField(unique=True)
    use = TextField(default="")
    weights = BinaryJSONField(index=False)
    reference = TextField()
    figures = BinaryJSONField(index=False)
    ends = BinaryJSONField(index=False, null=True)
    at = DateTimeTZField(default=now)
    put_away_at = DateTimeTZField(null=True)

    class Meta:
        table_name = "weight_set"


class OwnMeasureRow(Row):
    """A measure that a tester defined; its key states name, unit and good end."""

    key = TextField(unique=True)
    name = TextField()
    unit = TextField()
    good_end = TextField()
    resolution = DoubleField(null=True)
    share = DoubleField(null=True)
    amount = DoubleField(null=True)
    says = TextField(default="")
    at = DateTimeTZField(default=now)
    put_away_at = DateTimeTZField(null=True)

    class Meta:
        table_name = "own_measure"


class IncidentRow(Row):
    """Something that went wrong while a system was in use."""

    system = ForeignKeyField(SystemRow)
    machine = ForeignKeyField(MachineRow, null=True)
    kind = TextField()
    what = TextField(default="")
    at = DateTimeTZField()
    noted_at = DateTimeTZField(default=now)
    put_away_at = DateTimeTZField(null=True)
    system_id: UUID
    machine_id: UUID | None

    class Meta:
        table_name = "incident"


class HoursRow(Row):
    """Hours for which a system was in use."""

    system = ForeignKeyField(SystemRow)
    machine = ForeignKeyField(MachineRow, null=True)
    hours = DoubleField()
    at = DateTimeTZField(default=now)
    put_away_at = DateTimeTZField(null=True)
    system_id: UUID
    machine_id: UUID | None

    class Meta:
        table_name = "hours_in_use"


class ScorecardRow(Row):
    """One version of what a tester says of a system."""

    system = ForeignKeyField(SystemRow)
    version = IntegerField()
    body = BinaryJSONField(index=False)
    at = DateTimeTZField(default=now)
    system_id: UUID

    class Meta:
        table_name = "scorecard"


class WorksRow(Row):
    """What was seen of one subject on a system."""

    system = ForeignKeyField(SystemRow)
    machine = ForeignKeyField(MachineRow, null=True)
    subject = TextField()
    works = TextField()
    step = TextField(default="")
    worked = IntegerField(null=True)
    tried = IntegerField(null=True)
    note = TextField(default="")
    at = DateTimeTZField(default=now)
    put_away_at = DateTimeTZField(null=True)
    system_id: UUID
    machine_id: UUID | None

    class Meta:
        table_name = "works_item"


class ReportRow(Model):
    """What a tester wrote for a study's report."""

    study = ForeignKeyField(StudyRow, primary_key=True)
    words = BinaryJSONField(index=False)
    at = DateTimeTZField(default=now)

    class Meta:
        database = database
        table_name = "report"


class ReportVersionRow(Row):
    """A published version; page and readings are squeezed."""

    study = ForeignKeyField(StudyRow)
    version = IntegerField()
    sha256 = TextField()
    at = DateTimeTZField(default=now)
    figures = BinaryJSONField(index=False)
    texts = BinaryJSONField(index=False)
    changes = BinaryJSONField(index=False)
    page = BlobField()
    csv = BlobField()

    class Meta:
        table_name = "report_version"


class BenchBookRow(Model):
    """Which bench book this is; there is one row."""

    id = UUIDField(primary_key=True)
    made_at = DateTimeTZField(default=now)

    class Meta:
        database = database
        table_name = "bench_book"


class StudyOriginRow(Model):
    """The bench book from which a study was taken in."""

    study = ForeignKeyField(StudyRow, primary_key=True)
    bench = UUIDField()
    name = TextField()
    at = DateTimeTZField(default=now)

    class Meta:
        database = database
        table_name = "study_origin"


def missing(noun: str, key: UUID) -> NotFoundError:
    """The error that says that this is not there, or no more."""
    if TombstoneRow.select().where(TombstoneRow.id == key).exists():
        return DeletedError(noun, key)
    return NotFoundError(noun, key)


class AuditRow(Model):
    """What somebody did; rows are only ever added."""

    id = BigAutoField()
    at = DateTimeTZField(default=now)
    who = TextField()
    way = TextField()
    what = TextField()
    study = UUIDField(null=True)
    facts = _facts()

    class Meta:
        database = database
        table_name = "audit"


TABLES = (
    DistributionRow,
    SystemRow,
    HostRow,
    MachineRow,
    InstallRow,
    StudyRow,
    ContenderRow,
    MarginRow,
    OverrideRow,
    RunRow,
    CaptureRow,
    AttemptRow,
    LaneRow,
    ReadingRow,
    TraceRow,
    MachineKeyRow,
    MachineSignRow,
    MachineJobRow,
    EventRow,
    PersonRow,
    PersonKeyRow,
    EntryRow,
    SessionRow,
    FactRow,
    ClaimRow,
    AliasRow,
    TombstoneRow,
    StudyAnswerRow,
    ColumnMapRow,
    AuditRow,
    ReactionRow,
    QuotedRow,
    PhotographRow,
    BandsRow,
    WeightSetRow,
    OwnMeasureRow,
    IncidentRow,
    HoursRow,
    ScorecardRow,
    WorksRow,
    ReportRow,
    ReportVersionRow,
    StudyOriginRow,
)
