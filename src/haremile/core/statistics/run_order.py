"""One lane in run order: is the first reading unlike the rest, is there a trend?"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import optimize, stats

from haremile.core.statistics.validation import FloatArray, as_sample

FAR_OUT_Z = 3.5
LITTLE_POWER_BELOW = 20
DENSE_UP_TO = 1_000
"""Readings whose pairs are written out."""

SLOPES_DRAWN = 20_000
MEAN_DEVIATION_TO_SD = 1.253314


@dataclass(frozen=True)
class Trend:
    """Mann–Kendall trend over the run order.

    Attributes
    ----------
    s : int
        Rising pairs minus falling pairs.
    tau : float or None
        Kendall's tau-b; None for constant data.
    p : float or None
        Two-sided, normal with tie and continuity correction; None for constant data.
    slope_per_run : float
        Theil–Sen slope, unit of the readings per run.
    """

    s: int
    tau: float | None
    p: float | None
    slope_per_run: float


@dataclass(frozen=True)
class FirstRun:
    """The first reading against the rest of its lane.

    `modified_z` is measured from the median and spread of the *other* readings; None where those
    do not vary.
    """

    value: float
    rest_median: float
    modified_z: float | None
    is_unlike: bool


@dataclass(frozen=True)
class SequenceDiagnosis:
    """What the order of a lane's readings tells; None where n is too small to tell anything."""

    n: int
    first_run: FirstRun | None
    lag1: float | None
    trend: Trend | None
    shapiro_w: float | None
    shapiro_p: float | None
    far_out: tuple[int, ...]

    @property
    def has_little_power(self) -> bool:
        """Below 20 runs these diagnoses miss much; shuffled order is the guard."""
        return self.n < LITTLE_POWER_BELOW


def modified_z(values: Sequence[float] | FloatArray) -> FloatArray:
    """Modified z scores, 0.6745·(x − median)/MAD.

    Where the MAD is 0: (x − median) over 1.253314 times the mean absolute deviation; all zero for
    constant data. Source: Iglewicz & Hoaglin, How to Detect and Handle Outliers, 1993.

    Returns
    -------
    ndarray, shape (n,)
    """
    sample = as_sample(values)
    away = sample - np.median(sample)
    mad = float(np.median(np.abs(away)))
    if mad > 0:
        scores: FloatArray = 0.6745 * away / mad
        return scores
    mean_deviation = float(np.mean(np.abs(away)))
    if mean_deviation == 0.0:
        return np.zeros_like(sample)
    fallback: FloatArray = away / (MEAN_DEVIATION_TO_SD * mean_deviation)
    return fallback


def far_out(values: Sequence[float] | FloatArray) -> tuple[int, ...]:
    """0-based positions whose modified z lies beyond 3.5. Flagged, never dropped."""
    return tuple(int(i) for i in np.flatnonzero(np.abs(modified_z(values)) > FAR_OUT_Z))


def lag1_autocorrelation(values: Sequence[float] | FloatArray) -> float | None:
    """Lag-1 autocorrelation: lag products over the total sum of squares; None if constant.

    Source: Box, Jenkins & Reinsel, Time Series Analysis, 3rd ed., section 2.1.
    """
    sample = as_sample(values)
    centred = sample - math.fsum(sample) / sample.size
    total = math.fsum(centred**2)
    if total == 0.0:
        return None
    return math.fsum(centred[1:] * centred[:-1]) / total


