"""What is said of one lane: one install, metric, method and condition."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import stats

from haremile.core.sample import FloatArray, as_level, as_sample

MAD_TO_SD = 1.482602218505602


@dataclass(frozen=True)
class Interval:
    """Limits with the level that they really achieve.

    Attributes
    ----------
    low, high : float
        In the unit of the readings (or a ratio).
    level : float
        Achieved confidence level.
    """

    low: float
    high: float
    level: float

    @property
    def width(self) -> float:
        """Distance between the limits."""
        return self.high - self.low

    def widened(self, resolution: float | None) -> "Interval":
        """Widened by half of the instrument's step on each side."""
        if not resolution:
            return self
        return Interval(self.low - resolution / 2, self.high + resolution / 2, self.level)


@dataclass(frozen=True)
class LaneSummary:
    """Numbers of one lane, all in the unit of its readings.

    `median_interval` is None where n is too small for the asked level; `widest_interval` is then
    the widest there is. `sd` and `se` are None for one reading, `mean_interval` (Student's t) also
    where nothing varies, `cv` also where the mean is 0, `geometric_mean` unless all are positive.
    """

    n: int
    median: float
    median_interval: Interval | None
    widest_interval: Interval
    q1: float
    q3: float
    p90: float
    iqr: float
    mad: float
    mad_scaled: float
    mean: float
    mean_interval: Interval | None
    sd: float | None
    cv: float | None
    se: float | None
    geometric_mean: float | None
    minimum: float
    maximum: float


def median_interval(values: Sequence[float] | FloatArray, level: float = 0.95) -> Interval | None:
    """Exact interval of the median from order statistics.

    Parameters
    ----------
    values : array_like, shape (n,)
        Readings in any unit.
    level : float
        Asked level; the achieved one is at least as high.

    Returns
    -------
    Interval or None
        None where even the extremes do not reach the level (below n = 6 for 95 %).

    Notes
    -----
    The k-th smallest and k-th largest reading enclose the median with probability
    1 − 2·P(Bin(n, ½) ≤ k − 1); the largest k that keeps the level is taken.
    Source: Conover, Practical Nonparametric Statistics, 3rd ed., section 3.2.
    """
    ordered = np.sort(as_sample(values))
    n = ordered.size
    tail = (1.0 - as_level(level)) / 2.0
    k = int(stats.binom.ppf(tail, n, 0.5))
    while k > 0 and stats.binom.cdf(k - 1, n, 0.5) > tail:
        k -= 1
    if k < 1:
        return None
    return _order_interval(ordered, k)


def widest_median_interval(values: Sequence[float] | FloatArray) -> Interval:
    """The widest interval of the median there is, minimum to maximum, with its level."""
    return _order_interval(np.sort(as_sample(values)), 1)


def _order_interval(ordered: FloatArray, k: int) -> Interval:
    n = ordered.size
    level = 1.0 - 2.0 * float(stats.binom.cdf(k - 1, n, 0.5))
    return Interval(float(ordered[k - 1]), float(ordered[n - k]), max(level, 0.0))


def summarise_lane(
    values: Sequence[float] | FloatArray,
    level: float = 0.95,
    resolution: float | None = None,
) -> LaneSummary:
    """Summarise one lane.

    Parameters
    ----------
    values : array_like, shape (n,)
        Readings that count, in one unit.
    level : float
        Asked level of the median's interval.
    resolution : float, optional
        The instrument's step, in the unit of the readings; intervals are widened by half of it.

    Returns
    -------
    LaneSummary

    Notes
    -----
    Quartiles and percentiles are of type 7 (Hyndman & Fan, The American Statistician 50, 1996).
    The spread is computed in two passes, so that a large offset does not cancel it.
    """
    sample = as_sample(values)
    q1, median, q3, p90 = (float(q) for q in np.quantile(sample, [0.25, 0.5, 0.75, 0.9]))
    mad = float(np.median(np.abs(sample - median)))
    interval = median_interval(sample, level)
    mean = math.fsum(sample) / sample.size
    sd = _standard_deviation(sample, mean)
    se = None if sd is None else sd / math.sqrt(sample.size)
    return LaneSummary(
        n=sample.size,
        median=median,
        median_interval=interval and interval.widened(resolution),
        widest_interval=widest_median_interval(sample).widened(resolution),
        q1=q1,
        q3=q3,
        p90=p90,
        iqr=q3 - q1,
        mad=mad,
        mad_scaled=mad * MAD_TO_SD,
        mean=mean,
        mean_interval=_mean_interval(mean, se, sample.size, level),
        sd=sd,
        cv=None if sd is None or mean == 0.0 else sd / mean,
        se=se,
        geometric_mean=_geometric_mean(sample),
        minimum=float(sample.min()),
        maximum=float(sample.max()),
    )


def _standard_deviation(sample: FloatArray, mean: float) -> float | None:
    if sample.size < 2:
        return None
    return math.sqrt(math.fsum((sample - mean) ** 2) / (sample.size - 1))


def _mean_interval(mean: float, se: float | None, n: int, level: float) -> Interval | None:
    if not se:
        return None
    reach = float(stats.t.ppf(0.5 + level / 2.0, n - 1)) * se
    return Interval(mean - reach, mean + reach, level)


def _geometric_mean(sample: FloatArray) -> float | None:
    if sample.min() <= 0:
        return None
    return math.exp(math.fsum(np.log(sample)) / sample.size)


def stalls(values: Sequence[float] | FloatArray, least_excess: float) -> tuple[int, ...]:
    """Positions of readings far above the lane: beyond the outer fence and `least_excess`.

    Parameters
    ----------
    values : array_like, shape (n,)
    least_excess : float
        The margin that matters, as an amount above the median, same unit.

    Returns
    -------
    tuple of int
        0-based positions, in the order given. Outer fence: third quartile plus three times the
        interquartile range (Tukey, Exploratory Data Analysis, 1977).
    """
    sample = as_sample(values)
    q1, median, q3 = np.quantile(sample, [0.25, 0.5, 0.75])
    fence = q3 + 3.0 * (q3 - q1)
    beyond = (sample > fence) & (sample > median + least_excess)
    return tuple(int(i) for i in np.flatnonzero(beyond))
