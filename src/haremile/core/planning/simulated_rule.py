"""What the rule of the verdict does with drawn readings: how often it tells lanes apart."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from haremile.core.comparison.verdict import ERROR_AHEAD, ERROR_LEVEL
from haremile.core.statistics.contrast import shift_estimate
from haremile.core.statistics.rank_sum import interval_rank
from haremile.core.statistics.studentised_rank import rows_differ
from haremile.core.statistics.validation import FloatArray

SIMULATED_UP_TO = 30
"""Repeats above which the normal limit is near enough."""

DRAWS = 3000
"""The chance of nine in ten is then known to within half a per cent."""


@dataclass(frozen=True)
class SimulatedRule:
    """The rule's intervals of lanes that do not differ, of one standard deviation each, shape
    (draws,); a true difference only moves them.

    Attributes
    ----------
    pair_low : ndarray
        Lower limits at the level of *ahead*.
    leader_low : ndarray
        The lowest of those against all others, where the leader's lane is the same.
    level_low, level_high : ndarray
        Limits at the level of *level*.
    """

    pair_low: FloatArray
    leader_low: FloatArray
    level_low: FloatArray
    level_high: FloatArray

    def told(self, away: float) -> float:
        """Chance that a pair is told apart, whose difference lies so far beyond the margin."""
        return float(np.mean(self.pair_low > -away))

    def told_from(self, power: float) -> float:
        """How far beyond the margin a pair is told apart with this chance."""
        return float(np.quantile(-self.pair_low, power))

    def leader_from(self, power: float) -> float:
        """How far beyond the margin a leader is told from every other with this chance."""
        return float(np.quantile(-self.leader_low, power))

    def level(self, margin: float, difference: float) -> float:
        """Chance that a difference within the margin is called level."""
        inside = (self.level_low + difference > -margin) & (self.level_high + difference < margin)
        return float(np.mean(inside))


@lru_cache(maxsize=512)
def simulated_rule(repeats: int, contenders: int, shared: int) -> SimulatedRule:
    """Draw normal readings and let the rule judge them; the same call gives the same draws.

    Parameters
    ----------
    repeats : int
        Of each contender, at most `SIMULATED_UP_TO`.
    contenders : int
    shared : int
        Over how many pairs and looks the error is shared out.
    """
    generator = np.random.default_rng([repeats, contenders, shared])
    outer, inner = 1.0 - ERROR_AHEAD / shared, 1.0 - ERROR_LEVEL / shared
    leader = generator.normal(size=(DRAWS, repeats))
    other = generator.normal(size=(DRAWS, repeats))
    pair_low, _ = _limits(leader, other, outer)
    level_low, level_high = _limits(leader, other, inner)
    lowest = pair_low
    for _ in range(contenders - 2):
        low, _ = _limits(leader, generator.normal(size=(DRAWS, repeats)), outer)
        lowest = np.minimum(lowest, low)
    return SimulatedRule(pair_low, lowest, level_low, level_high)


def _limits(a: FloatArray, b: FloatArray, level: float) -> tuple[FloatArray, FloatArray]:
    """Limits of the shift of every row; as `shift_estimate`, all at once where it only ranks."""
    draws, n = a.shape
    rank, _ = interval_rank(n, n, level)
    differences = (b[:, :, None] - a[:, None, :]).reshape(draws, n * n)
    ordered = np.partition(differences, (rank - 1, n * n - rank), axis=1)
    low, high = ordered[:, rank - 1].copy(), ordered[:, n * n - rank].copy()
    for row in np.flatnonzero(rows_differ(a, b)):
        limits = shift_estimate(a[row], b[row], level).interval
        low[row], high[row] = limits.low, limits.high
    return low, high
