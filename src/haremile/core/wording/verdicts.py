"""Verdicts in the word that fits what was measured."""

from haremile.core.comparison.verdict import Verdict
from haremile.core.records.metrics import GoodEnd, Metric


def is_use(metric: Metric) -> bool:
    """Whether it is something that a system uses: memory, or space on a disk."""
    return metric.unit == "B" and metric.good_end is GoodEnd.LOW


def claim_text(metric: Metric) -> str:
    """What is claimed of the leader, before the name of another: ``is ahead of``."""
    return "uses less than" if is_use(metric) else "is ahead of"


def verdict_text(verdict: Verdict, metric: Metric) -> str:
    """``ahead``, ``behind`` and so on; of memory and space ``uses less`` and ``uses more``."""
    if is_use(metric):
        used = {Verdict.AHEAD: "uses less", Verdict.BEHIND: "uses more"}
        return used.get(verdict, verdict.value)
    return verdict.value
