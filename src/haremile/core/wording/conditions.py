"""What conditions do to a comparison, in words."""

from collections.abc import Collection, Mapping, Sequence

from haremile.core.comparison.comparability import Difference
from haremile.core.planning.least_memory import most_unseen
from haremile.core.records.conditions import ConditionBreak
from haremile.core.records.units import scale_for
from haremile.core.statistics.dependence import LEAST_IN_A_ROW, widening
from haremile.core.wording.numbers import listed


def not_comparable_headline(differences: Sequence[Difference]) -> str:
    """Which conditions forbid the comparison, in a few words."""
    return f"Not comparable: {listed([one.label for one in differences])}"


def not_comparable_sentence(differences: Sequence[Difference]) -> str:
    """Why a row is not compared."""
    what = "; ".join(f"{d.sentence} ({d.remedy})" for d in differences)
    return f"Not alike at the start: {what}."


def block_clauses(share: float | None) -> list[str]:
    """That lanes were compared within blocks, and how much of the noise lies between these."""
    if share is None:
        return []
    return [f"compared within blocks, between which {100.0 * share:.0f} % of the noise lies"]


def in_a_row_clauses(is_in_a_row: bool, dependences: Collection[float | None]) -> list[str]:
    """What a design of one contender after the other mixes up, and what it costs.

    Parameters
    ----------
    is_in_a_row : bool
    dependences : of each pair, as `PairVerdict.dependence`
    """
    if not is_in_a_row:
        return []
    told = "measured one after the other, so contender and time are mixed up"
    known = [one for one in dependences if one is not None]
    if not known:
        few = f"of fewer than {LEAST_IN_A_ROW} runs in a row it cannot be known how far one run"
        return [told, f"{few} resembles the next, so they decide nothing"]
    factor = widening(max(known))
    return [
        told,
        "intervals are widened, for one run may resemble the next "
        f"(lag-1 autocorrelation up to {max(known):.2f}: {factor:.1f} times as wide)",
    ]


def unseen_clauses(boots_each: Collection[str]) -> list[str]:
    """What so few boots of an answer leave open: ``3 of 3 boots got ready, so …``."""
    known = [int(text) for text in boots_each if text.isdecimal() and int(text) > 0]
    if not known:
        return []
    boots = min(known)
    share = f"{100.0 * most_unseen(boots):.0f} %"
    return [
        f"{boots} of {boots} boots got ready with it, which a system that fails in up to {share} "
        "of its boots can still pass"
    ]


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


def override_clauses(graded: Sequence[Difference]) -> list[str]:
    """What was compared although it differs, with the reason given."""
    return [f"compared despite {d.sentence}" for d in graded if d.overridden is not None]
