"""Findings; figures may lack where most runs timed out."""

from typing import Any

from pydantic import BaseModel

from haremile.api.schemas.base import Figure, Out
from haremile.core.comparison.records import (
    Failure,
    FindingRow,
    Findings,
    Incidents,
    MachineLeader,
)
from haremile.core.comparison.verdict import Verdict
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd
from haremile.core.records.units import Scale


class IntervalOut(Out):
    low: Figure
    high: Figure
    level: float


class EstimateOut(Out):
    value: Figure
    interval: IntervalOut


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
    corrected: int
    breaks: list[ConditionBreakOut]


class PairOut(BaseModel):
    a: int
    b: int
    verdict: Verdict
    lean: Verdict | None
    shift: EstimateOut
    ratio: EstimateOut | None
    probability_b_lower: float
    verdict_text: str
    sentence: str
    repeats_needed: int | None


class DifferenceOut(Out):
    key: str
    label: str
    grade: str
    sentence: str
    remedy: str
    overridden: str | None


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
    scale: Scale
    margin: Margin
    margin_text: str
    verdict_text: str
    family: int
    lanes: list[LaneFindingOut]
    pairs: list[PairOut]
    verdict: Verdict
    leader: int | None
    is_shared: bool
    headline: str
    sentence: str
    fair_start: list[DifferenceOut]
    scope: str

    @classmethod
    def of(cls, row: FindingRow) -> "FindingRowOut":
        """From the core's row, a pair's contrast laid flat."""
        fields: dict[str, Any] = {name: getattr(row, name) for name in cls.model_fields}
        fields["lanes"] = [LaneFindingOut.model_validate(lane) for lane in row.lanes]
        fields["fair_start"] = [DifferenceOut.model_validate(d) for d in row.fair_start]
        fields["pairs"] = [
            PairOut(
                a=pair.a,
                b=pair.b,
                verdict=pair.found.verdict,
                lean=pair.found.lean,
                shift=EstimateOut.model_validate(pair.found.contrast.shift),
                ratio=pair.found.contrast.ratio
                and EstimateOut.model_validate(pair.found.contrast.ratio),
                probability_b_lower=pair.found.contrast.probability_b_lower,
                verdict_text=pair.verdict_text,
                sentence=pair.sentence,
                repeats_needed=pair.found.repeats_needed,
            )
            for pair in row.pairs
        ]
        return cls(**fields)


class ReliabilityOut(Out):
    procedure: str
    machine: str
    verdict: Verdict
    verdict_text: str
    sentence: str
    lanes: list[Incidents]
    reasons: list[Failure]


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


class MachinesRowOut(Out):
    """What one measure says over machines."""

    key: str
    metric: str
    label: str
    method: str
    start: str | None
    facet: str
    good_end: GoodEnd
    leaders: list[MachineLeader]
    headline: str
    sentence: str


class FindingsOut(BaseModel):
    rows: list[FindingRowOut]
    reliability: list[ReliabilityOut]
    machines: list[MachinesRowOut]
    is_complete: bool
    expected_false: str
    curves: list[str]

    @classmethod
    def of(cls, found: Findings, curves: list[str]) -> "FindingsOut":
        """From the core's findings; `curves` are metrics with one."""
        reliability = [ReliabilityOut.model_validate(row) for row in found.reliability]
        return cls(
            rows=[FindingRowOut.of(row) for row in found.rows],
            reliability=reliability,
            machines=[MachinesRowOut.model_validate(row) for row in found.machines],
            is_complete=found.is_complete,
            expected_false=found.expected_false,
            curves=curves,
        )
