"""Every sentence about a difference is written here, so that direction and per cent are never
ambiguous."""

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

from haremile.core.comparison.comparability import Difference
from haremile.core.comparison.machines import MachinesContrast
from haremile.core.comparison.reliability import Reliability, ReliabilityPair
from haremile.core.comparison.verdict import PairVerdict, RowVerdict, Verdict
from haremile.core.planning.repeats import RepeatsPlan, TimeEstimate
from haremile.core.records.conditions import ConditionBreak
from haremile.core.records.interim_looks import Look
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd, Metric
from haremile.core.records.units import Scale, scale_for
from haremile.core.standing.total import SystemTotal, Totals
from haremile.core.statistics.contrast import Contrast, Estimate
from haremile.core.statistics.diagnostic_power import DiagnosticPower, diagnostic_power
from haremile.core.statistics.lane_statistics import LaneSummary
from haremile.core.statistics.proportions import proportion, unseen_share
from haremile.core.statistics.run_order import LITTLE_POWER_BELOW, SequenceDiagnosis


@dataclass(frozen=True)
class Trouble:
    """Failures and stalls of one lane, said beside any praise."""

    lane_no: int
    failed: int
    stalled: int
    runs: int


SURE_OF_DRIFT = 0.005
"""p below which a trend is told of a lane among many."""

_COMPARED = {"s": ("sooner", "later"), "B": ("less", "more"), "1": ("fewer", "more")}
_POSSESSED = {"s": "time", "counted_s": "work"}


def _direction(metric: Metric, sign: float) -> str:
    low, high = _COMPARED.get(metric.unit, ("lower", "higher"))
    return low if sign < 0 else high


def share_text(ratio: float, of_what: str) -> str:
    """A ratio as whole per cent, said both ways: ``82 % of A’s time (18 % less)``."""
    if math.isinf(ratio):
        return f"more than any share of {of_what}"
    whole = round(ratio * 100)
    if whole == 100:
        return f"about 100 % of {of_what}"
    return f"{whole} % of {of_what} ({abs(whole - 100)} % {'less' if whole < 100 else 'more'})"


def _range_of(estimate: Estimate, scale: Scale) -> str:
    """Limits in the direction of the estimate: sizes if both lie on its side, else signed."""
    low, high = estimate.interval.low, estimate.interval.high
    if math.isinf(low) or math.isinf(high):
        return _open_ended(low, high, scale)
    if low >= 0 or high <= 0:
        sizes = sorted((abs(low), abs(high)))
        return f"{scale.number(sizes[0])} to {scale.number(sizes[1])}"
    return f"{_signed(low, scale)} to {_signed(high, scale)}"


def _open_ended(low: float, high: float, scale: Scale) -> str:
    """Where runs that timed out leave a limit open."""
    if math.isinf(low) and math.isinf(high):
        return "no limit either way"
    if math.isinf(high):
        return f"{_signed(low, scale)} or higher"
    return f"{_signed(high, scale)} or lower"


def _signed(value: float, scale: Scale) -> str:
    text = scale.number(value)
    return text if value <= 0 or text.startswith("−") else f"+{text}"


def _in_points(metric: Metric, scale: Scale) -> Scale:
    """Differences of shares are points: per cent of what, otherwise?"""
    return replace(scale, label="points") if metric.unit == "share" else scale


def shift_text(metric: Metric, found: Contrast, scale: Scale) -> str:
    """The shift of B against A: ``typically 3.7 s sooner (3.5 to 4.0)``."""
    value, scale = found.shift.value, _in_points(metric, scale)
    if math.isinf(value):
        return f"typically beyond the time limit, {_direction(metric, value)}"
    if value == 0:
        return f"typically no difference ({_range_of(found.shift, scale)})"
    size = scale.at_least_one_step(value)
    return f"typically {size} {_direction(metric, value)} ({_range_of(found.shift, scale)})"


