"""What one measure says over several machines."""

import math
from collections.abc import Mapping, Sequence

from haremile.core.comparison.machines import MachinesContrast
from haremile.core.records.metrics import GoodEnd, Metric
from haremile.core.wording.numbers import POSSESSED, capital, count, direction, listed, share_text
from haremile.core.wording.verdicts import use_word


def machines_clauses(found: MachinesContrast | None) -> list[str]:
    """The ratio over machines, or that the machines disagree."""
    if found is None:
        return []
    if found.disagree:
        return ["the machines disagree in direction, so no mean over them is given"]
    text = f"over {count(len(found.machines), 'machine')} the ratio is {found.geometric_mean:.3f}"
    if found.interval is None:
        return [text]
    return [f"{text} ({found.interval.low:.3f} to {found.interval.high:.3f})"]


def machines_pair_sentence(metric: Metric, a: str, b: str, found: MachinesContrast) -> str:
    """B against A over machines, or who is which way round where."""
    if found.disagree:
        low = [m.machine for m in found.machines if m.typical.interval.high < 1.0]
        high = [m.machine for m in found.machines if m.typical.interval.low > 1.0]
        what = (direction(metric, -1.0), direction(metric, 1.0))
        return f"{b} against {a}: {what[0]} on {listed(low)}, {what[1]} on {listed(high)}."
    return f"{b} {_mean_text(metric, a, found)}."


def _mean_text(metric: Metric, a: str, found: MachinesContrast) -> str:
    """What the mean over machines says, of whoever is compared with A."""
    verb = "takes" if metric.unit in POSSESSED else "has"
    what = f"{a}’s {POSSESSED.get(metric.unit, 'amount')}"
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
    word = _word(metric)
    parts = [f"{name} {word} on {_where(places, len(leaders))}" for name, places in ahead.items()]
    undecided = [machine for machine, leader in leaders.items() if leader is None]
    if undecided:
        parts.append(f"{_where(undecided, len(leaders))}: nobody ahead of every other")
    if odd:
        named = [f"{b} against {a}" for a, b in odd[:2]]
        if len(odd) > 2:
            named.append(count(len(odd) - 2, "more pair"))
        parts.append(f"the machines disagree about {listed(named)}: no mean is given there")
    only = next(iter(ahead)) if len(ahead) == 1 and not undecided else None
    mean = None if only is None else _closest_mean(metric, only, pairs)
    sentence = "; ".join([*parts, *([mean] if mean else [])])
    return _machines_headline(ahead, bool(odd), len(leaders), word), f"{capital(sentence)}."


def _word(metric: Metric) -> str:
    if metric.good_end is GoodEnd.NONE:
        return "has the lowest"
    verb = use_word(metric)
    return "is ahead" if verb is None else f"{verb} least"


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
    return f"all {machines} machines" if len(places) == machines else listed(list(places))


def _closest_mean(
    metric: Metric, leader: str, pairs: Mapping[tuple[str, str], MachinesContrast]
) -> str | None:
    mine = {a: one for (a, b), one in pairs.items() if b == leader and not one.disagree}
    if not mine:
        return None
    a = min(mine, key=lambda name: abs(math.log(mine[name].geometric_mean)))
    return f"against the next it {_mean_text(metric, a, mine[a])}"
