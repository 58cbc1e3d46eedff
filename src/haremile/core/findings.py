"""From readings to the verdict sheet."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from scipy import stats

from haremile.core import wording
from haremile.core.conditions import Conditions, condition_hash, of_the_lane
from haremile.core.fair_start import Difference, Grade, fair_start
from haremile.core.lane_statistics import LaneSummary, stalls, summarise_lane
from haremile.core.margin import Margin
from haremile.core.metrics import GoodEnd, metric, sheet_position
from haremile.core.sample import FloatArray
from haremile.core.study import RunState
from haremile.core.units import Scale, scale_for
from haremile.core.verdict import (
    PairVerdict,
    RowVerdict,
    Verdict,
    mirrored_pair,
    pair_verdict,
    row_verdict,
)

RUN_NAMES = {"boot": "boots", "launch": "launches"}


@dataclass(frozen=True)
class Observation:
    """One reading with what decides where it counts; `value` in the canonical unit."""

    lane_no: int
    machine: str
    metric: str
    method: str
    value: float
    conditions: Conditions
    procedure: str
    is_set_aside: bool = False
    resolution: float | None = None


@dataclass(frozen=True)
class RunOutcome:
    """One planned run and how it stands."""

    lane_no: int
    machine: str
    procedure: str
    state: RunState


@dataclass(frozen=True)
class LaneFinding:
    """One contender's lane in a row; `summary` is None where no reading counts.

    A first reading that lies far above the rest is `slow_first` and no stall: it is what a change
    before it costs once.
    """

    lane_no: int
    summary: LaneSummary | None
    failed: int
    stalled: int
    slow_first: bool
    set_aside: int


@dataclass(frozen=True)
class PairFinding:
    """Lane `b` against lane `a`, with its sentence."""

    a: int
    b: int
    found: PairVerdict
    sentence: str


@dataclass(frozen=True)
class FindingRow:
    """One line of the verdict sheet.

    `pairs` holds both directions of every pair, so that any lane may serve as the baseline.
    `family` is the number of pairs over which the error was shared out.
    """

    key: str
    metric: str
    label: str
    unit: str
    good_end: GoodEnd
    method: str
    machine: str
    start: str | None
    procedure: str
    scale: Scale
    margin: Margin
    margin_text: str
    family: int
    lanes: tuple[LaneFinding, ...]
    pairs: tuple[PairFinding, ...]
    verdict: Verdict
    leader: int | None
    sentence: str
    fair_start: tuple[Difference, ...]
    speaks_of: str


@dataclass(frozen=True)
class ReliabilityRow:
    """Failures and stalls of one procedure on one machine."""

    procedure: str
    machine: str
    verdict: Verdict
    sentence: str
    lanes: tuple[wording.Trouble, ...]


@dataclass(frozen=True)
class Findings:
    """All that a study says so far."""

    rows: tuple[FindingRow, ...]
    reliability: tuple[ReliabilityRow, ...]
    is_complete: bool


_RowKey = tuple[int, str, str, str, str]


def find(
    names: Mapping[int, str],
    observations: Sequence[Observation],
    runs: Sequence[RunOutcome],
    margins: Mapping[str, Margin],
) -> Findings:
    """Reckon every row of a study.

    Parameters
    ----------
    names : mapping of lane number to contender name
    observations : readings in run order, including those set aside
    runs : every planned run; failures count against their contender
    margins : mapping of metric key to the stated margin; the catalogue's stands in where a plan
        states none
    """
    groups: dict[_RowKey, list[Observation]] = defaultdict(list)
    for item in observations:
        start = item.conditions.get("start", "")
        key = (sheet_position(item.metric), item.metric, item.machine, item.method, start)
        groups[key].append(item)
    rows = tuple(
        _Row(names, groups[key], _runs_of(runs, groups[key][0]), margins).finding()
        for key in sorted(groups)
    )
    procedures = dict.fromkeys((run.machine, run.procedure) for run in runs)
    reliability = tuple(
        _reliability(names, rows, [r for r in runs if (r.machine, r.procedure) == key])
        for key in procedures
    )
    return Findings(rows, reliability, all(run.state.is_finished for run in runs))


def _runs_of(runs: Sequence[RunOutcome], item: Observation) -> list[RunOutcome]:
    return [r for r in runs if r.machine == item.machine and r.procedure == item.procedure]


class _Row:
    """One row in the making."""

    def __init__(
        self,
        names: Mapping[int, str],
        items: Sequence[Observation],
        runs: Sequence[RunOutcome],
        margins: Mapping[str, Margin],
    ):
        self.items, self.runs = items, runs
        self.metric = metric(items[0].metric)
        self.margin = margins.get(self.metric.key, self.metric.margin)
        taking_part = {run.lane_no for run in runs} | {item.lane_no for item in items}
        self.names = {lane: name for lane, name in names.items() if lane in taking_part}
        self.samples = self._samples()
        self.resolution = max((item.resolution or 0.0 for item in items), default=0.0) or None
        everything = [item.value for item in items]
        self.scale = scale_for(self.metric.unit, float(np.median(everything)))

    def _samples(self) -> dict[int, FloatArray]:
        values: dict[int, list[float]] = defaultdict(list)
        for item in self.items:
            if not item.is_set_aside:
                values[item.lane_no].append(item.value)
        return {lane: np.array(values[lane]) for lane in sorted(values)}

    def finding(self) -> FindingRow:
        first = self.items[0]
        start = first.conditions.get("start")
        lanes = tuple(self._lane(lane) for lane in sorted(self.names))
        differences = self._fair_start()
        pairs = self._pairs()
        row, sentence = self._answer(lanes, differences, pairs)
        named = [
            PairFinding(a, b, found, self._pair_sentence(lanes, a, b, found))
            for (a, b), found in pairs.items()
        ]
        parts = [self.metric.key, first.machine, first.method, start or ""]
        return FindingRow(
            key="|".join(parts), metric=self.metric.key, label=self.metric.label,
            unit=self.metric.unit, good_end=self.metric.good_end, method=first.method,
            machine=first.machine, start=start, procedure=first.procedure, scale=self.scale,
            margin=self.margin, margin_text=wording.margin_text(self.margin, self.metric.unit),
            family=max(len(pairs) // 2, 1), lanes=lanes, pairs=tuple(named), verdict=row.verdict,
            leader=row.leader, sentence=sentence, fair_start=differences,
            speaks_of="these installs",
        )  # fmt: skip

    def _lane(self, lane: int) -> LaneFinding:
        sample = self.samples.get(lane)
        mine = [item for item in self.items if item.lane_no == lane]
        summary = None
        stalled: tuple[int, ...] = ()
        if sample is not None:
            summary = summarise_lane(sample, resolution=self.resolution)
            if self.metric.unit == "s":
                stalled = stalls(sample, self.margin.amount or 0.0)
        failed = sum(r.state is RunState.FAILED for r in self.runs if r.lane_no == lane)
        slow_first = 0 in stalled and not mine[0].is_set_aside
        aside = sum(item.is_set_aside for item in mine)
        return LaneFinding(lane, summary, failed, len(stalled) - slow_first, slow_first, aside)

    def _fair_start(self) -> tuple[Difference, ...]:
        by_lane: dict[int, dict[str, Conditions]] = defaultdict(dict)
        for item in self.items:
            if not item.is_set_aside:
                name = condition_hash(item.conditions)
                by_lane[item.lane_no][name] = of_the_lane(item.conditions)
        return fair_start({lane: list(group.values()) for lane, group in by_lane.items()})

    def _pairs(self) -> dict[tuple[int, int], PairVerdict]:
        unordered = list(combinations(self.samples, 2))
        found: dict[tuple[int, int], PairVerdict] = {}
        for a, b in unordered:
            found[(a, b)] = pair_verdict(
                self.samples[a], self.samples[b], self.margin, self.metric.good_end,
                len(unordered), self.resolution,
            )  # fmt: skip
            found[(b, a)] = mirrored_pair(found[(a, b)])
        return found

    def _answer(
        self,
        lanes: Sequence[LaneFinding],
        differences: Sequence[Difference],
        pairs: Mapping[tuple[int, int], PairVerdict],
    ) -> tuple[RowVerdict, str]:
        grave = [d for d in differences if d.grade is Grade.BREAKS]
        missing = [self.names[lane.lane_no] for lane in lanes if lane.summary is None]
        done = sum(run.state.is_finished for run in self.runs)
        undecided = RowVerdict(Verdict.OPEN, None, tuple(self.samples))
        if grave:
            refused = RowVerdict(Verdict.NOT_COMPARABLE, None, ())
            return refused, wording.not_comparable_sentence(grave)
        if done < len(self.runs):
            text = wording.early_sentence(done, len(self.runs), _run_name(self.items[0].procedure))
            return undecided, text
        if len(self.samples) < 2:
            return undecided, wording.absent_sentence(missing or ["a second contender"])
        found = row_verdict(list(self.samples), pairs)
        facts = wording.RowFacts(
            self.metric, self.names, {k: float(np.median(v)) for k, v in self.samples.items()},
            pairs, self.margin, self.scale, self._clauses(lanes),
        )  # fmt: skip
        return found, wording.row_sentence(facts, found)

    def _clauses(self, lanes: Sequence[LaneFinding]) -> list[str]:
        trouble = [self._trouble(lane) for lane in lanes]
        silent = [lane.lane_no for lane in lanes if lane.summary is None and not lane.failed]
        return [
            *wording.trouble_clauses(trouble, self.names, _run_name(self.items[0].procedure)),
            *(f"{self.names[lane_no]} has no readings" for lane_no in silent),
        ]

    def _trouble(self, lane: LaneFinding) -> wording.Trouble:
        runs = sum(r.state.is_finished for r in self.runs if r.lane_no == lane.lane_no)
        return wording.Trouble(lane.lane_no, lane.failed, lane.stalled, runs)

    def _pair_sentence(
        self, lanes: Sequence[LaneFinding], a: int, b: int, found: PairVerdict
    ) -> str:
        trouble = self._clauses([lane for lane in lanes if lane.lane_no in (a, b)])
        return wording.pair_sentence(
            self.metric, self.names[a], self.names[b], found, self.scale, trouble
        )


def _run_name(procedure: str) -> str:
    return RUN_NAMES.get(procedure, "runs")


def _reliability(
    names: Mapping[int, str], rows: Sequence[FindingRow], runs: Sequence[RunOutcome]
) -> ReliabilityRow:
    first = runs[0]
    mine = [r for r in rows if (r.machine, r.procedure) == (first.machine, first.procedure)]
    lanes = []
    for lane_no in sorted({run.lane_no for run in runs}):
        own = [run for run in runs if run.lane_no == lane_no and run.state.is_finished]
        failed = sum(run.state is RunState.FAILED for run in own)
        stalled = max(
            (lane.stalled for row in mine for lane in row.lanes if lane.lane_no == lane_no),
            default=0,
        )
        lanes.append(wording.Trouble(lane_no, failed, stalled, len(own)))
    most = max(lane.runs for lane in lanes)
    unseen = 1.0 - 0.05 ** (1.0 / most) if most else 1.0
    text = wording.reliability_sentence(lanes, names, _run_name(first.procedure), unseen)
    return ReliabilityRow(
        first.procedure, first.machine, _failure_verdict(lanes), text, tuple(lanes)
    )


def _failure_verdict(lanes: Sequence[wording.Trouble]) -> Verdict:
    """*Behind* where some lane fails more often than another beyond doubt, else open.

    Fisher's exact test, error shared out over all pairs.
    """
    pairs = [(a, b) for i, a in enumerate(lanes) for b in lanes[i + 1 :]]
    for a, b in pairs:
        table = np.array([[a.failed, a.runs - a.failed], [b.failed, b.runs - b.failed]])
        if stats.fisher_exact(table).pvalue < 0.05 / len(pairs):
            return Verdict.BEHIND
    return Verdict.OPEN