def difference_text(metric: Metric, a: str, b: str, found: Contrast, scale: Scale) -> str:
    """B against A with estimate, interval and per cent, without a full stop."""
    text = f"{b} against {a}: {shift_text(metric, found, scale)}"
    if found.ratio is not None:
        what = _POSSESSED.get(metric.unit, "amount")
        verb = "takes" if metric.unit in _POSSESSED else "has"
        text += f"; it {verb} {share_text(found.ratio.value, f'{a}’s {what}')}"
    return text


def difference_sentence(
    metric: Metric, a: str, b: str, found: Contrast, scale: Scale, trouble: Sequence[str] = ()
) -> str:
    """B against A where no margin was stated, so that nothing is judged."""
    return "; ".join([difference_text(metric, a, b, found, scale), *trouble]) + "."


def pair_sentence(
    metric: Metric, a: str, b: str, pair: PairVerdict, scale: Scale, trouble: Sequence[str] = ()
) -> str:
    """B against A with estimate, interval, per cent, verdict, and failures beside it."""
    text = difference_text(metric, a, b, pair.contrast, scale)
    judged = "; ".join([_judgement(pair), *trouble])
    return f"{text}. {judged}."


def _judgement(pair: PairVerdict) -> str:
    if pair.repeats_needed is not None:
        text = f"Too few repeats for a verdict: it takes {pair.repeats_needed} of each"
    elif pair.verdict is Verdict.OPEN:
        text = "Open" + (f", leaning to {pair.lean}" if pair.lean else "")
    else:
        text = pair.verdict.capitalize()
    return text if pair.look is None else text + _look_text(pair.look, pair.verdict)


def _look_text(look: Look, verdict: Verdict) -> str:
    """At which look it was read, and that an extension was needed."""
    read = "still open" if verdict is Verdict.OPEN else "read"
    extended = ", extended" if look.is_extension else ""
    return f", {read} after block {look.blocks}{extended}"


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


def row_headline(facts: RowFacts, row: RowVerdict) -> str:
    """The answer in a few words, to be read from afar."""
    if row.leader is not None:
        shift = facts.pairs[(_next_to(facts, row.leader), row.leader)].contrast.shift.value
        size = _size_text(facts.metric, shift, facts.scale)
        name = facts.names[row.leader]
        if facts.metric.good_end is GoodEnd.NONE:
            return f"{name}: {size} {_direction(facts.metric, shift)}"
        return f"{name} ahead by {size}"
    if row.verdict is Verdict.LEVEL:
        return f"Level within {_margin(facts)}"
    return _open_headline(facts, [facts.names[lane] for lane in row.first_group])


def _open_headline(facts: RowFacts, group: Sequence[str]) -> str:
    if not facts.margin.is_stated:
        return "No margin stated"
    if len(group) == len(facts.medians):
        return "Open: nobody told apart"
    return f"Open between {_listed(group) if len(group) <= 3 else f'{len(group)} contenders'}"


def _size_text(metric: Metric, shift: float, scale: Scale) -> str:
    return (
        "more than the limit"
        if math.isinf(shift)
        else _in_points(metric, scale).at_least_one_step(shift)
    )


def not_comparable_headline(differences: Sequence[Difference]) -> str:
    """Which conditions forbid the comparison, in a few words."""
    return f"Not comparable: {_listed([one.label for one in differences])}"


def _margin(facts: RowFacts) -> str:
    return margin_text(facts.margin, facts.metric.unit)


def _leader_text(facts: RowFacts, leader: int) -> str:
    next_one = _next_to(facts, leader)
    shift = shift_text(facts.metric, facts.pairs[(next_one, leader)].contrast, facts.scale)
    if facts.metric.good_end is GoodEnd.NONE:
        word = _direction(facts.metric, facts.pairs[(next_one, leader)].contrast.shift.value)
        claim = f"{facts.names[leader]} has {word} than"
    else:
        claim = f"{facts.names[leader]} is ahead of"
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
    what = "; ".join(f"{d.sentence} ({d.remedy})" for d in differences)
    return f"Not alike at the start: {what}."


