"""What goes over the wire, as Pydantic models."""

from datetime import datetime
from math import isfinite
from typing import Annotated, Any
from uuid import UUID

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, StringConstraints

from haremile.core.comparison.findings import Findings
from haremile.core.comparison.verdict import Verdict
from haremile.core.records.bounds import HIDDEN, MOST_VALUE
from haremile.core.records.metrics import GoodEnd, Kind
from haremile.core.records.study import RunState, StudyState
from haremile.usecases.access import Role, Way

TEXT_PATTERN = rf"^[^{HIDDEN.partition(chr(0xD800))[0]}]*$"
Text = Annotated[
    str,
    StringConstraints(strip_whitespace=True, min_length=1, max_length=200, pattern=TEXT_PATTERN),
]


def _no_switch(value: Any) -> Any:
    if isinstance(value, bool):
        raise ValueError("a number is wanted, not true or false")
    return value


Whole = Annotated[int, BeforeValidator(_no_switch)]
Number = Annotated[float, BeforeValidator(_no_switch)]


def _finite(value: Any) -> Any:
    return None if isinstance(value, float) and not isfinite(value) else value


Figure = Annotated[float | None, BeforeValidator(_finite)]
"""A number, or None where runs that timed out leave it beyond every limit."""


class Out(BaseModel):
    """Base of responses, readable from the core's records."""

    model_config = ConfigDict(from_attributes=True)


class MarginOut(Out):
    share: float | None
    amount: float | None


class MarginIn(BaseModel):
    share: Number | None = Field(default=None, gt=0, lt=10)
    amount: Number | None = Field(default=None, gt=0, le=MOST_VALUE)


class SystemOut(Out):
    name: str
    distribution: str | None
    release: str | None
    edition: str | None
    architecture: str | None


class MachineOut(Out):
    name: str
    kind: str
    facts: dict[str, str]


class InstallOut(Out):
    id: UUID
    system: SystemOut
    machine: MachineOut
    name: str
    rig: str | None
    recipe: dict[str, str]


class ContenderOut(Out):
    """`entrant` is who takes part whatever the machine; its number gives colour and mark."""

    id: UUID
    lane_no: int
    label: str
    entrant_no: int
    entrant: str
    install: InstallOut


class StudyDigestOut(Out):
    id: UUID
    title: str
    state: StudyState
    created_at: datetime
    contenders: list[str]
    machines: list[str]
    runs: int
    finished: int
    failed: int
    can_run: bool


class LooksOut(Out):
    planned: list[int]
    extensions: list[int]


class PrecisionPlanOut(Out):
    metric: str
    width: float


class StudyOut(Out):
    id: UUID
    title: str
    state: StudyState
    seed: int
    blocks: int
    created_at: datetime
    contenders: list[ContenderOut]
    margins: dict[str, MarginOut]
    looks: LooksOut | None
    procedures: list[str]
    stopping: PrecisionPlanOut | None
    overrules: dict[str, str]
    can_run: bool
    is_running: bool


class StudyMadeOut(BaseModel):
    """A study made of files, and what a person should look at."""

    study: StudyOut
    notes: list[str]


class WhoOut(BaseModel):
    """Who asks; `is_overheard` where the network in between can be listened to."""

    name: str
    role: Role
    way: Way
    is_overheard: bool


class PersonOut(Out):
    name: str
    role: Role
    made_at: datetime
    keys: int


class PersonCreate(BaseModel):
    name: Text
    role: Role


class PersonKeyOut(BaseModel):
    name: str
    role: Role
    key: str


class SessionOut(Out):
    """A browser that is signed in; `is_this` the one that asks."""

    id: UUID
    person: str
    role: Role
    way: Way
    agent: str
    made_at: datetime
    seen_at: datetime
    expires_at: datetime
    is_this: bool


class CodeOut(BaseModel):
    """What a device shows once, within so many minutes."""

    code: str
    minutes: int


