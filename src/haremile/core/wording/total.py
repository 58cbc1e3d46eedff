"""Who has the highest total."""

from haremile.core.standing.total import SystemTotal, Totals


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
