"""What a list of standings says: who leads, how sure that is, and what it rests on."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from haremile.core.records.metrics import GoodEnd, Metric
from haremile.core.records.units import Scale
from haremile.core.standing.standings import (
    BETWEEN_MACHINES,
    BETWEEN_STUDIES,
    Apart,
    Standing,
    Standings,
)
from haremile.core.wording.numbers import count, direction, finer_scale, in_points, listed

MOST_NAMED = 3
_BEST = {"s": ("soonest", "latest"), "B": ("lightest", "heaviest")}


@dataclass(frozen=True)
class ListWords:
    """Headline of a list, what stands beside it, and what it rests on."""

    headline: str
    beside: str
    notes: tuple[str, ...]


def standings_words(
    known: Metric, found: Standings, scale: Scale, desktops: frozenset[str], unstated: Sequence[str]
) -> ListWords:
    """The words of a list.

    Parameters
    ----------
    desktops : frozenset of str
        Systems of the list that are known to have a desktop: where the very first has none, the
        first of them is told of.
    unstated : sequence of str
        Conditions that some studies do not state, though others differ in them.
    """
    group, what = _told_of(found, desktops)
    headline, beside = _headline(known, found, group, what, scale)
    return ListWords(headline, beside, tuple(_notes(found, unstated)))


def _told_of(found: Standings, desktops: frozenset[str]) -> tuple[list[Standing], str]:
    """Of whom the headline speaks: of all, or of the desktops where the first is none of them."""
    rows = list(found.rows)
    with_desktop = [row for row in rows if row.system in desktops]
    is_none = len(with_desktop) > 1 and rows[0].system not in desktops
    return (with_desktop, "desktop ") if is_none else (rows, "")


def _headline(
    known: Metric, found: Standings, rows: list[Standing], what: str, scale: Scale
) -> tuple[str, str]:
    best = _BEST.get(known.unit, ("lowest", "highest"))[known.good_end is GoodEnd.HIGH]
    first = rows[0]
    others = {row.system for row in rows[1:]}
    if not others:
        return (
            f"{first.system} alone so far",
            "Measure another one beside it, and both have a place.",
        )
    if others <= set(first.ahead_of):
        return (
            f"{first.system}: the {best} {what}yet",
            _ahead_text(known, first, rows[1], found, scale) + _failing(first),
        )
    near = [row.system for row in rows if row.system not in first.ahead_of]
    if found.degrees is None and found.studies > 1:
        return (
            f"Nobody is known to be the {best} {what}yet",
            "No two systems met in two studies, so that nothing tells how much studies differ.",
        )
    names = near if len(near) <= MOST_NAMED else [*near[:MOST_NAMED], f"{len(near) - 3} more"]
    beside = f"Too close to call one of them the {best} {what}yet."
    if _is_by_machine(found):
        beside += " They differ most from machine to machine: on one of them it may be told."
    return f"Undecided: {_either(names)}", beside


def _is_by_machine(found: Standings) -> bool:
    """Whether systems differ more between machines than between studies."""
    shares = {one.name: one.share for one in found.spreads}
    return shares.get(BETWEEN_MACHINES, 0.0) > shares.get(BETWEEN_STUDIES, 0.0)


def _either(names: Sequence[str]) -> str:
    return f"{', '.join(names[:-1])} or {names[-1]}"


def _ahead_text(
    known: Metric, first: Standing, second: Standing, found: Standings, scale: Scale
) -> str:
    """By how much the first is ahead of the next one."""
    size = second.value - first.value
    text = f"{in_points(known, scale).at_least_one_step(size)} {direction(known, -size)}"
    text += f" than {second.system}"
    ratio = second.behind_leader
    if ratio is not None and found.rows[0] is first:
        ends = sorted(abs(first.value * (end - 1.0)) for end in (ratio.low, ratio.high))
        fine = finer_scale(scale, *ends)
        text += f" ({fine.number(ends[0])} to {fine.number(ends[1])})"
    return f"{text}; clear of every other one"


def _failing(first: Standing) -> str:
    """Whoever fails is not praised without it being said."""
    if not first.failed:
        return "."
    share = max(1, round(100.0 * first.failed / first.runs))
    return f"; but {first.failed} of its {first.runs} runs failed ({share} %)."


def _notes(found: Standings, unstated: Sequence[str]) -> list[str]:
    aside = [row.system for row in found.rows if not row.is_side_by_side]
    said = [_spread_text(found)] if found.studies > 1 else []
    if aside:
        said.append(
            f"Not measured side by side with the others: {listed(aside)}. Their intervals hold "
            "what the same machine differs by from study to study."
        )
    if found.disagreements:
        pairs = [
            f"{one.a} and {one.b} (side by side {_share(one.direct)}, through others "
            f"{_share(one.indirect)})"
            for one in found.disagreements
        ]
        said.append(
            f"What was measured side by side and what others say differ for {listed(pairs)}."
        )
    elif found.both_ways:
        said.append(
            f"{count(found.both_ways, 'pair')} can be told both side by side and through others; "
            "no two answers differ beyond chance."
        )
    if unstated:
        said.append(f"Not every study states: {', '.join(unstated)}.")
    return said


def _spread_text(found: Standings) -> str:
    names = {
        BETWEEN_STUDIES: "from study to study a system differs by about {} beside its readings",
        BETWEEN_MACHINES: "from machine to machine systems differ by about {}",
    }
    told = [
        names[one.name].format(_per_cent(one.share)) + f" (from {count(one.degrees, 'difference')})"
        for one in found.spreads
        if one.name in names
    ]
    if not told:
        return (
            "No two systems met in two studies, so that nothing tells how much studies differ: "
            "only systems of one study are placed against one another."
        )
    text = "; ".join(told)
    return f"{text[0].upper()}{text[1:]}. The intervals hold it."


def _per_cent(share: float) -> str:
    figure = f"{share * 100:.1f}" if share < 0.1 else f"{share * 100:.0f}"
    return f"{figure} %"


def _share(logarithm: float) -> str:
    share = math.expm1(logarithm)
    return f"{'+' if share >= 0 else '−'}{abs(share) * 100:.1f} %"


def apart_sentence(one: Apart) -> str:
    """Who could not be placed, and what would place them."""
    who = listed(list(one.systems))
    return (
        f"{who} ({count(one.studies, 'study').replace('studys', 'studies')}, nobody in common with "
        f"these). Measure {one.own} beside {one.beside} on {one.machine}, and "
        f"{'it joins' if len(one.systems) == 1 else 'they join'}."
    )
