"""Who has the highest total."""

from collections.abc import Mapping

from haremile.core.standing.total import SystemTotal, Totals
from haremile.core.wording.numbers import listed


def total_sentence(
    found: Totals,
    reference: str,
    failed: Mapping[str, tuple[int, int]] | None = None,
    labels: Mapping[str, str] | None = None,
    counted: str = "readings",
) -> str:
    """Who has the highest total, how sure that is, what would turn it, and whose runs failed.

    Parameters
    ----------
    found : Totals
    reference : str
    failed : mapping of system to its failed rows and all of its rows
    labels : mapping of part to its shown name
        Its key where none is given.
    counted : str
        What `failed` counts.
    """
    named = labels or {}
    complete = [one for one in found.systems if one.total is not None]
    if not complete:
        none = "No system has readings of every weighted metric, so there is no total."
        return " ".join([none, *_left_out(found, named), *_failures(failed or {}, counted)])
    text = f"The highest total is {_total_text(complete[0])}, where {reference} is 100"
    if len(complete) > 1:
        text += f"; next {_total_text(complete[1])}"
    turns = [
        f"{turn.leader} leads if {named.get(turn.metric, turn.metric)} weighs {turn.side} "
        f"{turn.weight:.3g}"
        for turn in found.turns
    ]
    tail = "; ".join(turns) if turns else "no single weight would turn the leader"
    return " ".join(
        [
            f"{text}. {tail[0].upper()}{tail[1:]}.",
            *_left_out(found, named),
            *_failures(failed or {}, counted),
        ]
    )


def _failures(failed: Mapping[str, tuple[int, int]], counted: str) -> list[str]:
    return [
        f"{name} failed in {count} of {runs} {counted}."
        for name, (count, runs) in failed.items()
        if count
    ]


def _left_out(found: Totals, named: Mapping[str, str]) -> list[str]:
    """Who has no total, and what of theirs is missing."""
    said = [
        f"{one.system} has no total: nothing usable of "
        f"{listed([named.get(key, key) for key in one.missing])}."
        for one in found.systems
        if one.missing
    ]
    return said


def _total_text(one: SystemTotal) -> str:
    if one.interval is None:
        return one.system
    limits = one.interval.interval
    return f"{one.system}'s {one.total:.1f} ({limits.low:.1f} to {limits.high:.1f})"