def first_look_sentence(first: int, done: int, planned: int, runs: str) -> str:
    """Why no verdict is read yet, where looks are declared."""
    return (
        f"Verdicts are first read after block {first}, when its {runs} are in: "
        f"{done} of {planned} so far."
    )


def switching_clauses(switching: Collection[str | None]) -> list[str]:
    """What a design of one contender after the other mixes up."""
    if "reinstall" not in switching:
        return []
    return ["measured one after the other, so contender and time are mixed up"]


def swap_clauses(swapped: Mapping[int, float], names: Mapping[int, str]) -> list[str]:
    """What lanes have in swap beside their memory, bytes: ``X has 64 MiB in swap beside it``."""
    return [
        f"{names[lane]} has {scale_for('B', size).amount(size)} in swap beside it"
        for lane, size in swapped.items()
    ]


def break_clauses(name: str, breaks: Sequence[ConditionBreak]) -> list[str]:
    """What changed in a lane on the way: ``X's kernel changed from 6.1 to 6.2 at block 7``."""
    if not breaks:
        return []
    first = breaks[0]
    where = "" if first.block is None else f" at block {first.block}"
    more = len(breaks) - 1
    rest = f", and {more} more {'change' if more == 1 else 'changes'} after it" if more else ""
    return [f"{name}’s {first.label} changed from {first.before} to {first.after}{where}{rest}"]


def overruled_clauses(graded: Sequence[Difference]) -> list[str]:
    """What was compared although it differs, with the reason given."""
    return [f"compared despite {d.sentence}" for d in graded if d.overruled is not None]


def machines_clauses(found: MachinesContrast | None) -> list[str]:
    """The ratio over machines, or that the machines disagree."""
    if found is None:
        return []
    if found.disagree:
        return ["the machines disagree in direction, so no mean over them is given"]
    text = f"over {_count(len(found.machines), 'machine')} the ratio is {found.geometric_mean:.3f}"
    if found.interval is None:
        return [text]
    return [f"{text} ({found.interval.low:.3f} to {found.interval.high:.3f})"]


def machines_pair_sentence(metric: Metric, a: str, b: str, found: MachinesContrast) -> str:
    """B against A over machines, or who is which way round where."""
    if found.disagree:
        low = [m.machine for m in found.machines if m.typical.interval.high < 1.0]
        high = [m.machine for m in found.machines if m.typical.interval.low > 1.0]
        what = (_direction(metric, -1.0), _direction(metric, 1.0))
        return f"{b} against {a}: {what[0]} on {_listed(low)}, {what[1]} on {_listed(high)}."
    return f"{b} {_mean_text(metric, a, found)}."


def _mean_text(metric: Metric, a: str, found: MachinesContrast) -> str:
    """What the mean over machines says, of whoever is compared with A."""
    verb = "takes" if metric.unit in _POSSESSED else "has"
    what = f"{a}’s {_POSSESSED.get(metric.unit, 'amount')}"
    text = f"{verb} {share_text(found.geometric_mean, what)} over {len(found.machines)} machines"
    if found.interval is None:
        return text
    return f"{text} ({found.interval.low * 100:.0f} to {found.interval.high * 100:.0f} %)"


