"""What is said of one lane: one install, metric, method and condition."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy import special, stats

from haremile.core.statistics.validation import FloatArray, as_level, as_ranked, as_sample

MAD_TO_SD = 1.482602218505602


@dataclass(frozen=True)
class Interval:
    """Limits with the level that they really achieve.

    Attributes
    ----------
    low, high : float
        In the unit of the readings (or a ratio); infinite where runs that timed out leave a
        limit open.
    level : float
        Achieved confidence level.
    raw : pair of float or None
        The limits before they were widened by the instrument's step; None where none is stated.
    """

    low: float
    high: float
    level: float
    raw: tuple[float, float] | None = None

    @property
    def width(self) -> float:
        """Distance between the limits."""
        return self.high - self.low

    def widened(self, resolution: float | None) -> "Interval":
        """Widened by half of the instrument's step on each side."""
        if not resolution:
            return self
        low, high = self.low - resolution / 2, self.high + resolution / 2
        return Interval(low, high, self.level, (self.low, self.high))

    def with_error(self, centre: float, error: float) -> "Interval":
        """With an independent error of `centre`, given as a half-width at the same level: the two
        are added in quadrature on each side."""
        if not error or not math.isfinite(centre):
            return self
        low = centre - math.hypot(centre - self.low, error)
        high = centre + math.hypot(self.high - centre, error)
        return Interval(low, high, self.level, (self.low, self.high))

    def stretched(self, centre: float, factor: float) -> "Interval":
        """Each limit so many times as far from the centre; limits that are open stay so."""

        def away(limit: float) -> float:
            return centre + factor * (limit - centre) if math.isfinite(limit - centre) else limit

        raw = self.raw and (away(self.raw[0]), away(self.raw[1]))
        return Interval(away(self.low), away(self.high), self.level, raw)

    def mapped(self, rise: Callable[[float], float]) -> "Interval":
        """On another scale, given by a function that rises."""
        raw = self.raw and (float(rise(self.raw[0])), float(rise(self.raw[1])))
        return Interval(float(rise(self.low)), float(rise(self.high)), self.level, raw)

    def turned(self, fall: Callable[[float], float]) -> "Interval":
        """On another scale, given by a function that falls: the limits change places."""
        raw = self.raw and (float(fall(self.raw[1])), float(fall(self.raw[0])))
        return Interval(float(fall(self.high)), float(fall(self.low)), self.level, raw)


@dataclass(frozen=True)
class LaneSummary:
    """Numbers of one lane, all in the unit of its readings.

    `n` counts the readings that ended, `timed_out` the runs that were slower than their limit:
    these stand above all readings in the median, quartiles, percentile and MAD, which may
    therefore be infinite, while mean, spread, minimum and maximum are of the readings that ended.
    `median_interval` is None where n is too small for the asked level; `widest_interval` is then
    the widest there is. `sd` and `se` are None for one reading, `mean_interval` (Student's t) also
    where nothing varies, `cv` also where the mean is 0, `geometric_mean` unless all are positive.
    """

    n: int
    timed_out: int
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


def quantile(values: Sequence[float] | FloatArray, share: float) -> float:
    """Quantile of type 7, infinite where it reaches into the runs that timed out.

    Source: Hyndman & Fan, The American Statistician 50, 1996.
    """
    return _quantile(np.sort(as_ranked(values)), share)


def _quantile(ordered: FloatArray, share: float) -> float:
    place = (ordered.size - 1) * share
    below = min(int(place), ordered.size - 2) if ordered.size > 1 else 0
    part = place - below
    low = float(ordered[below])
    if part == 0.0:
        return low
    high = float(ordered[below + 1])
    if high == low or part == 1.0 or math.isinf(high):
        return high
    # from the nearer end, so that neither end is missed by rounding
    return low + (high - low) * part if part < 0.5 else high - (high - low) * (1.0 - part)


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
    ordered = np.sort(as_ranked(values))
    n = ordered.size
    k = _order_rank(n, as_level(level))
    return None if k < 1 else _order_interval(ordered, k)


@lru_cache(maxsize=1024)
def _order_rank(n: int, level: float) -> int:
    tail = (1.0 - level) / 2.0
    k = int(stats.binom.ppf(tail, n, 0.5))
    while k > 0 and stats.binom.cdf(k - 1, n, 0.5) > tail:
        k -= 1
    return k


def widest_median_interval(values: Sequence[float] | FloatArray) -> Interval:
    """The widest interval of the median there is, minimum to maximum, with its level."""
    return _order_interval(np.sort(as_ranked(values)), 1)


def _order_interval(ordered: FloatArray, k: int) -> Interval:
    low, high = float(ordered[k - 1]), float(ordered[ordered.size - k])
    return Interval(low, high, _order_level(ordered.size, k))


