"""What makers claim, held against what was measured."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from haremile.core.statistics.lane_statistics import LaneSummary, summarise_lane


class Kept(StrEnum):
    """Whether a claim holds by what was measured."""

    KEPT = "kept"
    NOT_KEPT = "not kept"
    UNDECIDED = "undecided"


@dataclass(frozen=True)
class MeasuredAgainst:
    """What one machine gave, and whether it keeps the claim."""

    machine: str
    method: str
    medium: str
    summary: LaneSummary
    kept: Kept


def held_against(
    claimed: float,
    machine: str,
    method: str,
    medium: str,
    values: Sequence[float],
    *,
    is_counted: bool = False,
) -> MeasuredAgainst:
    """Hold readings against a claim of *at most*: decided where the whole interval of their median
    lies on one side of it, or by the number itself where it is counted and always the same.

    Parameters
    ----------
    claimed : float
        In the unit of the readings.
    values : sequence of float, at least one
        Readings that count.
    """
    summary = summarise_lane(values)
    interval = summary.median_interval
    kept = Kept.UNDECIDED
    if is_counted and len(set(values)) == 1:
        kept = Kept.KEPT if values[0] <= claimed else Kept.NOT_KEPT
    elif interval is not None and interval.high <= claimed:
        kept = Kept.KEPT
    elif interval is not None and interval.low > claimed:
        kept = Kept.NOT_KEPT
    return MeasuredAgainst(machine, method, medium, summary, kept)
