"""How a verdict on two contenders came about, step by step, with the very figures."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from haremile.core.comparison.records import FindingRow, LaneFinding
from haremile.core.comparison.verdict import ERROR_AHEAD, ERROR_LEVEL, PairVerdict, Verdict
from haremile.core.records.metrics import metric
from haremile.core.records.units import Scale
from haremile.core.statistics.contrast import Contrast
from haremile.core.statistics.dependence import widening
from haremile.core.statistics.lane_statistics import Interval
from haremile.core.wording.difference import margin_text
from haremile.core.wording.numbers import finer_scale, in_points
from haremile.core.wording.verdicts import verdict_text


@dataclass(frozen=True)
class Step:
    """One step, and what it gave."""

    title: str
    text: str


@dataclass(frozen=True)
class PairSteps:
    """From the readings of two lanes to the verdict on `b` against the other."""

    b: int
    steps: tuple[Step, ...]


def steps_against(row: FindingRow, names: Mapping[int, str], against: int) -> list[PairSteps]:
    """The steps of every contender of a row against one of them, in the order of lanes.

    Parameters
    ----------
    row : FindingRow
    names : mapping of lane number to name
    against : int
        The lane that the others are set against.
    """
    lanes = {lane.lane_no: lane for lane in row.lanes}
    return [
        PairSteps(pair.b, _steps(row, names, lanes[pair.a], lanes[pair.b], pair.found))
        for pair in row.pairs
        if pair.a == against
    ]


def _steps(
    row: FindingRow, names: Mapping[int, str], a: LaneFinding, b: LaneFinding, pair: PairVerdict
) -> tuple[Step, ...]:
    scale = in_points(metric(row.metric), row.scale)
    ours, theirs = names[b.lane_no], names[a.lane_no]
    return (
        Step("Readings", f"{_readings(theirs, a, row.scale)} {_readings(ours, b, row.scale)}"),
        Step("Differences", _differences(row, pair.contrast, theirs, ours, scale)),
        Step("Interval", _interval(row, pair, scale)),
        Step("Margin", _margin(row)),
        Step("Verdict", _verdict(row, pair, ours, scale)),
    )


def _readings(name: str, lane: LaneFinding, scale: Scale) -> str:
    found = lane.summary
    if found is None:
        return f"{name}: none that counts."
    told = [f"{name}: {found.n} readings"]
    if found.timed_out:
        told.append(f"{found.timed_out} that timed out, taken as slower than all")
    middle = "beyond the time limit" if math.isinf(found.median) else scale.amount(found.median)
    told.append(f"half of them up to {middle}")
    if lane.set_aside:
        told.append(f"{lane.set_aside} more set aside")
    return ", ".join(told) + "."


def _differences(row: FindingRow, found: Contrast, a: str, b: str, scale: Scale) -> str:
    typical = _signed(found.shift.value, scale)
    if found.method == "counted":
        return f"Both are counted, not sampled: {b} less {a} is {typical}."
    if found.method == "signed rank":
        between = 100.0 * (row.block_share or 0.0)
        return (
            f"In each of {found.n_b} blocks the reading of {b} less that of {a}. Each two of these "
            f"differences have a mean; half of all means are up to {typical}, the typical "
            f"difference. It is done within blocks because {between:.0f} % of the noise lies "
            "between them."
        )
    pairs = found.n_a * found.n_b
    return (
        f"Each of {found.n_b} readings of {b} less each of {found.n_a} of {a}: {pairs:,} "
        f"differences. Half of them are up to {typical}, the typical difference."
    )


def _interval(row: FindingRow, pair: PairVerdict, scale: Scale) -> str:
    found = pair.contrast.shift.interval
    if pair.contrast.method == "counted":
        return "None is needed: a count is exact for its install."
    parts = [f"all {row.family} pairs"] if row.family > 1 else []
    if pair.look is not None and len(pair.look.planned) > 1:
        parts.append(f"{len(pair.look.planned)} looks")
    over = f" over {' and '.join(parts)}" if parts else ""
    told = (
        f"Other runs would give another figure: from {_limits(row, pair.contrast, scale)}. In "
        f"{_per_cent(found.level)} of such studies the interval holds the true difference "
        f"({100.0 * ERROR_AHEAD:.0f} % of error shared out{over})."
    )
    if pair.is_corrected:
        told += (
            " The typical difference allows for the earlier looks, at which it could have ended."
        )
    if pair.dependence is not None:
        told += (
            f" It was made {widening(pair.dependence):.1f} times as wide, for runs that follow one "
            "another may resemble each other."
        )
    if found.raw is not None:
        told += " Half a step of the readings is added on each side."
    return told


def _margin(row: FindingRow) -> str:
    if not row.margin.is_stated:
        return "None was stated before the runs, so nothing is called a difference."
    return (
        f"Stated before the runs: {margin_text(row.margin, row.unit)}. A smaller difference "
        "matters to nobody."
    )


def _verdict(row: FindingRow, pair: PairVerdict, b: str, scale: Scale) -> str:
    said = verdict_text(pair.verdict, metric(row.metric))
    if pair.verdict is Verdict.NOT_COMPARABLE:
        return "Not comparable: the contenders did not start alike."
    if row.early is not None:
        return "None yet: it is read when the runs are done, or at the first look."
    if pair.repeats_needed is not None:
        return f"Too few readings: it takes {pair.repeats_needed} of each."
    if pair.verdict.is_decided_difference:
        return f"The whole interval lies beyond the margin: {b} {_is(said)}."
    inner = _limits(row, pair.inner, scale)
    level = f"{_per_cent(pair.inner.shift.interval.level)}, {100.0 * ERROR_LEVEL:.0f} % of error"
    if pair.verdict is Verdict.LEVEL:
        return (
            f"A narrower interval does for this ({level}): from {inner}. The whole of it lies "
            "within the margin: level."
        )
    lean = verdict_text(pair.lean, metric(row.metric)) if pair.lean else ""
    leaning = f", leaning to {lean}, for the interval holds no zero" if lean else ""
    return (
        f"The interval does not lie wholly beyond the margin, nor the narrower one ({level}; from "
        f"{inner}) wholly within it: undecided{leaning}."
    )


def _is(said: str) -> str:
    return said if " " in said else f"is {said}"


def _per_cent(level: float) -> str:
    return f"{100.0 * level:.2f}".rstrip("0").rstrip(".") + " %"


def _limits(row: FindingRow, found: Contrast, scale: Scale) -> str:
    """The interval, and as a ratio too where the margin is one."""
    told = _range(found.shift.interval, scale)
    if row.margin.share is None or found.ratio is None:
        return told
    limits = found.ratio.interval
    return f"{told} (as a ratio {limits.low:.3f} to {limits.high:.3f})"


def _range(found: Interval, scale: Scale) -> str:
    if math.isfinite(found.low) and math.isfinite(found.high):
        scale = finer_scale(scale, found.low, found.high)
    return f"{_signed(found.low, scale)} to {_signed(found.high, scale)}"


def _signed(value: float, scale: Scale) -> str:
    if math.isinf(value):
        return "beyond the time limit" if value > 0 else "below every limit"
    text = scale.amount(value)
    return f"+{text}" if value > 0 and float(scale.number(value)) != 0 else text
