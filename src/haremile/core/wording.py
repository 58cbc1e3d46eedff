"""Every sentence about a difference is written here, so that direction and per cent are never
ambiguous."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from haremile.core.contrast import Contrast, Estimate
from haremile.core.fair_start import Difference
from haremile.core.margin import Margin
from haremile.core.metrics import GoodEnd, Metric
from haremile.core.planning import RepeatsPlan
from haremile.core.units import Scale, scale_for
from haremile.core.verdict import PairVerdict, RowVerdict, Verdict


@dataclass(frozen=True)
class Trouble:
    """Failures and stalls of one lane, said beside any praise."""

    lane_no: int
    failed: int
    stalled: int
    runs: int


_COMPARED = {"s": ("sooner", "later"), "B": ("less", "more"), "1": ("fewer", "more")}
_POSSESSED = {"s": "time", "counted_s": "work"}


def _direction(metric: Metric, sign: float) -> str:
    low, high = _COMPARED.get(metric.unit, ("lower", "higher"))
    return low if sign < 0 else high


def share_text(ratio: float, of_what: str) -> str:
    """A ratio as whole per cent, said both ways: ``82 % of A’s time (18 % less)``."""
    whole = round(ratio * 100)
    if whole == 100:
        return f"about 100 % of {of_what}"
    return f"{whole} % of {of_what} ({abs(whole - 100)} % {'less' if whole < 100 else 'more'})"


def _range_of(estimate: Estimate, scale: Scale) -> str:
    """Limits in the direction of the estimate: sizes if both lie on its side, else signed."""
    low, high = estimate.interval.low, estimate.interval.high
    if low >= 0 or high <= 0:
        sizes = sorted((abs(low), abs(high)))
        return f"{scale.number(sizes[0])} to {scale.number(sizes[1])}"
    return f"{_signed(low, scale)} to {_signed(high, scale)}"


def _signed(value: float, scale: Scale) -> str:
    text = scale.number(value)
    return text if value <= 0 or text.startswith("−") else f"+{text}"


def shift_text(metric: Metric, found: Contrast, scale: Scale) -> str:
    """The shift of B against A: ``typically 3.7 s sooner (3.5 to 4.0)``."""
    value = found.shift.value
    if value == 0:
        return f"typically no difference ({_range_of(found.shift, scale)})"
    size = scale.at_least_one_step(value)
    return f"typically {size} {_direction(metric, value)} ({_range_of(found.shift, scale)})"


def pair_sentence(
    metric: Metric, a: str, b: str, pair: PairVerdict, scale: Scale, trouble: Sequence[str] = ()
) -> str:
    """B against A in one sentence, with estimate, interval, per cent and what is open."""
    text = f"{b} against {a}: {shift_text(metric, pair.contrast, scale)}"
    if pair.contrast.ratio is not None:
        what = _POSSESSED.get(metric.unit, "amount")
        verb = "takes" if metric.unit in _POSSESSED else "has"
        text += f"; it {verb} {share_text(pair.contrast.ratio.value, f'{a}’s {what}')}"
    if pair.repeats_needed is not None:
        text += f". Too few repeats for a verdict: it takes {pair.repeats_needed} of each"
    elif pair.verdict is Verdict.OPEN:
        text += ". Open" + (f", leaning to {pair.lean}" if pair.lean else "")
    return ". ".join([text, *trouble]) + "."


def margin_text(margin: Margin, unit: str) -> str:
    """The margin in words: ``0.5 s or 3 %, whichever is wider``."""
    parts = []
    if margin.amount is not None:
        scale = scale_for(unit, margin.amount)
        figure = f"{margin.amount / scale.factor:.{scale.decimals}f}"
        figure = figure.rstrip("0").rstrip(".") if "." in figure else figure
        parts.append(f"{figure} {scale.label}".rstrip())
    if margin.share is not None:
        parts.append(f"{margin.share * 100:g} %")
    if not parts:
        return "none stated"
    return parts[0] if len(parts) == 1 else f"{parts[0]} or {parts[1]}, whichever is wider"


def trouble_clauses(trouble: Sequence[Trouble], names: Mapping[int, str], runs: str) -> list[str]:
    """What is never left unsaid: ``X failed in 3 of 20 boots``, ``X stalls in 2 of 20 boots``."""
    clauses = []
    for lane in trouble:
        if lane.failed:
            clauses.append(f"{names[lane.lane_no]} failed in {lane.failed} of {lane.runs} {runs}")
        if lane.stalled:
            clauses.append(f"{names[lane.lane_no]} stalls in {lane.stalled} of {lane.runs} {runs}")
    return clauses


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
    else:
        text = _open_text(facts, row.first_group)
    return _with_clauses(text, facts.clauses)


def _margin(facts: RowFacts) -> str:
    return margin_text(facts.margin, facts.metric.unit)


def _leader_text(facts: RowFacts, leader: int) -> str:
    others = [lane for lane in facts.medians if lane != leader]
    next_one = min(others, key=lambda lane: abs(facts.pairs[(lane, leader)].contrast.shift.value))
    shift = shift_text(facts.metric, facts.pairs[(next_one, leader)].contrast, facts.scale)
    if facts.metric.good_end is GoodEnd.NONE:
        word = _direction(facts.metric, facts.pairs[(next_one, leader)].contrast.shift.value)
        claim = f"{facts.names[leader]} has {word} than"
    else:
        claim = f"{facts.names[leader]} is ahead of"
    if len(others) == 1:
        return f"{claim} {facts.names[next_one]}: {shift}"
    return f"{claim} every other. Against the next, {facts.names[next_one]}: {shift}"


def _open_text(facts: RowFacts, first_group: Sequence[int]) -> str:
    needed = [pair.repeats_needed for pair in facts.pairs.values() if pair.repeats_needed]
    if needed:
        return f"Too few repeats for a verdict: it takes {max(needed)} of each contender"
    if not facts.margin.is_stated:
        return "No margin was stated, so nothing is called a difference"
    group = [facts.names[lane] for lane in first_group]
    if len(group) == len(facts.medians):
        lean = _lean_text(facts) if len(group) == 2 else ""
        return f"No contender is told apart from every other yet{lean}"
    better = "lowest" if facts.metric.good_end is GoodEnd.NONE else "first"
    return f"The {better} place is open between {_listed(group)}"


def _lean_text(facts: RowFacts) -> str:
    (a, b), pair = next(iter(facts.pairs.items()))
    if pair.lean is None:
        return ""
    return f"; {facts.names[b]} against {facts.names[a]} leans to {pair.lean}"


def _listed(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def not_comparable_sentence(differences: Sequence[Difference]) -> str:
    """Why a row is not compared."""
    return f"Not alike at the start: {'; '.join(d.sentence for d in differences)}."


def early_sentence(done: int, planned: int, runs: str) -> str:
    """Why no verdict is read yet."""
    return f"Verdicts are read once, when all planned {runs} are in: {done} of {planned} so far."


def absent_sentence(missing: Sequence[str]) -> str:
    """Where a lane has no reading that counts."""
    return f"No readings from {_listed(list(missing))}, so there is nothing to compare."


def reliability_sentence(
    trouble: Sequence[Trouble], names: Mapping[int, str], runs: str, unseen_share: float
) -> str:
    """Failures and stalls of all lanes, and what so few runs cannot see."""
    total = sum(lane.runs for lane in trouble)
    clauses = trouble_clauses(trouble, names, runs)
    limit = f"at {max(lane.runs for lane in trouble)} {runs} each, a failure rate of up to "
    limit += f"{unseen_share * 100:.0f} % can go unseen"
    if not clauses:
        return f"None of {total} {runs} failed or stalled; {limit}."
    quiet = len(trouble) - len({lane.lane_no for lane in trouble if lane.failed or lane.stalled})
    tail = "; the others never did" if quiet > 1 else "; the other never did" if quiet else ""
    return f"{'; '.join(clauses)}{tail}. {limit[0].upper()}{limit[1:]}."


def plan_sentence(plan: RepeatsPlan, power: float) -> str:
    """What a plan can hope for, in words."""
    if plan.repeats is None:
        return "Never: the assumed difference sits at the margin, and no number of repeats tells."
    pairs = "one pair" if plan.family == 1 else f"each of {plan.family} pairs"
    return (
        f"{plan.repeats} repeats of each contender find {pairs} {plan.aim} "
        f"with a chance of {power * 100:g} %, if the assumed difference is true."
    )


def smallest_sentence(smallest: float | None, repeats: int, unit: str, power: float) -> str:
    """What given repeats can tell apart, in words."""
    if smallest is None:
        return f"{repeats} repeats of each contender are too few for any verdict."
    figure = scale_for(unit, smallest).amount(smallest)
    return (
        f"{repeats} repeats of each contender tell a true difference of {figure} or more apart "
        f"with a chance of {power * 100:g} %."
    )
