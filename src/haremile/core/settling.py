"""When a machine has settled after boot."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import stats

from haremile.core.sample import as_sample


@dataclass(frozen=True)
class SettleRule:
    """Settled when, over the last window, level and range keep still.

    Attributes
    ----------
    window_s : float
        Length of the window, seconds.
    slope_share : float
        Largest drift over the window (Theil–Sen slope times window), share of the level.
    range_share : float
        Largest range within the window, share of the level.
    timeout_s : float
        When waiting ends, seconds after the first sample.
    """

    window_s: float = 60.0
    slope_share: float = 0.005
    range_share: float = 0.02
    timeout_s: float = 300.0

    @property
    def text(self) -> str:
        """The rule as a condition value."""
        return (
            f"window {self.window_s:g} s, drift {self.slope_share:.1%}, "
            f"range {self.range_share:.1%}, at most {self.timeout_s:g} s"
        )


@dataclass(frozen=True)
class Settling:
    """Where a curve settled.

    `at_s` is the time of the last sample of the window; `pick` the position of the window's sample
    whose level is the window's (lower) median: one instant from which all definitions are read.
    """

    at_s: float
    pick: int
    first: int


def settled(times_s: Sequence[float], levels: Sequence[float], rule: SettleRule) -> Settling | None:
    """Whether the curve is settled at its last sample.

    Parameters
    ----------
    times_s, levels : sequences, shape (n,)
        Sample times in seconds, increasing, and memory in use in bytes.

    Returns
    -------
    Settling or None
        None while the window is not yet covered or still moves. Slope: Theil–Sen (Sen, JASA 63,
        1968).
    """
    times, values = as_sample(times_s, "times"), as_sample(levels, "levels")
    start = times[-1] - rule.window_s
    if times[0] > start:
        return None
    first = int(np.searchsorted(times, start, side="right")) - 1
    window_t, window_v = times[first:], values[first:]
    level = float(np.median(window_v))
    if float(np.ptp(window_v)) > rule.range_share * level:
        return None
    slope = float(stats.theilslopes(window_v, window_t).slope) if window_v.size > 1 else 0.0
    if abs(slope) * rule.window_s > rule.slope_share * level:
        return None
    pick = int(np.argsort(window_v, kind="stable")[(window_v.size - 1) // 2])
    return Settling(float(times[-1]), first + pick, first)
