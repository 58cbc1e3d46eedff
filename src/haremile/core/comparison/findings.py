"""From readings to the verdict sheet."""

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import combinations

import numpy as np

from haremile.core.comparison.comparability import Difference, fair_start
from haremile.core.comparison.over_machines import MachinesRow, over_machines
from haremile.core.comparison.reliability import WHOLE_RUN, Reliability, reliability
from haremile.core.comparison.verdict import (
    PairVerdict,
    RowVerdict,
    Verdict,
    VerdictRule,
    counted_verdict,
    mirrored_pair,
    pair_verdict,
    row_verdict,
    verdict_over_looks,
)
from haremile.core.records.conditions import (
    ConditionBreak,
    Conditions,
    condition_breaks,
    of_the_lane,
)
from haremile.core.records.interim_looks import Look, Looks, complete_blocks
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd, Kind, metric, sheet_position
from haremile.core.records.procedures import PROCEDURES, runs_of
from haremile.core.records.study import RunState
from haremile.core.records.units import Scale, scale_for
from haremile.core.statistics.contrast import is_exact
from haremile.core.statistics.lane_statistics import LaneSummary, stalls, summarise_lane
from haremile.core.statistics.validation import FloatArray
from haremile.core.wording import sentences as wording

SWAP = "memory.swap_used"
IN_USE = ("memory.used", "memory.used_nocache", "memory.pss", "memory.rss")
"""Memory that is never told without the swap beside it."""


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
    block: int | None = None


@dataclass(frozen=True)
class RunOutcome:
    """One planned run and how it stands.

    `reason` is of one that failed; `timed_out` tells of it that it was slower than its time limit;
    `start` and `app` are conditions under which it was made, "" where none is stated.
    """

    lane_no: int
    machine: str
    procedure: str
    state: RunState
    block: int | None = None
    timed_out: bool = False
    start: str = ""
    app: str = ""
    reason: str = ""


@dataclass(frozen=True)
class LaneFinding:
    """One contender's lane in a row; `summary` is None where no reading counts.

    A first reading that lies far above the rest is `slow_first` and no stall: it is what a change
    before it costs once. `breaks` are conditions that changed on the way.
    """

    lane_no: int
    summary: LaneSummary | None
    failed: int
    stalled: int
    slow_first: bool
    set_aside: int
    breaks: tuple[ConditionBreak, ...] = ()


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

    `pairs` holds both directions of every pair, so that any lane may serve as the baseline;
    `headline` is the answer in a few words.
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
    facet: str
    procedure: str
    scale: Scale
    margin: Margin
    margin_text: str
    family: int
    lanes: tuple[LaneFinding, ...]
    pairs: tuple[PairFinding, ...]
    verdict: Verdict
    leader: int | None
    headline: str
    sentence: str
    fair_start: tuple[Difference, ...]
    speaks_of: str


@dataclass(frozen=True)
class Failure:
    """So many runs of a lane failed for one reason."""

    lane_no: int
    reason: str
    runs: int


@dataclass(frozen=True)
class ReliabilityRow:
    """Failures and stalls of one procedure on one machine."""

    procedure: str
    machine: str
    verdict: Verdict
    sentence: str
    lanes: tuple[wording.Trouble, ...]
    reasons: tuple[Failure, ...]
    found: Reliability


@dataclass(frozen=True)
class Findings:
    """All that a study says so far.

    `promise` says once how many verdicts the sheet holds and how many false ones to expect.
    """

    rows: tuple[FindingRow, ...]
    reliability: tuple[ReliabilityRow, ...]
    machines: tuple[MachinesRow, ...]
    is_complete: bool
    promise: str


_RowKey = tuple[int, str, str, str, str, str]
_Samples = Mapping[int, FloatArray]


def facet_of(conditions: Conditions) -> str:
    """What sets readings of one metric apart as answers to different questions, in words.

    The application that was launched, and the instant since boot at which memory was to be read
    (of the settled machine it is another question); "" where neither is stated.
    """
    rule = conditions.get("settle_rule", "")
    parts = [conditions.get("app", ""), rule if rule.startswith("at ") else ""]
    return ", ".join(part for part in parts if part)


def _is_within(block: int | None, blocks: int | None) -> bool:
    return blocks is None or block is None or block <= blocks


@dataclass(frozen=True)
class Plan:
    """What was stated beforehand.

    Attributes
    ----------
    margins : mapping of metric key to the stated margin
        The catalogue's stands in where a plan states none.
    looks : Looks or None
        When verdicts are read; None is once, when every run is finished.
    overrules : mapping of condition key to the reason why its difference is accepted
    """

    margins: Mapping[str, Margin] = field(default_factory=dict)
    looks: Looks | None = None
    overrules: Mapping[str, str] = field(default_factory=dict)


