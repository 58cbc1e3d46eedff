"""The answer of one row of the verdict sheet."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from haremile.core.comparison.row_verdict import RowVerdict
from haremile.core.comparison.verdict import PairVerdict, Verdict
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd, Metric
from haremile.core.records.units import Scale
from haremile.core.statistics.lane_statistics import LaneSummary
from haremile.core.wording.difference import margin_text, shift_text
from haremile.core.wording.numbers import count, direction, listed, size_text
from haremile.core.wording.verdicts import claim_text, use_word, verdict_text


@dataclass(frozen=True)
class RowFacts:
    """What a row's sentence is made from."""

    metric: Metric
    names: Mapping[int, str]
    medians: Mapping[int, float]
    pairs: Mapping[tuple[int, int], PairVerdict]
    margin: Margin
    scale: Scale
    clauses: Sequence[str]


def _with_clauses(text: str, clauses: Sequence[str]) -> str:
    return f"{text}; {'; '.join(clauses)}." if clauses else f"{text}."


def row_sentence(facts: RowFacts, row: RowVerdict) -> str:
    """The answer of one row, with failures and stalls in the same sentence."""
    if row.leader is not None:
        text = _leader_text(facts, row.leader)
    elif row.verdict is Verdict.LEVEL:
        text = f"All pairs differ by less than the margin ({_margin(facts)})"
    elif row.is_shared:
        group = listed([facts.names[lane] for lane in row.first_group])
        text = f"{group} share the {_best(facts)} place: they differ by less than the margin "
        text += f"({_margin(facts)})"
    else:
        text = _open_text(facts, row.first_group)
    return _with_clauses(text, facts.clauses)


def row_headline(facts: RowFacts, row: RowVerdict) -> str:
    """The answer in a few words, to be read from afar."""
    if row.leader is not None:
        shift = facts.pairs[(_next_to(facts, row.leader), row.leader)].contrast.shift.value
        size = size_text(facts.metric, shift, facts.scale)
        name = facts.names[row.leader]
        if facts.metric.good_end is GoodEnd.NONE:
            return f"{name}: {size} {direction(facts.metric, shift)}"
        verb = use_word(facts.metric)
        return f"{name} ahead by {size}" if verb is None else f"{name} {verb} {size} less"
    if row.verdict is Verdict.LEVEL:
        return f"Level: no difference beyond {_margin(facts)}"
    if row.is_shared:
        group = [facts.names[lane] for lane in row.first_group]
        who = listed(group) if len(group) <= 3 else f"{len(group)} contenders"
        return f"{who} share the {_best(facts)} place"
    return _open_headline(facts, [facts.names[lane] for lane in row.first_group])


def _open_headline(facts: RowFacts, group: Sequence[str]) -> str:
    if not facts.margin.is_stated:
        return "No margin stated"
    if len(group) == len(facts.medians):
        return "Undecided: no difference shown yet"
    return f"Undecided between {listed(group) if len(group) <= 3 else f'{len(group)} contenders'}"


def _margin(facts: RowFacts) -> str:
    return margin_text(facts.margin, facts.metric.unit)


def _leader_text(facts: RowFacts, leader: int) -> str:
    next_one = _next_to(facts, leader)
    shift = shift_text(facts.metric, facts.pairs[(next_one, leader)].contrast, facts.scale)
    if facts.metric.good_end is GoodEnd.NONE:
        word = direction(facts.metric, facts.pairs[(next_one, leader)].contrast.shift.value)
        claim = f"{facts.names[leader]} has {word} than"
    else:
        claim = f"{facts.names[leader]} {claim_text(facts.metric)}"
    if len(facts.medians) == 2:
        return f"{claim} {facts.names[next_one]}: {shift}"
    return f"{claim} every other. Against the next, {facts.names[next_one]}: {shift}"


def _next_to(facts: RowFacts, leader: int) -> int:
    """The lane that comes closest to the leader."""
    others = [lane for lane in facts.medians if lane != leader]
    return min(others, key=lambda lane: abs(facts.pairs[(lane, leader)].contrast.shift.value))


def _open_text(facts: RowFacts, first_group: Sequence[int]) -> str:
    needed = [pair.repeats_needed for pair in facts.pairs.values() if pair.repeats_needed]
    if needed:
        return f"Too few repeats for a verdict: it takes {max(needed)} of each contender"
    if not facts.margin.is_stated:
        return "No margin was stated, so nothing is called a difference"
    group = [facts.names[lane] for lane in first_group]
    if len(group) == len(facts.medians):
        lean = _lean_text(facts) if len(group) == 2 else ""
        return f"Undecided: no contender differs from every other by more than the margin yet{lean}"
    return f"The {_best(facts)} place is undecided between {listed(group)}"


def _best(facts: RowFacts) -> str:
    return "lowest" if facts.metric.good_end is GoodEnd.NONE else "first"


def _lean_text(facts: RowFacts) -> str:
    (a, b), pair = next(iter(facts.pairs.items()))
    if pair.lean is None:
        return ""
    leans = verdict_text(pair.lean, facts.metric)
    return f"; {facts.names[b]} against {facts.names[a]} leans to {leans}"


def early_sentence(done: int, planned: int, runs: str) -> str:
    """Why no verdict is read yet."""
    return f"Verdicts are read once, when all planned {runs} are in: {done} of {planned} so far."


def first_look_sentence(first: int, done: int, planned: int, runs: str) -> str:
    """Why no verdict is read yet, where looks are declared."""
    return (
        f"Verdicts are first read after block {first}, when its {runs} are in: "
        f"{done} of {planned} so far."
    )


def alone_sentence(name: str, summary: LaneSummary, scale: Scale, clauses: Sequence[str]) -> str:
    """Of a study of one contender: what it is like, and that nothing is compared."""
    found = summary.median_interval
    within = (
        f" ({scale.number(found.low)} to {scale.number(found.high)})"
        if found is not None
        else " (no interval from so few)"
    )
    readings = "1 reading" if summary.n == 1 else f"{summary.n} readings"
    said = f"{name}: typically {scale.amount(summary.median)}{within}, {readings}"
    return "; ".join([said, *clauses]) + ". One contender, so nothing is compared."


def absent_sentence(missing: Sequence[str]) -> str:
    """Where a lane has no reading that counts."""
    return f"No readings from {listed(list(missing))}, so there is nothing to compare."


def expected_false_sentence(verdicts: int, families: int, most_error: float) -> str:
    """How many verdicts a whole sheet holds, and how many false ones to expect at most."""
    if families == 0:
        return ""
    false = 0.05 * most_error * families
    return (
        f"{count(verdicts, 'verdict')} in {count(families, 'row')}; "
        f"by chance at most {false:.2g} of these rows would hold a false verdict."
    )
