"""Verdicts in the word that fits what was measured."""

from haremile.core.comparison.verdict import Verdict
from haremile.core.records.metrics import GoodEnd, Metric


def use_word(metric: Metric) -> str | None:
    """The verb of what a system takes up, memory or space: ``uses``, or ``needs`` of the least that
    it gets ready with; None where it takes up nothing."""
    if metric.unit != "B" or metric.good_end is not GoodEnd.LOW:
        return None
    return "needs" if metric.key.startswith("least.") else "uses"


def claim_text(metric: Metric) -> str:
    """What is claimed of the leader, before the name of another: ``is ahead of``."""
    verb = use_word(metric)
    return "is ahead of" if verb is None else f"{verb} less than"


def verdict_text(verdict: Verdict, metric: Metric) -> str:
    """``ahead``, ``behind`` and so on; of memory and space ``uses less`` and ``uses more``."""
    verb = use_word(metric)
    if verb is not None:
        used = {Verdict.AHEAD: f"{verb} less", Verdict.BEHIND: f"{verb} more"}
        return used.get(verdict, verdict.value)
    return verdict.value