class ActOut(Out):
    """Something that somebody did."""

    id: int
    at: datetime
    who: str
    way: str
    what: str
    study_id: UUID | None
    facts: dict[str, Any]


class KeyOut(Out):
    machine: str
    key: str


class MachineSignOut(Out):
    machine: str
    seen_at: datetime
    is_leaving: bool
    system: str | None


class EnrolAsked(BaseModel):
    identity: UUID
    system: Text


class Enrolled(Out):
    machine: str
    system: str


class SignIn(BaseModel):
    identity: UUID
    boot_id: Text
    probe: Text
    busy: UUID | None = None
    is_leaving: bool = False


class JobOut(Out):
    """What a machine is asked for: a procedure, options of closed sets, names; never a command."""

    procedure: str
    options: dict[str, str]
    app: str | None
    start: str | None


class StepOut(Out):
    do: str
    job: JobOut | None
    entry: str | None
    says: str | None
    seconds: float
    run: UUID | None
    attempt: int | None
    procedure: str | None


class Taken(Out):
    became: str


class PrecisionPlanIn(BaseModel):
    metric: Text
    width: Number = Field(gt=0, le=MOST_VALUE)


class StudyCreate(BaseModel):
    title: Text
    installs: list[UUID] = Field(min_length=2, max_length=30)
    blocks: Whole = Field(ge=1, le=500)
    seed: Whole | None = Field(default=None, ge=0, lt=2**53)
    margins: dict[str, MarginIn] = Field(default_factory=dict)
    looks: list[Annotated[Whole, Field(ge=1)]] = Field(default_factory=list, max_length=20)
    procedures: list[Text] = Field(default=["boot"], min_length=1, max_length=12)
    stopping: PrecisionPlanIn | None = None


class StudyExtend(BaseModel):
    blocks: Whole = Field(ge=1, le=500)


class FirstMileCreate(BaseModel):
    blocks: Whole = Field(default=5, ge=1, le=500)
    seed: Whole | None = Field(default=None, ge=0, lt=2**53)


class RunOut(Out):
    id: UUID
    lane_no: int
    block: int
    position: int
    procedure: str
    state: RunState
    attempt: int
    reason: str | None
    conditions: dict[str, str]
    started_at: datetime | None
    finished_at: datetime | None
    value: float | None
    is_set_aside: bool


class PlacedRunOut(Out):
    run: "RunHere"
    study_id: UUID
    question: str
    contender: str


class RunHere(Out):
    """What Today shows of a run."""

    id: UUID
    lane_no: int
    block: int
    procedure: str
    state: RunState
    attempt: int
    started_at: datetime | None


class MachineDayOut(Out):
    """A machine's lane; `left_s` is null until a run's length is known."""

    name: str
    kind: str
    done: int
    now: PlacedRunOut | None
    next: list[PlacedRunOut]
    left: int
    left_s: float | None
    is_moving: bool


class HandOut(Out):
    study_id: UUID
    question: str
    what: str
    since: datetime | None


class TodayOut(Out):
    machines: list[MachineDayOut]
    hands: list[HandOut]
    last_event: int


class Reason(BaseModel):
    reason: Text


class PlannedAgain(BaseModel):
    runs: int


class OverruleIn(BaseModel):
    """Why a condition's difference is accepted; null takes it back."""

    reason: Text | None


class Disturbance(BaseModel):
    text: Text


class DisturbanceOut(Out):
    """What was noted, with the run that was under way then, if one was."""

    id: int
    at: datetime
    run_id: UUID | None
    text: str


class ScaleOut(Out):
    label: str
    factor: float
    decimals: int


class PartSourceOut(Out):
    metric: str
    label: str
    method: str


class LaneStandOut(Out):
    lane_no: int
    half_width_share: float | None
    met: dict[str, str]


class RunSheetOut(Out):
    metric: str | None
    procedure: str | None
    label: str | None
    scale: ScaleOut | None
    good_end: GoodEnd | None
    margin_amount: float | None
    runs: list[RunOut]
    lanes: list[LaneStandOut]
    last_event: int