def machines_answer(
    metric: Metric,
    leaders: Mapping[str, str | None],
    pairs: Mapping[tuple[str, str], MachinesContrast],
) -> tuple[str, str]:
    """Who is ahead on which machine, in a few words and in a sentence; pairs about which the
    machines disagree are named, and have no mean."""
    ahead: dict[str, list[str]] = {}
    for machine, leader in leaders.items():
        if leader is not None:
            ahead.setdefault(leader, []).append(machine)
    against = {key: one for key, one in pairs.items() if one.disagree}
    odd = list({frozenset(key): key for key in against}.values())
    word = "has the lowest" if metric.good_end is GoodEnd.NONE else "is ahead"
    parts = [f"{name} {word} on {_where(places, len(leaders))}" for name, places in ahead.items()]
    undecided = [machine for machine, leader in leaders.items() if leader is None]
    if undecided:
        parts.append(f"{_where(undecided, len(leaders))}: nobody ahead of every other")
    if odd:
        named = [f"{b} against {a}" for a, b in odd[:2]]
        if len(odd) > 2:
            named.append(_count(len(odd) - 2, "more pair"))
        parts.append(f"the machines disagree about {_listed(named)}: no mean is given there")
    only = next(iter(ahead)) if len(ahead) == 1 and not undecided else None
    mean = None if only is None else _closest_mean(metric, only, pairs)
    sentence = "; ".join([*parts, *([mean] if mean else [])])
    return _machines_headline(ahead, bool(odd), len(leaders), word), f"{_capital(sentence)}."


def _machines_headline(
    ahead: Mapping[str, Sequence[str]], disagree: bool, machines: int, word: str
) -> str:
    if not ahead:
        nobody = f"Nobody ahead on any of {machines} machines"
        return "The machines disagree" if disagree else nobody
    name = max(ahead, key=lambda one: len(ahead[one]))
    text = f"{name} {word.removeprefix('is ')} on {_share_of(len(ahead[name]), machines)}"
    return f"{text}: they disagree" if len(ahead) > 1 else text


def _share_of(count: int, machines: int) -> str:
    return f"all {machines} machines" if count == machines else f"{count} of {machines} machines"


def _where(places: Sequence[str], machines: int) -> str:
    return f"all {machines} machines" if len(places) == machines else _listed(list(places))


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def _closest_mean(
    metric: Metric, leader: str, pairs: Mapping[tuple[str, str], MachinesContrast]
) -> str | None:
    mine = {a: one for (a, b), one in pairs.items() if b == leader and not one.disagree}
    if not mine:
        return None
    a = min(mine, key=lambda name: abs(math.log(mine[name].geometric_mean)))
    return f"against the next it {_mean_text(metric, a, mine[a])}"


def promise_sentence(verdicts: int, families: int, most_error: float) -> str:
    """How many verdicts a whole sheet holds, and how many false ones to expect at most."""
    if families == 0:
        return ""
    false = 0.05 * most_error * families
    return (
        f"{_count(verdicts, 'verdict')} in {_count(families, 'row')}; "
        f"at most {false:.2g} rows with a false one to be expected by chance."
    )


def _count(number: int, what: str) -> str:
    return f"{number} {what}" if number == 1 else f"{number} {what}s"


def early_sentence(done: int, planned: int, runs: str) -> str:
    """Why no verdict is read yet."""
    return f"Verdicts are read once, when all planned {runs} are in: {done} of {planned} so far."


def absent_sentence(missing: Sequence[str]) -> str:
    """Where a lane has no reading that counts."""
    return f"No readings from {_listed(list(missing))}, so there is nothing to compare."


def reliability_sentence(
    trouble: Sequence[Trouble], found: Reliability, names: Mapping[int, str], runs: str
) -> str:
    """Failures and stalls of all lanes, who fails more often, and what so few runs cannot see."""
    total = sum(lane.runs for lane in trouble)
    clauses = trouble_clauses(trouble, names, runs)
    limit = f"at {max(lane.runs for lane in trouble)} {runs} each, a failure rate of up to "
    limit += f"{found.unseen * 100:.0f} % can go unseen"
    if not clauses:
        return f"None of {total} {runs} failed or stalled; {limit}."
    quiet = len(trouble) - len({lane.lane_no for lane in trouble if lane.failed or lane.stalled})
    tail = "; the others never did" if quiet > 1 else "; the other never did" if quiet else ""
    told = "".join(f". {text}" for text in _worse_texts(found.decided, names))
    return f"{'; '.join(clauses)}{tail}{told}. {limit[0].upper()}{limit[1:]}."