def find(
    names: Mapping[int, str],
    observations: Sequence[Observation],
    runs: Sequence[RunOutcome],
    plan: Plan,
) -> Findings:
    """Calculate every row of a study.

    Parameters
    ----------
    names : mapping of lane number to the name of its entrant
        One that runs on several machines has a lane on each, all of one name.
    observations : readings in run order, including those set aside
    runs : every planned run; failures count against their contender
    plan : Plan
    """
    groups: dict[_RowKey, list[Observation]] = defaultdict(list)
    for item in observations:
        start = item.conditions.get("start", "")
        key = (
            sheet_position(item.metric), item.metric, item.machine, item.method, start,
            facet_of(item.conditions),
        )  # fmt: skip
        groups[key].append(item)
    sheets: dict[tuple[str, str], list[RunOutcome]] = defaultdict(list)
    for run in runs:
        sheets[(run.machine, run.procedure)].append(run)
    swap = _swapped(observations)
    machines = {item.machine for item in observations} | {run.machine for run in runs}
    is_one = len(machines) < 2
    rows = tuple(
        _Row(names, items, sheets[(items[0].machine, items[0].procedure)], plan, swap, is_one)
        .finding()
        for items in (groups[key] for key in sorted(groups))
    )  # fmt: skip
    reliable = tuple(
        _reliability(names, rows, sheets[key], is_one)
        for key in sorted(sheets, key=_procedure_first)
        if sheets[key]
    )
    is_complete = all(run.state.is_finished for run in runs)
    over = () if is_one else over_machines(rows, names)
    return Findings(rows, reliable, over, is_complete, _promise(rows, plan))


def _procedure_first(key: tuple[str, str]) -> tuple[int, str, str]:
    """Procedures in the order in which they are done, and machine by machine."""
    machine, procedure = key
    place = list(PROCEDURES).index(procedure) if procedure in PROCEDURES else len(PROCEDURES)
    return place, procedure, machine


def _swapped(observations: Sequence[Observation]) -> dict[int, float]:
    """Median of what each lane has in swap, bytes, where it has some."""
    values: dict[int, list[float]] = defaultdict(list)
    for item in observations:
        if item.metric == SWAP and not item.is_set_aside and not facet_of(item.conditions):
            values[item.lane_no].append(item.value)
    medians = {lane: float(np.median(found)) for lane, found in values.items()}
    return {lane: value for lane, value in medians.items() if value > 0.0}


def _promise(rows: Sequence[FindingRow], plan: Plan) -> str:
    """Said of the rows whose pairs were judged."""
    judged = [row for row in rows if row.pairs and row.verdict is not Verdict.NOT_COMPARABLE]
    pairs = [pair for row in judged for pair in row.pairs if pair.a < pair.b]
    verdicts = sum(pair.found.verdict is not Verdict.OPEN for pair in pairs)
    most_error = plan.looks.most_error if plan.looks else 1.0
    return wording.promise_sentence(verdicts, len(judged), most_error)


