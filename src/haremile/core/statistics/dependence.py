"""How far one run may resemble the next where a lane's runs follow one another unshuffled."""

import math
from collections.abc import Sequence

import numpy as np
from scipy import stats

from haremile.core.statistics.run_order import lag1_autocorrelation
from haremile.core.statistics.validation import FloatArray

LEAST_IN_A_ROW = 20
"""Fewer runs in a row cannot tell: at ten, the standard error of the lag-1 autocorrelation is near
0.3."""

ONE_SIDED_Z = 1.6448536269514722
MOST = 0.95


def upper_dependence(lanes: Sequence[FloatArray]) -> float | None:
    """Upper limit (95 %, one-sided) of the lag-1 autocorrelation within lanes.

    Parameters
    ----------
    lanes : sequence of ndarray, shapes (n_i,)
        Each in run order; +infinity for a run slower than its time limit.

    Returns
    -------
    float or None
        From 0 to 0.95, one for all of them; None where one has fewer than 20 runs.

    Notes
    -----
    Of ranks, so that a stall does not hide it; each lane's is freed of its bias, (1 + 4·ρ)/n, and
    they are averaged by their sizes. Source: Kendall, Biometrika 41, 1954, for the bias; standard
    error 1/√n as in Box, Jenkins & Reinsel, Time Series Analysis, 3rd ed., section 2.1.
    """
    if not lanes or min(lane.size for lane in lanes) < LEAST_IN_A_ROW:
        return None
    total, weighted = 0, 0.0
    for lane in lanes:
        seen = lag1_autocorrelation(stats.rankdata(lane))
        if seen is None:
            continue  # all alike
        weighted += lane.size * (seen + 1.0 / lane.size) / (1.0 - 4.0 / lane.size)
        total += lane.size
    if total == 0:
        return 0.0
    limit = weighted / total + ONE_SIDED_Z / math.sqrt(total)
    return float(np.clip(limit, 0.0, MOST))


def widening(dependence: float) -> float:
    """By which factor a standard error is larger than that of independent runs, in a series whose
    dependence fades by that share from run to run: √((1 + ρ)/(1 − ρ))."""
    return math.sqrt((1.0 + dependence) / (1.0 - dependence))