FEW_PAIRS = 2


def _worse_texts(decided: Sequence[ReliabilityPair], names: Mapping[int, str]) -> list[str]:
    """Who fails more often than whom; one sentence for all whom a lane fails more often than."""
    by_worse: dict[int, list[ReliabilityPair]] = {}
    for pair in decided:
        by_worse.setdefault(pair.worse or 0, []).append(pair)
    texts = []
    for worse, pairs in by_worse.items():
        if len(pairs) <= FEW_PAIRS:
            texts += [_worse_text(pair, names) for pair in pairs]
            continue
        sizes = [abs(p.found.difference.value) for p in pairs if p.found.difference is not None]
        points = f"{min(sizes) * 100:.0f} to {max(sizes) * 100:.0f}" if sizes else ""
        by = f", by {points} points" if sizes else ""
        texts.append(f"{names[worse]} fails more often than {len(pairs)} others{by}")
    return texts


def _worse_text(pair: ReliabilityPair, names: Mapping[int, str]) -> str:
    better = pair.a if pair.worse == pair.b else pair.b
    text = f"{names[pair.worse or 0]} fails more often than {names[better]}"
    if pair.found.difference is None:
        return text
    limits = pair.found.difference.interval
    low, high = sorted((abs(limits.low), abs(limits.high)))
    size = abs(pair.found.difference.value)
    return f"{text}, by {size * 100:.0f} points ({low * 100:.0f} to {high * 100:.0f})"


def order_sentences(
    metric: Metric,
    scale: Scale,
    margin: Margin,
    order: SequenceDiagnosis,
    humps: tuple[float, float] | None,
) -> list[str]:
    """What stands out in a lane's run order; a slow first run, a drift and two humps only where
    they matter, as the margin says, so that of many lanes few are pointed out by chance."""
    least = margin.amount or 0.0
    said = []
    first = order.first_run
    if first is not None and first.is_unlike and abs(first.value - first.rest_median) > least:
        away = first.value - first.rest_median
        said.append(
            f"The first run is {scale.at_least_one_step(away)} {_direction(metric, away)} than "
            "the rest."
        )
    trend = order.trend
    if trend is not None and trend.p is not None and trend.p < SURE_OF_DRIFT:
        whole = trend.slope_per_run * (order.n - 1)
        if abs(whole) > least:
            word = "rise" if whole > 0 else "fall"
            said.append(
                f"Readings {word} over the runs, by {scale.at_least_one_step(whole)} in all."
            )
    if humps is not None and humps[1] - humps[0] > least:
        apart = f"{scale.number(humps[0])} and {scale.amount(humps[1])}"
        said.append(f"Two humps, about {apart}: one typical value does not tell it all.")
    return said


def lane_sentences(
    metric: Metric, scale: Scale, summary: LaneSummary, order: SequenceDiagnosis, humps: int | None
) -> list[str]:
    """What one lane's readings and their order tell, and what could go unseen at this n."""
    said = [_typical_text(scale, summary)]
    first = order.first_run
    if first is not None and first.is_unlike:
        away = first.value - first.rest_median
        word = _direction(metric, away)
        said.append(f"The first run is {scale.at_least_one_step(away)} {word} than the rest.")
    if order.trend is not None and order.trend.p is not None and order.trend.p < 0.05:
        word = "rise" if order.trend.s > 0 else "fall"
        step = scale.at_least_one_step(order.trend.slope_per_run)
        said.append(f"Readings {word} over the runs, by {step} a run.")
    if order.lag1 is not None and abs(order.lag1) > 2.0 / math.sqrt(order.n):
        like = "like" if order.lag1 > 0 else "unlike"
        said.append(f"A run is {like} the one before it (lag-1 {order.lag1:.2f}).")
    if order.far_out:
        places = _listed([str(place + 1) for place in order.far_out])
        said.append(f"Far out: {'run' if len(order.far_out) == 1 else 'runs'} {places}.")
    if humps == 2:
        said.append("There are two humps: one typical value does not tell it all.")
    return [*said, *power_sentences(diagnostic_power(order.n))]


