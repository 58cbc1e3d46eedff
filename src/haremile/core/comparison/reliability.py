"""Reliability as a measure of its own: runs that failed, stalls, and what so few runs can see."""

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import combinations

from haremile.core.statistics.proportions import (
    Proportion,
    ProportionContrast,
    compare_proportions,
    proportion,
    unseen_share,
)

ERROR = 0.05
TIMED_OUT = ("timed-out", "timed out")
WHOLE_RUN = frozenset(
    (
        "boot.total",
        "boot.desktop",
        "boot.task",
        "launch.settled",
        "launch.login",
        "install.total",
    )
)
"""Metrics that a run which timed out would have been slower than its limit in."""


def is_time_out(outcome: str, reason: str | None) -> bool:
    """Whether a failed run was slower than its time limit, and so counts in ranks and medians."""
    return outcome in TIMED_OUT or (reason or "").lower().startswith(TIMED_OUT)


def failure_reason(outcome: str, reason: str | None) -> str:
    """The reason as it is kept with a run: what is said, and that it timed out where it did."""
    if outcome in TIMED_OUT and reason and not is_time_out("", reason):
        return f"timed out: {reason}"
    return reason or outcome


@dataclass(frozen=True)
class LaneReliability:
    """One contender's runs of one procedure on one machine."""

    lane_no: int
    failed: Proportion
    stalled: Proportion


@dataclass(frozen=True)
class ReliabilityPair:
    """Failures of lane `b` against lane `a`.

    `worse` is the lane that fails more often beyond doubt (exact test, error shared out over all
    pairs), else None.
    """

    a: int
    b: int
    found: ProportionContrast
    worse: int | None


@dataclass(frozen=True)
class Reliability:
    """All lanes, all pairs, and the failure rate that could go unseen at this number of runs."""

    lanes: tuple[LaneReliability, ...]
    pairs: tuple[ReliabilityPair, ...]
    unseen: float

    @property
    def decided(self) -> tuple[ReliabilityPair, ...]:
        """Pairs of which one fails more often beyond doubt."""
        return tuple(pair for pair in self.pairs if pair.worse is not None)


Counts = Mapping[int, tuple[int, int, int]]


def reliability(counts: Counts) -> Reliability:
    """Compare the lanes' failures.

    Parameters
    ----------
    counts : mapping of lane number to (failed, stalled, runs)

    Notes
    -----
    Intervals at 1 − 0.05/m for m pairs. Sources: as `proportion` and `compare_proportions`.
    """
    family = max(len(counts) * (len(counts) - 1) // 2, 1)
    level = 1.0 - ERROR / family
    lanes = [
        LaneReliability(no, proportion(failed, runs, level), proportion(stalled, runs, level))
        for no, (failed, stalled, runs) in counts.items()
    ]
    pairs = [_pair(a, b, ERROR / family) for a, b in combinations(lanes, 2)]
    most = max((lane.failed.runs for lane in lanes), default=0)
    return Reliability(tuple(lanes), tuple(pairs), unseen_share(most))


def _pair(a: LaneReliability, b: LaneReliability, error: float) -> ReliabilityPair:
    found = compare_proportions(a.failed, b.failed)
    worse = None
    if found.p is not None and found.p < error and found.difference is not None:
        worse = b.lane_no if found.difference.value > 0 else a.lane_no
    return ReliabilityPair(a.lane_no, b.lane_no, found, worse)