class IntervalOut(Out):
    low: Figure
    high: Figure
    level: float


class EstimateOut(Out):
    value: Figure
    interval: IntervalOut


class BootPartOut(Out):
    metric: str
    label: str
    start: float
    end: float
    end_interval: IntervalOut | None


class OpenedBootOut(Out):
    """A boot of which the units are known."""

    run_id: UUID
    block: int


class LanePartsOut(Out):
    lane_no: int
    runs: int
    parts: list[BootPartOut]
    opened: list[OpenedBootOut]


class BootPartsOut(Out):
    machine: str
    sources: list[PartSourceOut]
    lanes: list[LanePartsOut]


class TraceOut(Out):
    lane_no: int
    block: int
    run_id: UUID
    unit: str
    times_s: list[float]
    values: list[float]


class SummaryOut(Out):
    n: int
    timed_out: int
    median: Figure
    median_interval: IntervalOut | None
    widest_interval: IntervalOut
    q1: Figure
    q3: Figure
    p90: Figure
    iqr: Figure
    mad: Figure
    mean: float
    sd: float | None
    minimum: float
    maximum: float


class ConditionBreakOut(Out):
    """A condition that changed on the way, at the first block with the new value."""

    key: str
    label: str
    before: str
    after: str
    block: int | None


class LaneFindingOut(Out):
    lane_no: int
    summary: SummaryOut | None
    failed: int
    stalled: int
    slow_first: bool
    set_aside: int
    breaks: list[ConditionBreakOut]


class PairOut(BaseModel):
    a: int
    b: int
    verdict: Verdict
    lean: Verdict | None
    shift: EstimateOut
    ratio: EstimateOut | None
    probability_b_lower: float
    sentence: str
    repeats_needed: int | None


class DifferenceOut(Out):
    key: str
    label: str
    grade: str
    sentence: str
    remedy: str
    overruled: str | None


class FindingRowOut(BaseModel):
    key: str
    metric: str
    label: str
    unit: str
    good_end: GoodEnd
    method: str
    machine: str
    start: str | None
    facet: str
    procedure: str
    scale: ScaleOut
    margin: MarginOut
    margin_text: str
    family: int
    lanes: list[LaneFindingOut]
    pairs: list[PairOut]
    verdict: Verdict
    leader: int | None
    headline: str
    sentence: str
    fair_start: list[DifferenceOut]
    speaks_of: str


class TroubleOut(Out):
    lane_no: int
    failed: int
    stalled: int
    runs: int


class FailureOut(Out):
    """So many runs of a lane failed for one reason."""

    lane_no: int
    reason: str
    runs: int


class ReliabilityOut(Out):
    procedure: str
    machine: str
    verdict: Verdict
    sentence: str
    lanes: list[TroubleOut]
    reasons: list[FailureOut]


class MachineRatioOut(Out):
    machine: str
    medians: Figure
    typical: EstimateOut


class MachinesContrastOut(Out):
    machines: list[MachineRatioOut]
    geometric_mean: float
    interval: IntervalOut | None
    disagree: bool


class PairOverMachinesOut(Out):
    a: str
    b: str
    found: MachinesContrastOut
    sentence: str


class MachineLeaderOut(Out):
    machine: str
    leader: str | None


class MachinesRowOut(Out):
    """What one measure says over machines."""

    key: str
    metric: str
    label: str
    method: str
    start: str | None
    facet: str
    good_end: GoodEnd
    leaders: list[MachineLeaderOut]
    headline: str
    sentence: str


class LaneNotesOut(Out):
    lane_no: int
    notes: list[str]


class UnitOut(BaseModel):
    """A unit of the service manager; seconds since the kernel began."""

    name: str
    start_s: float
    ready_s: float | None


class BootUnitsOut(BaseModel):
    """What ran when in one boot."""

    run_id: UUID
    units: list[UnitOut]