def _typical_text(scale: Scale, summary: LaneSummary) -> str:
    if math.isinf(summary.median):
        return f"Typically beyond the time limit: {summary.timed_out} runs timed out."
    interval, said = summary.median_interval, f"Typically {scale.amount(summary.median)}"
    late = f"; {_count(summary.timed_out, 'run')} timed out" if summary.timed_out else ""
    if interval is None:
        return f"{said}; {_count(summary.n, 'run')}, too few for an interval at this level{late}."
    if math.isinf(interval.high):
        return f"{said} ({scale.number(interval.low)} or more){late}."
    limits = f"{scale.number(interval.low)} to {scale.number(interval.high)}"
    return f"{said} ({limits}){late}."


def power_sentences(power: DiagnosticPower) -> list[str]:
    """What the diagnoses can see at this number of runs."""
    if power.drift is None or power.first_run is None:
        return ["Too few runs to tell anything from their order."]
    if power.n >= LITTLE_POWER_BELOW:
        return []
    return [
        f"{power.n} runs tell little of their order: a drift of two standard deviations is seen "
        f"with a chance of {power.drift * 100:.0f} %, a first run five of them off with "
        f"{power.first_run * 100:.0f} %. Shuffled order is the guard."
    ]


def alone_reliability_sentence(failed: int, stalled: int, runs: int) -> str:
    """Failures and stalls of one lane, and what so few runs cannot see."""
    share = proportion(failed, runs)
    if failed and share.interval is not None:
        limits = f"{share.interval.low * 100:.0f} to {share.interval.high * 100:.0f} %"
        text = f"{failed} of {runs} runs failed ({limits})"
    else:
        unseen = f"up to {unseen_share(runs) * 100:.0f} % can go unseen"
        text = f"None of {_count(runs, 'run')} failed; a rate of {unseen}"
    return f"{text}; {stalled} stalled." if stalled else f"{text}."


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


def time_sentence(estimate: TimeEstimate | None) -> str:
    """How long the runs left will take, in words."""
    if estimate is None:
        return "How long it takes can be told after the first run."
    text = f"{_count(estimate.runs, 'run')}, about {duration_text(estimate.seconds)}"
    if estimate.low is None or estimate.high is None:
        return f"{text}."
    return f"{text} ({duration_text(estimate.low)} to {duration_text(estimate.high)})."


def duration_text(seconds: float) -> str:
    """Whole seconds below two minutes, minutes below three hours, else hours."""
    if seconds < 120:
        return f"{seconds:.0f} s"
    return f"{seconds / 60:.0f} min" if seconds < 3 * 3600 else f"{seconds / 3600:.1f} h"


def total_sentence(found: Totals, reference: str) -> str:
    """Who has the highest total, how sure that is, and what would turn it."""
    complete = [one for one in found.systems if one.total is not None]
    if not complete:
        return "No system has readings of every weighted metric, so there is no total."
    text = f"The highest total is {_total_text(complete[0])}, where {reference} is 100"
    if len(complete) > 1:
        text += f"; next {_total_text(complete[1])}"
    turns = [
        f"{turn.leader} leads if {turn.metric} weighs {turn.side} {turn.weight:.3g}"
        for turn in found.turns
    ]
    tail = "; ".join(turns) if turns else "no single weight would turn the leader"
    return f"{text}. {tail[0].upper()}{tail[1:]}."


def _total_text(one: SystemTotal) -> str:
    if one.interval is None:
        return one.system
    limits = one.interval.interval
    return f"{one.system}'s {one.total:.1f} ({limits.low:.1f} to {limits.high:.1f})"