@lru_cache(maxsize=1024)
def _order_level(n: int, k: int) -> float:
    return max(1.0 - 2.0 * float(stats.binom.cdf(k - 1, n, 0.5)), 0.0)


def summarise_lane(
    values: Sequence[float] | FloatArray,
    level: float = 0.95,
    resolution: float | None = None,
    error: float = 0.0,
) -> LaneSummary:
    """Summarise one lane.

    Parameters
    ----------
    values : array_like, shape (n,)
        Readings that count, in one unit; +infinity for a run slower than its time limit.
    level : float
        Asked level of the median's interval.
    resolution : float, optional
        The instrument's step, in the unit of the readings; intervals are widened by half of it.
    error : float
        Half-width, at `level`, of an error that all readings share, such as that of a person's
        reaction; it widens the intervals of the median.

    Returns
    -------
    LaneSummary

    Notes
    -----
    Quartiles and percentiles are of type 7 (Hyndman & Fan, The American Statistician 50, 1996).
    The spread is computed in two passes, so that a large offset does not cancel it.
    """
    ranked = np.sort(as_ranked(values))
    sample = ranked[np.isfinite(ranked)]
    q1, median, q3, p90 = (_quantile(ranked, share) for share in (0.25, 0.5, 0.75, 0.9))
    mad = _mad(ranked, median)
    interval = median_interval(ranked, level)
    mean = math.fsum(sample) / sample.size
    sd = _standard_deviation(sample, mean)
    se = None if sd is None else sd / math.sqrt(sample.size)
    return LaneSummary(
        n=sample.size,
        timed_out=ranked.size - sample.size,
        median=median,
        median_interval=interval and interval.with_error(median, error).widened(resolution),
        widest_interval=widest_median_interval(ranked)
        .with_error(median, error)
        .widened(resolution),
        q1=q1,
        q3=q3,
        p90=p90,
        iqr=math.inf if math.isinf(q3) else q3 - q1,
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


def _mad(ranked: FloatArray, median: float) -> float:
    if math.isinf(median):
        return math.inf
    return _quantile(np.sort(np.abs(ranked - median)), 0.5)


def _standard_deviation(sample: FloatArray, mean: float) -> float | None:
    if sample.size < 2:
        return None
    return math.sqrt(math.fsum((sample - mean) ** 2) / (sample.size - 1))


def _mean_interval(mean: float, se: float | None, n: int, level: float) -> Interval | None:
    if not se:
        return None
    reach = float(special.stdtrit(n - 1, 0.5 + level / 2.0)) * se
    return Interval(mean - reach, mean + reach, level)


def _geometric_mean(sample: FloatArray) -> float | None:
    if sample.min() <= 0:
        return None
    return math.exp(math.fsum(np.log(sample)) / sample.size)


BEYOND_MARGINS, BEYOND_SPREADS = 5.0, 7.0


def stalls(values: Sequence[float] | FloatArray, margin_width: float) -> tuple[int, ...]:
    """Positions of readings far above the lane: stalls, where the readings are times.

    Parameters
    ----------
    values : array_like, shape (n,)
    margin_width : float
        The margin that matters, as an amount at the median, same unit; 0 where none is stated.

    Returns
    -------
    tuple of int
        0-based positions, in the order given, of what lies beyond the median by five margins and by
        seven times the distance from the first quartile to the median.

    Notes
    -----
    The lower half alone says how wide a calm lane is: a fence from the upper quartile moves with
    the stalls that it is to find. Of 20 boots of which one in five takes three times as long,
    99.9 % are mentioned so (outer fence: 80 %), and of calm lanes whose exponential
    noise stays within the margin 1 to 6 % (17 to 27 %).
    """
    sample = as_sample(values)
    q1, median = (_quantile(np.sort(sample), share) for share in (0.25, 0.5))
    reach = max(BEYOND_MARGINS * margin_width, BEYOND_SPREADS * (median - q1))
    if reach <= 0.0:
        return ()
    return tuple(int(i) for i in np.flatnonzero(sample > median + reach))


def is_first_apart(values: Sequence[float] | FloatArray, margin_width: float) -> bool:
    """Whether the first reading lies far above the others: beyond their outer fence and the margin.

    Outer fence: third quartile plus three times the interquartile range (Tukey, Exploratory Data
    Analysis, 1977). False for fewer than two readings.
    """
    sample = as_sample(values)
    if sample.size < 2:
        return False
    rest = np.sort(sample[1:])
    q1, median, q3 = (_quantile(rest, share) for share in (0.25, 0.5, 0.75))
    return bool(sample[0] > max(q3 + 3.0 * (q3 - q1), median + margin_width))
