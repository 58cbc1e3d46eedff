"""What the diagnoses of one lane can see at its number of runs."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy import special

from haremile.core.statistics.proportions import unseen_share
from haremile.core.statistics.run_order import FAR_OUT_Z

LANES = 2_000
DRIFT_SD = 2.0
FIRST_RUN_SD = 5.0
Z_TWO_SIDED = 1.959963984540054
SIMULATED_UP_TO = 200
LARGE_FIRST_RUN = float(special.ndtr(FIRST_RUN_SD - FAR_OUT_Z))
"""That a first run five standard deviations off lies beyond 3.5 of them, once the others' spread is
known well."""


@dataclass(frozen=True)
class DiagnosticPower:
    """Chances of being seen in a lane of n normal readings.

    Attributes
    ----------
    n : int
    drift : float or None
        That the trend test (5 %) sees a drift of two standard deviations from first to last run.
    first_run : float or None
        That a first run five standard deviations off is flagged.
    unseen_failures : float
        Highest true failure rate that no failure in n runs leaves possible, at 95 %.
    """

    n: int
    drift: float | None
    first_run: float | None
    unseen_failures: float


@lru_cache(maxsize=256)
def diagnostic_power(n: int) -> DiagnosticPower:
    """Power of the diagnoses at n runs, from 2,000 simulated lanes with a fixed seed; above 200
    runs from the limits of their distributions."""
    if n < 4:
        return DiagnosticPower(n, None, None, unseen_share(n))
    if n > SIMULATED_UP_TO:
        return DiagnosticPower(n, _large_trend_power(n), LARGE_FIRST_RUN, unseen_share(n))
    generator = np.random.default_rng(n)
    lanes = generator.normal(size=(LANES, n))
    drifting = lanes + DRIFT_SD * np.linspace(0.0, 1.0, n)
    return DiagnosticPower(n, _trend_power(drifting), _first_run_power(lanes), unseen_share(n))


def _trend_power(lanes: np.ndarray[tuple[int, int], np.dtype[np.float64]]) -> float:
    n = lanes.shape[1]
    rises = np.zeros(lanes.shape[0])
    for lag in range(1, n):
        rises += np.sign(lanes[:, lag:] - lanes[:, :-lag]).sum(axis=1)
    sd = (n * (n - 1) * (2 * n + 5) / 18.0) ** 0.5
    return float(((np.abs(rises) - 1.0) / sd > Z_TWO_SIDED).mean())


def _large_trend_power(n: int) -> float:
    """From the score's mean under the drift and its deviation without one."""
    apart = np.arange(1, n)
    chance = 2.0 * special.ndtr(DRIFT_SD * apart / (n - 1) / np.sqrt(2.0)) - 1.0
    mean = float(((n - apart) * chance).sum())
    sd = (n * (n - 1) * (2 * n + 5) / 18.0) ** 0.5
    return float(special.ndtr((mean - 1.0) / sd - Z_TWO_SIDED))


def _first_run_power(lanes: np.ndarray[tuple[int, int], np.dtype[np.float64]]) -> float:
    rest = lanes[:, 1:]
    middle = np.median(rest, axis=1)
    mad = np.median(np.abs(rest - middle[:, None]), axis=1)
    z = 0.6745 * (lanes[:, 0] + FIRST_RUN_SD - middle) / mad
    return float((np.abs(z) > FAR_OUT_Z).mean())