class _Row:
    """One row in the making."""

    def __init__(
        self,
        names: Mapping[int, str],
        items: Sequence[Observation],
        runs: Sequence[RunOutcome],
        plan: Plan,
        swap: Mapping[int, float],
        is_one_machine: bool,
    ):
        self.items, self.runs, self.plan, self.swap = items, runs, plan, swap
        self.place = "" if is_one_machine else f"{items[0].machine}: "
        self.metric = metric(items[0].metric)
        self.margin = plan.margins.get(self.metric.key, self.metric.margin)
        taking_part = {run.lane_no for run in runs} | {item.lane_no for item in items}
        self.names = {lane: name for lane, name in names.items() if lane in taking_part}
        self.counts = self._run_counts()
        self.samples = self._samples()
        self.resolution = max((item.resolution or 0.0 for item in items), default=0.0) or None
        self.scale = scale_for(self.metric.unit, float(np.median([item.value for item in items])))
        self.looks_taken = self._looks_taken()
        self.switching = {item.conditions.get("switching") for item in items}

    def _run_counts(self) -> dict[int, tuple[int, int]]:
        """Finished and failed runs of each lane."""
        counts = {lane: (0, 0) for lane in self.names}
        for run in self.runs:
            if run.state.is_finished and run.lane_no in counts:
                done, failed = counts[run.lane_no]
                counts[run.lane_no] = (done + 1, failed + (run.state is RunState.FAILED))
        return counts

    def _samples(self, blocks: int | None = None) -> dict[int, FloatArray]:
        """Readings that count by lane, of the first `blocks` or of all; time-outs as infinity."""
        values: dict[int, list[float]] = defaultdict(list)
        for item in self.items:
            if not item.is_set_aside and _is_within(item.block, blocks):
                values[item.lane_no].append(item.value)
        if self.metric.key in WHOLE_RUN:
            stated = self.items[0].conditions
            for run in self.runs:
                is_here = run.lane_no in values and _is_within(run.block, blocks)
                is_alike = run.start in ("", stated.get("start", "")) and run.app in (
                    "", stated.get("app", ""),
                )  # fmt: skip
                if run.timed_out and is_alike and is_here:
                    values[run.lane_no].append(np.inf)
        return {lane: np.array(values[lane]) for lane in sorted(values)}

    def _looks_taken(self) -> tuple[Look, ...] | None:
        if self.plan.looks is None:
            return None
        finished = [(run.block or 1, run.state.is_finished) for run in self.runs]
        return self.plan.looks.taken(complete_blocks(finished))

    def finding(self) -> FindingRow:
        first = self.items[0]
        start = first.conditions.get("start")
        lanes = tuple(self._lane(lane) for lane in sorted(self.names))
        differences = self._fair_start()
        self.overruled = wording.overruled_clauses(differences)
        pairs = self._pairs(self._withheld(differences))
        row, headline, sentence = self._answer(lanes, differences, pairs)
        named = [
            PairFinding(a, b, found, self._pair_sentence(lanes, a, b, found))
            for (a, b), found in pairs.items()
        ]
        facet = facet_of(first.conditions)
        label = ", ".join(filter(None, [self.metric.label, facet]))
        parts = [
            self.metric.key,
            first.machine,
            first.method,
            start or "",
            *filter(None, [facet]),
        ]
        return FindingRow(
            key="|".join(parts), metric=self.metric.key, label=label,
            unit=self.metric.unit, good_end=self.metric.good_end, method=first.method,
            machine=first.machine, start=start, facet=facet,
            procedure=first.procedure, scale=self.scale,
            margin=self.margin, margin_text=wording.margin_text(self.margin, self.metric.unit),
            family=max(len(pairs) // 2, 1), lanes=lanes, pairs=tuple(named), verdict=row.verdict,
            leader=row.leader, headline=headline, sentence=self.place + sentence,
            fair_start=differences, speaks_of="these installs",
        )  # fmt: skip

    def _lane(self, lane: int) -> LaneFinding:
        sample = self.samples.get(lane)
        mine = [item for item in self.items if item.lane_no == lane]
        summary = None
        stalled: tuple[int, ...] = ()
        if sample is not None:
            summary = summarise_lane(sample, resolution=self.resolution)
            if self.metric.unit == "s":
                ended = sample[np.isfinite(sample)]
                stalled = stalls(ended, self.margin.amount or 0.0)
        failed = self.counts[lane][1]
        slow_first = 0 in stalled and not mine[0].is_set_aside
        aside = sum(item.is_set_aside for item in mine)
        breaks = condition_breaks([(i.block, i.conditions) for i in mine if not i.is_set_aside])
        stalls_left = len(stalled) - slow_first
        return LaneFinding(lane, summary, failed, stalls_left, slow_first, aside, breaks)

    def _fair_start(self) -> tuple[Difference, ...]:
        by_lane: dict[int, dict[int, Conditions]] = defaultdict(dict)
        for item in self.items:
            if not item.is_set_aside:  # readings of one lane share the record of its conditions
                by_lane[item.lane_no][id(item.conditions)] = item.conditions
        stated = {
            lane: [of_the_lane(found) for found in group.values()]
            for lane, group in by_lane.items()
        }
        return fair_start(stated, self.plan.overrules)

    def _withheld(self, differences: Sequence[Difference]) -> Verdict | None:
        """The verdict of every pair, where none may be read from the intervals."""
        if any(d.forbids for d in differences):
            return Verdict.NOT_COMPARABLE
        return Verdict.OPEN if self._too_early() else None

    def _pairs(self, withheld: Verdict | None) -> dict[tuple[int, int], PairVerdict]:
        unordered = list(combinations(self.samples, 2))
        rule = VerdictRule(
            self.margin, self.metric.good_end, max(len(unordered), 1), self.resolution
        )
        at_looks = [(look, self._samples(look.blocks)) for look in self.looks_taken or ()]
        found: dict[tuple[int, int], PairVerdict] = {}
        for a, b in unordered:
            judged = self._judged(a, b, rule, at_looks)
            if withheld is not None:
                judged = replace(judged, verdict=withheld, lean=None)
            found[(a, b)] = judged
            found[(b, a)] = mirrored_pair(found[(a, b)])
        return found

    def _judged(
        self, a: int, b: int, rule: VerdictRule, at_looks: Sequence[tuple[Look, _Samples]]
    ) -> PairVerdict:
        first, second = self.samples[a], self.samples[b]
        if self.metric.kind is Kind.COUNTED and is_exact(first, second):
            return counted_verdict(first, second, rule)
        usable = [(look, lanes[a], lanes[b]) for look, lanes in at_looks if {a, b} <= lanes.keys()]
        if usable:
            return verdict_over_looks(usable, rule)
        return pair_verdict(first, second, rule)

    def _answer(
        self,
        lanes: Sequence[LaneFinding],
        differences: Sequence[Difference],
        pairs: Mapping[tuple[int, int], PairVerdict],
    ) -> tuple[RowVerdict, str, str]:
        """The verdict, in a few words, and in a sentence."""
        grave = [d for d in differences if d.forbids]
        missing = [self.names[lane.lane_no] for lane in lanes if lane.summary is None]
        undecided = RowVerdict(Verdict.OPEN, None, tuple(self.samples))
        if grave:
            refused = RowVerdict(Verdict.NOT_COMPARABLE, None, ())
            said = wording.not_comparable_sentence(grave)
            return refused, wording.not_comparable_headline(grave), said
        early = self._too_early()
        if early is not None:
            return undecided, "Not read yet", early
        if len(self.samples) < 2:
            said = wording.absent_sentence(missing or ["a second contender"])
            return undecided, "Nothing to compare", said
        found = row_verdict(list(self.samples), pairs)
        facts = wording.RowFacts(
            self.metric, self.names, {k: float(np.median(v)) for k, v in self.samples.items()},
            pairs, self.margin, self.scale, self._clauses(lanes),
        )  # fmt: skip
        return found, wording.row_headline(facts, found), wording.row_sentence(facts, found)

    def _too_early(self) -> str | None:
        """Why no verdict is read yet, if so."""
        done, runs = sum(n for n, _ in self.counts.values()), len(self.runs)
        what = _run_name(self.items[0].procedure)
        if self.plan.looks is None:
            return None if done >= runs else wording.early_sentence(done, runs, what)
        if self.looks_taken:
            return None
        return wording.first_look_sentence(self.plan.looks.planned[0], done, runs, what)

    def _clauses(self, lanes: Sequence[LaneFinding]) -> list[str]:
        trouble = [self._trouble(lane) for lane in lanes]
        silent = [lane.lane_no for lane in lanes if lane.summary is None and not lane.failed]
        return [
            *wording.trouble_clauses(trouble, self.names, _run_name(self.items[0].procedure)),
            *(f"{self.names[lane_no]} has no readings" for lane_no in silent),
            *(
                clause
                for lane in lanes
                for clause in wording.break_clauses(self.names[lane.lane_no], lane.breaks)
            ),
            *wording.switching_clauses(self.switching),
            *self._swap_clauses(lanes),
            *self.overruled,
        ]

    def _swap_clauses(self, lanes: Sequence[LaneFinding]) -> list[str]:
        """Memory is never told without the swap that stands beside it."""
        if self.metric.key not in IN_USE:
            return []
        swapped = {k.lane_no: self.swap[k.lane_no] for k in lanes if k.lane_no in self.swap}
        return wording.swap_clauses(swapped, self.names)

    def _trouble(self, lane: LaneFinding) -> wording.Trouble:
        runs = self.counts[lane.lane_no][0]
        return wording.Trouble(lane.lane_no, lane.failed, lane.stalled, runs)

    def _pair_sentence(
        self, lanes: Sequence[LaneFinding], a: int, b: int, found: PairVerdict
    ) -> str:
        trouble = self._clauses([lane for lane in lanes if lane.lane_no in (a, b)])
        return wording.pair_sentence(
            self.metric, self.names[a], self.names[b], found, self.scale, trouble
        )


def _run_name(procedure: str) -> str:
    return runs_of(procedure)


def _reliability(
    names: Mapping[int, str],
    rows: Sequence[FindingRow],
    runs: Sequence[RunOutcome],
    is_one_machine: bool,
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
    found = reliability({lane.lane_no: (lane.failed, lane.stalled, lane.runs) for lane in lanes})
    text = wording.reliability_sentence(lanes, found, names, _run_name(first.procedure))
    verdict = Verdict.BEHIND if found.decided else Verdict.OPEN
    if not is_one_machine:
        text = f"{first.machine}: {text}"
    failures = Counter((r.lane_no, r.reason) for r in runs if r.state is RunState.FAILED)
    reasons = tuple(Failure(lane, why, count) for (lane, why), count in sorted(failures.items()))
    return ReliabilityRow(
        first.procedure, first.machine, verdict, text, tuple(lanes), reasons, found
    )