def trend(values: Sequence[float] | FloatArray) -> Trend | None:
    """Mann–Kendall test and Theil–Sen slope; None below three readings.

    Source: Mann, Econometrica 13, 1945; Kendall, Rank Correlation Methods, 4th ed.; Sen, JASA 63,
    1968.
    """
    sample = as_sample(values)
    n = sample.size
    if n < 3:
        return None
    s, slope = _dense_trend(sample) if n <= DENSE_UP_TO else _large_trend(sample)
    _, ties = np.unique(sample, return_counts=True)
    variance = (n * (n - 1) * (2 * n + 5) - float((ties * (ties - 1) * (2 * ties + 5)).sum())) / 18
    if variance <= 0.0 or ties.size == 1:
        return Trend(s, None, None, slope)
    z = max(abs(s) - 1, 0) / math.sqrt(variance)
    pairs = n * (n - 1) / 2.0
    tied = float((ties * (ties - 1)).sum()) / 2.0
    tau = s / math.sqrt(pairs * (pairs - tied))
    return Trend(s, tau, min(2.0 * float(stats.norm.sf(z)), 1.0), slope)


def _dense_trend(sample: FloatArray) -> tuple[int, float]:
    """Rising less falling pairs, and the median of all slopes."""
    i, j = np.triu_indices(sample.size, 1)
    rises = sample[j] - sample[i]
    return int(np.sign(rises).sum()), float(np.median(rises / (j - i)))


def _large_trend(sample: FloatArray) -> tuple[int, float]:
    """The same without writing the pairs out.

    The median slope is that which, taken off, leaves as many rising pairs as falling ones. Source:
    Sen, Journal of the American Statistical Association 63, 1968.
    """
    runs = np.arange(sample.size, dtype=float)

    def score(slope: float) -> float:
        return _rising_less_falling(sample - slope * runs)

    generator = np.random.default_rng(0)
    i, j = generator.integers(0, sample.size, (2, SLOPES_DRAWN))
    apart = i != j
    drawn = (sample[j] - sample[i])[apart] / (j - i)[apart]
    low, high = (float(np.quantile(drawn, share)) for share in (0.485, 0.515))
    if low == high:
        return round(score(0.0)), low
    found = (low + high) / 2.0
    if score(low) * score(high) < 0.0:
        found = float(optimize.brentq(score, low, high, xtol=1e-5 * (high - low)))
    return round(score(0.0)), found


def _rising_less_falling(sample: FloatArray) -> float:
    """Kendall's score, from tau-b, which is counted in n·log n steps."""
    tau = float(stats.kendalltau(np.arange(sample.size), sample).statistic)
    if math.isnan(tau):
        return 0.0
    _, ties = np.unique(sample, return_counts=True)
    pairs = sample.size * (sample.size - 1) / 2.0
    tied = float((ties * (ties - 1)).sum()) / 2.0
    return tau * math.sqrt(pairs) * math.sqrt(pairs - tied)


def first_run(values: Sequence[float] | FloatArray) -> FirstRun | None:
    """The first reading against the rest; None below four readings."""
    sample = as_sample(values)
    if sample.size < 4:
        return None
    first, rest = float(sample[0]), sample[1:]
    middle = float(np.median(rest))
    mad = float(np.median(np.abs(rest - middle)))
    if mad == 0.0:
        return FirstRun(first, middle, None, first != middle)
    z = 0.6745 * (first - middle) / mad
    return FirstRun(first, middle, z, abs(z) > FAR_OUT_Z)


def diagnose_sequence(values: Sequence[float] | FloatArray) -> SequenceDiagnosis:
    """All of it for one lane in run order.

    Parameters
    ----------
    values : array_like, shape (n,)
        Readings in run order, one unit.
    """
    sample = as_sample(values)
    width = float(np.ptp(sample))
    shapiro = None
    if width > 0.0 and 3 <= sample.size <= 5000:
        # the statistic knows no scale; SciPy's takes a width below 1e-19 for none
        shapiro = stats.shapiro((sample - np.median(sample)) / width)
    return SequenceDiagnosis(
        n=sample.size,
        first_run=first_run(sample),
        lag1=lag1_autocorrelation(sample) if sample.size > 1 else None,
        trend=trend(sample),
        shapiro_w=float(shapiro.statistic) if shapiro else None,
        shapiro_p=float(shapiro.pvalue) if shapiro else None,
        far_out=far_out(sample),
    )
