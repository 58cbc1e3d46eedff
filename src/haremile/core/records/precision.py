"""Stopping on precision."""

from dataclasses import dataclass


@dataclass(frozen=True)
class PrecisionPlan:
    """A study that ends as soon as all differences in `metric` are known to within `width`, the
    width of the widest interval, unit of the metric; the plan's blocks are then the most."""

    metric: str
    width: float