class MethodsOut(BaseModel):
    html: str


class FindingsOut(BaseModel):
    rows: list[FindingRowOut]
    reliability: list[ReliabilityOut]
    machines: list[MachinesRowOut]
    is_complete: bool
    promise: str
    curves: list[str]

    @classmethod
    def of(cls, found: Findings, curves: list[str]) -> "FindingsOut":
        """From the core's findings, a pair's contrast laid flat; `curves` are metrics with one."""
        rows = []
        for row in found.rows:
            fields: dict[str, Any] = {
                name: getattr(row, name) for name in FindingRowOut.model_fields
            }
            fields["scale"] = ScaleOut.model_validate(row.scale)
            fields["margin"] = MarginOut.model_validate(row.margin)
            fields["lanes"] = [LaneFindingOut.model_validate(lane) for lane in row.lanes]
            fields["fair_start"] = [DifferenceOut.model_validate(d) for d in row.fair_start]
            fields["pairs"] = [
                PairOut(
                    a=pair.a, b=pair.b, verdict=pair.found.verdict, lean=pair.found.lean,
                    shift=EstimateOut.model_validate(pair.found.contrast.shift),
                    ratio=pair.found.contrast.ratio
                    and EstimateOut.model_validate(pair.found.contrast.ratio),
                    probability_b_lower=pair.found.contrast.probability_b_lower,
                    sentence=pair.sentence, repeats_needed=pair.found.repeats_needed,
                )
                for pair in row.pairs
            ]  # fmt: skip
            rows.append(FindingRowOut(**fields))
        reliability = [ReliabilityOut.model_validate(row) for row in found.reliability]
        return cls(
            rows=rows, reliability=reliability,
            machines=[MachinesRowOut.model_validate(row) for row in found.machines],
            is_complete=found.is_complete, promise=found.promise, curves=curves,
        )  # fmt: skip


class ReadingOut(Out):
    id: UUID
    run_id: UUID
    block: int
    lane_no: int
    metric: str
    method: str
    value: float
    unit: str
    resolution: float | None
    conditions: dict[str, str]
    at: datetime | None
    capture_id: UUID | None
    set_aside: str | None


class ReadingColumns(BaseModel):
    """Many readings, column by column: quick to write and to read."""

    id: list[UUID]
    run_id: list[UUID]
    block: list[int]
    lane_no: list[int]
    value: list[float]
    set_aside: list[str | None]
    method: list[str]
    start: list[str | None]
    facet: list[str]


class ReadingChange(BaseModel):
    """Set aside with a reason, or take that back with null."""

    set_aside: Text | None


class IntakeItemOut(Out):
    """Something recognised in a file; `lane_no` is the contender it fits, null where none does."""

    file: str
    kind: str
    asked: str
    system: str
    machine: str
    made_at: datetime | None
    outcome: str
    reason: str | None
    readings: int
    faults: list[str]
    lane_no: int | None
    is_known: bool
    notes: list[str]


class IntakeOut(BaseModel):
    """What became of the files."""

    taken: int
    known: int
    notes: list[str]


class IntakeStage(BaseModel):
    """How far reading or keeping a file is."""

    what: str
    done: int
    of: int


class EvidenceOut(BaseModel):
    name: str
    text: str


class CaptureOut(BaseModel):
    """Evidence; `evidence` holds the texts of a machine's capture, or the file as it came."""

    id: UUID
    sha256: str
    made_at: datetime | None
    kind: str
    conditions: dict[str, str]
    evidence: list[EvidenceOut]
    faults: list[str]
    reason: str | None


class MetricOut(Out):
    key: str
    label: str
    unit: str
    good_end: GoodEnd
    kind: Kind
    margin: MarginOut


class EventOut(Out):
    id: int
    at: datetime
    kind: str
    study_id: UUID | None
    run_id: UUID | None
    facts: dict[str, Any]


class Problem(BaseModel):
    """Problem details (RFC 9457)."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
