"""Differences of means and of the worst tenth, in words."""

from haremile.core.comparison.verdict import Verdict
from haremile.core.records.metrics import Metric
from haremile.core.records.units import Scale
from haremile.core.statistics.contrast import Estimate
from haremile.core.wording.numbers import direction, finer_scale, in_points, range_of
from haremile.core.wording.verdicts import verdict_text


def difference_said(metric: Metric, found: Estimate, verdict: Verdict | None, scale: Scale) -> str:
    """``0.31 s later (0.10 to 0.52): behind``; without a verdict where there is none."""
    scale = finer_scale(in_points(metric, scale), found.value)
    told = (
        "no difference"
        if found.value == 0.0
        else (f"{scale.at_least_one_step(found.value)} {direction(metric, found.value)}")
    )
    told = f"{told} ({range_of(found, scale)})"
    return told if verdict is None else f"{told}: {verdict_text(verdict, metric)}"
