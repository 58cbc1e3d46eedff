"""A study's findings in words: every sentence of the verdict sheet."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace

from haremile.core.comparison.records import (
    FindingRow,
    Findings,
    Incidents,
    LaneFinding,
    MachinesRow,
    PairFinding,
    ReliabilityRow,
)
from haremile.core.comparison.row_verdict import RowVerdict
from haremile.core.comparison.verdict import Verdict
from haremile.core.records.metrics import metric
from haremile.core.records.procedures import runs_of
from haremile.core.wording.conditions import (
    block_clauses,
    break_clauses,
    in_a_row_clauses,
    not_comparable_headline,
    not_comparable_sentence,
    override_clauses,
    swap_clauses,
    unseen_clauses,
)
from haremile.core.wording.difference import margin_text, pair_sentence
from haremile.core.wording.machines import machines_answer, machines_pair_sentence
from haremile.core.wording.reliability import incident_clauses, reliability_sentence, stall_word
from haremile.core.wording.row import (
    RowFacts,
    absent_sentence,
    alone_sentence,
    early_sentence,
    expected_false_sentence,
    first_look_sentence,
    row_headline,
    row_sentence,
)
from haremile.core.wording.verdicts import verdict_text

Names = Mapping[int, str]


def in_words(found: Findings, names: Names) -> Findings:
    """The same with every label, headline and sentence.

    Parameters
    ----------
    found : Findings
    names : mapping of lane number to the name of its entrant
    """
    machines = {row.machine for row in found.rows} | {row.machine for row in found.reliability}
    is_one = len(machines) < 2
    return replace(
        found,
        rows=tuple(_row(row, names, is_one) for row in found.rows),
        reliability=tuple(_reliability(row, names, is_one) for row in found.reliability),
        machines=tuple(_over(row) for row in found.machines),
        expected_false=_expected_false(found),
    )


def _expected_false(found: Findings) -> str:
    """Said of the rows whose pairs were judged."""
    judged = [r for r in found.rows if r.pairs and r.verdict is not Verdict.NOT_COMPARABLE]
    pairs = [pair for row in judged for pair in row.pairs if pair.a < pair.b]
    verdicts = sum(pair.found.verdict is not Verdict.UNDECIDED for pair in pairs)
    return expected_false_sentence(verdicts, len(judged), found.most_error)


SHARED = "shared"
"""The verdict of a row whose first place is."""


def _label(key: str, facet: str) -> str:
    return ", ".join(filter(None, [metric(key).label, facet]))


def _row(row: FindingRow, names: Names, is_one_machine: bool) -> FindingRow:
    shared = _shared_clauses(row)
    headline, sentence = _answer(row, names, shared)
    return replace(
        row,
        label=_label(row.metric, row.facet),
        margin_text=margin_text(row.margin, row.unit),
        pairs=tuple(_pair(row, pair, names, shared) for pair in row.pairs),
        verdict_text=_row_verdict_text(row),
        headline=headline,
        sentence=sentence if is_one_machine else f"{row.machine}: {sentence}",
    )


def _row_verdict_text(row: FindingRow) -> str:
    if len(row.lanes) == 1:
        return "one contender"
    return SHARED if row.is_shared else verdict_text(row.verdict, metric(row.metric))


def _pair(row: FindingRow, pair: PairFinding, names: Names, shared: Sequence[str]) -> PairFinding:
    lanes = [lane for lane in row.lanes if lane.lane_no in (pair.a, pair.b)]
    said = pair_sentence(
        metric(row.metric),
        names[pair.a],
        names[pair.b],
        pair.found,
        row.scale,
        [*_clauses(row, lanes, names), *shared],
    )
    verdict = verdict_text(pair.found.verdict, metric(row.metric))
    return replace(pair, verdict_text=verdict, sentence=said)


def _answer(row: FindingRow, names: Names, shared: Sequence[str]) -> tuple[str, str]:
    """The answer in a few words, and in a sentence."""
    grave = [one for one in row.fair_start if one.forbids]
    if grave:
        return not_comparable_headline(grave), not_comparable_sentence(grave)
    if row.early is not None:
        return "Not read yet", _early_sentence(row)
    medians = {one.lane_no: one.summary.median for one in row.lanes if one.summary}
    if len(row.lanes) == 1 and row.lanes[0].summary:
        (only,) = row.lanes
        assert only.summary is not None
        clauses = [*_clauses(row, row.lanes, names), *shared]
        says = alone_sentence(names[only.lane_no], only.summary, row.scale, clauses)
        return row.scale.amount(only.summary.median), says
    if len(medians) < 2:
        missing = [names[one.lane_no] for one in row.lanes if one.summary is None]
        return "Nothing to compare", absent_sentence(missing or ["a second contender"])
    facts = RowFacts(
        metric(row.metric),
        names,
        medians,
        {(pair.a, pair.b): pair.found for pair in row.pairs},
        row.margin,
        row.scale,
        [*_clauses(row, row.lanes, names), *shared],
    )
    found = RowVerdict(row.verdict, row.leader, row.first_group, row.is_shared)
    return row_headline(facts, found), row_sentence(facts, found)


def _early_sentence(row: FindingRow) -> str:
    early, runs = row.early, runs_of(row.procedure)
    assert early is not None
    if early.first_look is None:
        return early_sentence(early.done, early.runs, runs)
    return first_look_sentence(early.first_look, early.done, early.runs, runs)


def _clauses(row: FindingRow, lanes: Sequence[LaneFinding], names: Names) -> list[str]:
    """What is never left unsaid of these lanes beside an answer."""
    incidents = [Incidents(one.lane_no, one.failed, one.stalled, one.runs) for one in lanes]
    silent = [one.lane_no for one in lanes if one.summary is None and not one.failed]
    swapped = {one.lane_no: row.swapped[one.lane_no] for one in lanes if one.lane_no in row.swapped}
    return [
        *incident_clauses(incidents, names, runs_of(row.procedure), stall_word(metric(row.metric))),
        *_first_clauses(row, lanes, names),
        *_tail_clauses(row, lanes, names),
        *(f"{names[lane_no]} has no readings" for lane_no in silent),
        *(text for one in lanes for text in break_clauses(names[one.lane_no], one.breaks)),
        *swap_clauses(swapped, names),
    ]


def _shared_clauses(row: FindingRow) -> list[str]:
    """What goes for every pair of a row alike."""
    return [
        *block_clauses(row.block_share),
        *in_a_row_clauses(row.is_in_a_row, [pair.found.dependence for pair in row.pairs]),
        *unseen_clauses(row.boots_each),
        *override_clauses(row.fair_start),
    ]


def _first_clauses(row: FindingRow, lanes: Sequence[LaneFinding], names: Names) -> list[str]:
    """Whose first run lies as far off as a stall."""
    made = metric(row.metric)
    far = stall_word(made).removesuffix(" the rest")
    said = "took far longer than" if made.unit == "s" else far
    return [f"{names[one.lane_no]}’s first run {said} the rest" for one in lanes if one.far_first]


LEAST_FOR_A_TAIL = 10


def _tail_clauses(row: FindingRow, lanes: Sequence[LaneFinding], names: Names) -> list[str]:
    """Beside *level*: whose upper tenth lies higher by more than the margin."""
    tails = {
        one.lane_no: one.summary.p90
        for one in lanes
        if one.summary and one.summary.n >= LEAST_FOR_A_TAIL and math.isfinite(one.summary.p90)
    }
    if row.verdict is not Verdict.LEVEL or len(tails) < 2:
        return []
    low, high = min(tails, key=tails.__getitem__), max(tails, key=tails.__getitem__)
    apart = tails[high] - tails[low]
    if apart <= row.margin.width(tails[low]):
        return []
    size = row.scale.at_least_one_step(apart)
    return [f"but one in ten runs of {names[high]} lies {size} above one in ten of {names[low]}"]


def _reliability(row: ReliabilityRow, names: Names, is_one_machine: bool) -> ReliabilityRow:
    text = reliability_sentence(row.lanes, row.found, names, runs_of(row.procedure))
    verdict = "differs" if row.verdict is Verdict.BEHIND else row.verdict.value
    said = text if is_one_machine else f"{row.machine}: {text}"
    return replace(row, verdict_text=verdict, sentence=said)


def _over(row: MachinesRow) -> MachinesRow:
    made = metric(row.metric)
    headline, sentence = machines_answer(
        made,
        {one.machine: one.leader for one in row.leaders},
        {(pair.a, pair.b): pair.found for pair in row.pairs},
    )
    pairs = tuple(
        replace(pair, sentence=machines_pair_sentence(made, pair.a, pair.b, pair.found))
        for pair in row.pairs
    )
    label = _label(row.metric, row.facet)
    return replace(row, label=label, pairs=pairs, headline=headline, sentence=sentence)
