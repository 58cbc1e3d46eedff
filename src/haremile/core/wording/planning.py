"""What a plan can hope for, and how long it takes."""

from haremile.core.planning.repeats import RepeatsPlan, TimeEstimate
from haremile.core.records.units import scale_for
from haremile.core.wording.numbers import count, duration_text


def plan_sentence(plan: RepeatsPlan, power: float) -> str:
    """What a plan can hope for, in words."""
    if plan.repeats is None:
        return "Never: the assumed difference sits at the margin, and no number of repeats tells."
    pairs = "one pair" if plan.family == 1 else f"each of {plan.family} pairs"
    told = (
        f"{plan.repeats} repeats of each contender find {pairs} {plan.aim} "
        f"with a chance of {power * 100:g} %, if the assumed difference is true."
    )
    if plan.once is None:
        return told
    told += f" Reading once would take {plan.once}"
    if plan.typical is None:
        return f"{told}."
    return f"{told}; with {plan.looks} looks it is told after {plan.typical} on average."


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
    text = f"{count(estimate.runs, 'run')}, about {duration_text(estimate.seconds)}"
    if estimate.low is None or estimate.high is None:
        return f"{text}."
    return f"{text} ({duration_text(estimate.low)} to {duration_text(estimate.high)})."
