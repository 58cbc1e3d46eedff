"""What one lane of readings and their order tell."""

import math

from haremile.core.records.margin import Margin
from haremile.core.records.metrics import Metric
from haremile.core.records.units import Scale
from haremile.core.statistics.diagnostic_power import DiagnosticPower, diagnostic_power
from haremile.core.statistics.lane_statistics import LaneSummary
from haremile.core.statistics.run_order import LITTLE_POWER_BELOW, SequenceDiagnosis
from haremile.core.wording.numbers import count, direction, listed

SURE_OF_DRIFT = 0.005
"""p below which a trend is told of a lane among many."""


def order_sentences(
    metric: Metric,
    scale: Scale,
    order: SequenceDiagnosis,
    modes: tuple[float, float] | None,
    margin: Margin | None = None,
) -> list[str]:
    """What stands out in the run order of a lane.

    Parameters
    ----------
    metric, scale
    order : SequenceDiagnosis
    modes : two values around which readings gather, or None
    margin : Margin, optional
        Given for one lane of many: only what exceeds it is then said, and a trend only where it is
        sure, so that of many lanes few are pointed out by chance.
    """
    is_alone, least = margin is None, (margin.amount if margin else None) or 0.0
    said = []
    first = order.first_run
    if first is not None and first.is_unlike and abs(first.value - first.rest_median) > least:
        away = first.value - first.rest_median
        size, word = scale.at_least_one_step(away), direction(metric, away)
        said.append(f"The first run is {size} {word} than the rest.")
    trend, sure = order.trend, (0.05 if is_alone else SURE_OF_DRIFT)
    if trend is not None and trend.p is not None and trend.p < sure:
        whole = trend.slope_per_run * (order.n - 1)
        if is_alone or abs(whole) > least:
            word = "rise" if trend.s > 0 else "fall"
            size = scale.at_least_one_step(whole)
            said.append(f"Readings {word} over the runs, by {size} in all.")
    if is_alone:
        said += _neighbour_sentences(order)
    if modes is not None and modes[1] - modes[0] > least:
        apart = f"{scale.number(modes[0])} and {scale.amount(modes[1])}"
        said.append(f"Readings gather around {apart}: one typical value does not tell it all.")
    return said


def _neighbour_sentences(order: SequenceDiagnosis) -> list[str]:
    """Runs that are like the one before, and those far out."""
    said = []
    if order.lag1 is not None and abs(order.lag1) > 2.0 / math.sqrt(order.n):
        like = "like" if order.lag1 > 0 else "unlike"
        said.append(f"A run is {like} the one before it (lag-1 {order.lag1:.2f}).")
    if order.far_out:
        places = listed([str(place + 1) for place in order.far_out])
        said.append(f"Far out: {'run' if len(order.far_out) == 1 else 'runs'} {places}.")
    return said


def lane_sentences(
    metric: Metric,
    scale: Scale,
    summary: LaneSummary,
    order: SequenceDiagnosis,
    modes: tuple[float, float] | None,
) -> list[str]:
    """What one lane's readings and their order tell, and what could go unseen at this n."""
    return [
        _typical_text(scale, summary),
        *order_sentences(metric, scale, order, modes),
        *power_sentences(diagnostic_power(order.n)),
    ]


def _typical_text(scale: Scale, summary: LaneSummary) -> str:
    if math.isinf(summary.median):
        return f"Typically beyond the time limit: {summary.timed_out} runs timed out."
    interval, said = summary.median_interval, f"Typically {scale.amount(summary.median)}"
    late = f"; {count(summary.timed_out, 'run')} timed out" if summary.timed_out else ""
    if interval is None:
        return f"{said}; {count(summary.n, 'run')}, too few for an interval at this level{late}."
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
