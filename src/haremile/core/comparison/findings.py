"""From readings to the verdict sheet: the figures and verdicts, without a sentence."""

from collections import Counter, defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from itertools import combinations

import numpy as np

from haremile.core.comparison.block_table import BlockTable
from haremile.core.comparison.comparability import (
    OF_THE_HOST,
    Difference,
    disturbed_runs,
    fair_start,
)
from haremile.core.comparison.over_looks import most_error, verdicts_over_looks
from haremile.core.comparison.over_machines import over_machines
from haremile.core.comparison.records import (
    Early,
    Failure,
    FindingRow,
    Findings,
    Incidents,
    LaneFinding,
    Observation,
    PairFinding,
    Plan,
    ReliabilityRow,
    RunOutcome,
    facet_of,
)
from haremile.core.comparison.reliability import WHOLE_RUN, reliability
from haremile.core.comparison.row_verdict import RowVerdict, row_verdict
from haremile.core.comparison.verdict import (
    Form,
    PairVerdict,
    Verdict,
    VerdictRule,
    counted_verdict,
    mirrored_pair,
    pair_verdict,
)
from haremile.core.records.conditions import Conditions, condition_breaks, of_the_lane
from haremile.core.records.interim_looks import Look, complete_blocks
from haremile.core.records.metrics import GoodEnd, Kind, metric, sheet_position
from haremile.core.records.procedures import PROCEDURES
from haremile.core.records.study import RunState
from haremile.core.records.units import scale_for
from haremile.core.statistics.blocks import pays, share_between_blocks
from haremile.core.statistics.contrast import is_exact
from haremile.core.statistics.lane_statistics import is_first_apart, stalls, summarise_lane
from haremile.core.statistics.validation import FloatArray, are_whole

SWAP = "memory.swap_used"
IN_USE = ("memory.used", "memory.used_nocache", "memory.pss", "memory.rss")
"""Memory that is never told without the swap beside it."""

ANEW = "reinstall"
"""How contenders are switched where a machine is wiped for each: one after the other."""

LEAST_COMPLETE = 0.8
"""So many of the blocks at least have to hold a reading of every lane, to be compared within."""

_RowKey = tuple[int, str, str, str, str, str]
_Samples = Mapping[int, FloatArray]


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
    stated: dict[int, tuple[str, str]] = {}  # readings of one lane share their conditions
    for item in observations:
        own = stated.get(id(item.conditions))
        if own is None:
            own = item.conditions.get("start", ""), facet_of(item.conditions)
            stated[id(item.conditions)] = own
        key = (sheet_position(item.metric), item.metric, item.machine, item.method, *own)
        groups[key].append(item)
    sheets: dict[tuple[str, str], list[RunOutcome]] = defaultdict(list)
    for run in runs:
        sheets[(run.machine, run.procedure)].append(run)
    swap = _swapped(observations)
    machines = {item.machine for item in observations} | {run.machine for run in runs}
    rows = tuple(
        _Row(names, items, sheets[(items[0].machine, items[0].procedure)], plan, swap).finding()
        for items in (groups[key] for key in sorted(groups))
    )
    reliable = tuple(
        _reliability(rows, sheets[key])
        for key in sorted(sheets, key=_procedure_first)
        if sheets[key]
    )
    is_complete = all(run.state.is_finished for run in runs)
    over = () if len(machines) < 2 else over_machines(rows, names)
    return Findings(rows, reliable, over, is_complete, most_error(plan.interim_looks))


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


