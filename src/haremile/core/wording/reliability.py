"""Failures and stalls in words."""

from collections.abc import Mapping, Sequence

from haremile.core.comparison.records import Incidents
from haremile.core.comparison.reliability import Reliability, ReliabilityPair
from haremile.core.records.metrics import GoodEnd, Metric
from haremile.core.statistics.proportions import proportion, unseen_share
from haremile.core.wording.numbers import count, of_runs


def stall_word(metric: Metric) -> str:
    """What a reading far beyond the rest does, in the word of its metric."""
    if metric.unit == "s":
        return "stalls"
    return f"stands far {'below' if metric.good_end is GoodEnd.HIGH else 'above'} the rest"


def incident_clauses(
    incidents: Sequence[Incidents], names: Mapping[int, str], runs: str, stall: str = "stalls"
) -> list[str]:
    """What is never left unsaid: ``X failed in 3 of 20 boots``, ``X stalls in 2 of 20 boots``."""
    clauses = []
    for lane in incidents:
        if lane.failed:
            clauses.append(
                f"{names[lane.lane_no]} failed in {lane.failed} of {of_runs(lane.runs, runs)}"
            )
        if lane.stalled:
            clauses.append(
                f"{names[lane.lane_no]} {stall} in {lane.stalled} of {of_runs(lane.runs, runs)}"
            )
    return clauses


def reliability_sentence(
    incidents: Sequence[Incidents], found: Reliability, names: Mapping[int, str], runs: str
) -> str:
    """Failures and stalls of all lanes, who fails more often, and what so few runs cannot see."""
    total = sum(lane.runs for lane in incidents)
    clauses = incident_clauses(incidents, names, runs)
    limit = (
        f"at {of_runs(max(lane.runs for lane in incidents), runs)} each, a failure rate of up to "
    )
    limit += f"{_unseen_text(found.unseen)} can go unseen"
    if not clauses:
        return f"None of {of_runs(total, runs)} failed or stalled; {limit}."
    quiet = len(incidents) - len(
        {lane.lane_no for lane in incidents if lane.failed or lane.stalled}
    )
    tail = "; the others never did" if quiet > 1 else "; the other never did" if quiet else ""
    told = "".join(f". {text}" for text in _worse_texts(found.decided, names))
    return f"{'; '.join(clauses)}{tail}{told}. {limit[0].upper()}{limit[1:]}."


def _unseen_text(share: float) -> str:
    """A rate that is never told as none: of thousands of runs it is a part of one per cent."""
    return f"{100.0 * share:.0f} %" if share >= 0.01 else f"{100.0 * share:.2g} %"


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


def alone_reliability_sentence(failed: int, stalled: int, runs: int) -> str:
    """Failures and stalls of one lane, and what so few runs cannot see."""
    share = proportion(failed, runs)
    if failed and share.interval is not None:
        limits = f"{share.interval.low * 100:.0f} to {share.interval.high * 100:.0f} %"
        text = f"{failed} of {runs} runs failed ({limits})"
    else:
        unseen = f"up to {_unseen_text(unseen_share(runs))} can go unseen"
        text = f"None of {count(runs, 'run')} failed; a rate of {unseen}"
    return f"{text}; {stalled} stalled." if stalled else f"{text}."