class _Row:
    """One row in the making."""

    def __init__(
        self,
        names: Mapping[int, str],
        items: Sequence[Observation],
        runs: Sequence[RunOutcome],
        plan: Plan,
        swap: Mapping[int, float],
    ):
        self.items, self.runs, self.plan, self.swap = items, runs, plan, swap
        self.table = BlockTable(items)
        self.of_lane: dict[int, list[Observation]] = defaultdict(list)
        for item in items:
            self.of_lane[item.lane_no].append(item)
        self.metric = metric(items[0].metric)
        self.margin = plan.margins.get(self.metric.key, self.metric.margin)
        taking_part = {run.lane_no for run in runs} | {item.lane_no for item in items}
        self.names = {lane: name for lane, name in names.items() if lane in taking_part}
        self.counts = self._run_counts()
        self.too_slow = self._too_slow()
        self.samples = self._samples()
        self.resolution = max((item.resolution or 0.0 for item in items), default=0.0) or None
        values = np.array([item.value for item in items])
        self.scale = scale_for(self.metric.unit, float(np.median(values)), are_whole(values))
        self.rule = VerdictRule(
            self.margin, self.metric.good_end, max(len(self.samples), 2), self.resolution
        )
        self.looks_taken = self._looks_taken()
        self.switching = frozenset(item.conditions.get("switching") for item in items)
        self.is_in_a_row = plan.is_in_a_row or ANEW in self.switching
        self.rule = replace(self.rule, is_in_a_row=self.is_in_a_row)
        self.block_share = self._block_share()

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
        found = self.table.samples(blocks)
        late = Counter(
            run.lane_no
            for run in self.too_slow
            if run.lane_no in found and (blocks is None or run.block is None or run.block <= blocks)
        )
        for lane, count in late.items():
            found[lane] = np.append(found[lane], np.full(count, np.inf))
        return found

    def _too_slow(self) -> list[RunOutcome]:
        """Runs that timed out, and count as slower than their limit."""
        if self.metric.key not in WHOLE_RUN:
            return []
        stated = self.items[0].conditions
        own = {name: ("", stated.get(name, "")) for name in ("start", "app")}
        return [
            run
            for run in self.runs
            if run.timed_out and run.start in own["start"] and run.app in own["app"]
        ]

    def _block_share(self) -> float | None:
        """Share of the noise between blocks, where it pays to compare within them: told once, from
        what the first look reads, without regard to who is who."""
        if any(np.isinf(values).any() for values in self.samples.values()):
            return None  # a run that timed out has no pair, and must not be left out
        first = self.looks_taken[0] if self.looks_taken else None
        complete = self.table.complete(first.blocks if first else None)
        blocks, lanes = complete.values.shape
        if self.is_in_a_row or lanes < 2 or blocks < max(LEAST_COMPLETE * complete.of, 1):
            return None
        found = share_between_blocks(complete.values)
        return found if self._pairs_can_decide(blocks) and pays(found, blocks, lanes) else None

    def _pairs_can_decide(self, blocks: int) -> bool:
        """Whether so many pairs reach the level; where there are looks, at the first of them."""
        if self.looks_taken:
            return self.rule.errors(self.looks_taken[0], Form.PAIRS)[0] > 0.0
        return Form.PAIRS.attainable(blocks) <= self.rule.errors(None, Form.PAIRS)[0]

    def _looks_taken(self) -> tuple[Look, ...] | None:
        if self.plan.interim_looks is None:
            return None
        finished = [(run.block or 1, run.state.is_finished) for run in self.runs]
        taken = self.plan.interim_looks.taken(complete_blocks(finished))
        planned = self.plan.interim_looks.planned
        deciding = {*self.rule.deciding_looks(planned, Form.RANKS), planned[-1]}
        return tuple(look for look in taken if look.is_extension or look.blocks in deciding)

    def finding(self) -> FindingRow:
        first = self.items[0]
        lanes = tuple(self._lane(lane) for lane in sorted(self.names))
        differences = self._comparability()
        early = self._early()
        pairs = self._pairs(self._withheld(differences, early))
        row = self._answer(differences, early, pairs)
        return FindingRow(
            key=first.row_key,
            metric=self.metric.key,
            unit=self.metric.unit,
            good_end=self.metric.good_end,
            method=first.method,
            machine=first.machine,
            start=first.conditions.get("start"),
            facet=facet_of(first.conditions),
            procedure=first.procedure,
            scale=self.scale,
            margin=self.margin,
            family=max(len(pairs) // 2, 1),
            lanes=lanes,
            pairs=tuple(PairFinding(a, b, found) for (a, b), found in pairs.items()),
            verdict=row.verdict,
            leader=row.leader,
            fair_start=differences,
            first_group=row.first_group,
            is_shared=row.is_shared,
            early=early,
            switching=self.switching,
            is_in_a_row=self.is_in_a_row,
            block_share=self.block_share,
            boots_each=frozenset(
                item.conditions["boots_each"]
                for item in self.items
                if "boots_each" in item.conditions
            ),
            swapped=self._swapped(lanes),
        )

    def _lane(self, lane: int) -> LaneFinding:
        sample = self.samples.get(lane)
        mine = self.of_lane[lane]
        summary = None
        stalled: tuple[int, ...] = ()
        slow_first = False
        if sample is not None:
            error = max(item.absolute_error for item in mine)
            summary = summarise_lane(sample, resolution=self.resolution, error=error)
            ended = sample[np.isfinite(sample)]
            if ended.size and self.metric.kind is not Kind.COUNTED:
                worse = ended if self.metric.good_end is not GoodEnd.HIGH else -ended
                width = self.margin.width(float(np.median(ended)))
                stalled = stalls(worse, width)
                slow_first = 0 in stalled or is_first_apart(worse, width)
        runs, failed = self.counts[lane]
        slow_first = slow_first and not mine[0].is_set_aside
        far_first = slow_first and 0 in stalled
        aside = sum(item.is_set_aside for item in mine)
        breaks = condition_breaks([(i.block, i.conditions) for i in mine if not i.is_set_aside])
        others = len(stalled) - far_first
        corrected = sum(item.is_corrected and not item.is_set_aside for item in mine)
        return LaneFinding(
            lane, summary, failed, others, slow_first, aside, runs, breaks, far_first, corrected
        )

    def _comparability(self) -> tuple[Difference, ...]:
        by_lane: dict[int, dict[int, Conditions]] = defaultdict(dict)
        for item in self.items:
            if not item.is_set_aside:  # readings of one lane share the record of its conditions
                by_lane[item.lane_no][id(item.conditions)] = item.conditions
        stated = {
            lane: [of_the_lane(found) for found in group.values()]
            for lane, group in by_lane.items()
        }
        return (*fair_start(stated, self.plan.overrides), *self._disturbed(by_lane))

    def _disturbed(self, lanes: Collection[int]) -> list[Difference]:
        found = []
        for key in OF_THE_HOST:
            shares: dict[int, list[float]] = defaultdict(list)
            for run in self.runs:
                share = run.host_shares.get(key)
                if share is not None and run.lane_no in lanes:
                    shares[run.lane_no].append(share)
            found.append(disturbed_runs(key, shares))
        return [one for one in found if one is not None]

    @staticmethod
    def _withheld(differences: Sequence[Difference], early: Early | None) -> Verdict | None:
        """The verdict of every pair, where none may be read from the intervals."""
        if any(d.forbids for d in differences):
            return Verdict.NOT_COMPARABLE
        return Verdict.UNDECIDED if early else None

    def _pairs(self, withheld: Verdict | None) -> dict[tuple[int, int], PairVerdict]:
        unordered = list(combinations(self.samples, 2))
        rule = self.rule
        every = self._read_at(None)
        counted = {
            (a, b): counted_verdict(every[a], every[b], rule)
            for a, b in unordered
            if self.metric.kind is Kind.COUNTED and is_exact(every[a], every[b])
        }
        at_looks: list[tuple[Look | None, _Samples]] = [
            (look, self._read_at(look.blocks)) for look in self.looks_taken or ()
        ]
        form = Form.RANKS if self.block_share is None else Form.PAIRS
        sampled = [pair for pair in unordered if pair not in counted]
        judged = verdicts_over_looks(at_looks or [(None, every)], sampled, rule, form) | counted
        found: dict[tuple[int, int], PairVerdict] = {}
        for pair in unordered:
            one = judged.get(pair) or pair_verdict(every[pair[0]], every[pair[1]], rule)
            if withheld is not None:
                one = replace(one, verdict=withheld, lean=None)
            found[pair], found[pair[::-1]] = one, mirrored_pair(one)
        return found

    def _read_at(self, blocks: int | None) -> _Samples:
        """What the pairs of lanes are compared by, of the first `blocks` or of all."""
        if self.block_share is None:
            return self.samples if blocks is None else self._samples(blocks)
        table = self.table.complete(blocks).values
        return dict(zip(self.table.lanes, table.T, strict=True))

    def _answer(
        self,
        differences: Sequence[Difference],
        early: Early | None,
        pairs: Mapping[tuple[int, int], PairVerdict],
    ) -> RowVerdict:
        if any(d.forbids for d in differences):
            return RowVerdict(Verdict.NOT_COMPARABLE, None, ())
        if early is not None or len(self.samples) < 2:
            return RowVerdict(Verdict.UNDECIDED, None, tuple(self.samples))
        return row_verdict(list(self.samples), pairs)

    def _early(self) -> Early | None:
        done, runs = sum(n for n, _ in self.counts.values()), len(self.runs)
        if self.plan.interim_looks is None:
            return None if done >= runs else Early(done, runs, None)
        if self.looks_taken:
            return None
        planned = self.plan.interim_looks.planned
        first = self.rule.deciding_looks(planned, Form.RANKS) or planned[-1:]
        return Early(done, runs, first[0])

    def _swapped(self, lanes: Sequence[LaneFinding]) -> dict[int, float]:
        """Memory is never told without the swap that stands beside it."""
        if self.metric.key not in IN_USE:
            return {}
        return {
            lane.lane_no: self.swap[lane.lane_no] for lane in lanes if lane.lane_no in self.swap
        }


def _reliability(rows: Sequence[FindingRow], runs: Sequence[RunOutcome]) -> ReliabilityRow:
    first = runs[0]
    mine = [r for r in rows if (r.machine, r.procedure) == (first.machine, first.procedure)]
    lanes = []
    finished: dict[int, list[RunOutcome]] = {run.lane_no: [] for run in runs}
    for run in runs:
        if run.state.is_finished:
            finished[run.lane_no].append(run)
    for lane_no, own in sorted(finished.items()):
        failed = sum(run.state is RunState.FAILED for run in own)
        stalled = max(
            (
                lane.stalled
                for row in mine
                if row.unit == "s"
                for lane in row.lanes
                if lane.lane_no == lane_no
            ),
            default=0,
        )
        lanes.append(Incidents(lane_no, failed, min(stalled, len(own)), len(own)))
    found = reliability({lane.lane_no: (lane.failed, lane.stalled, lane.runs) for lane in lanes})
    verdict = Verdict.BEHIND if found.decided else Verdict.UNDECIDED
    failures = Counter((r.lane_no, r.reason) for r in runs if r.state is RunState.FAILED)
    reasons = tuple(Failure(lane, why, count) for (lane, why), count in sorted(failures.items()))
    return ReliabilityRow(first.procedure, first.machine, verdict, tuple(lanes), reasons, found)
