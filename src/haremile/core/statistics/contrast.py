"""What is said of two lanes, always B against A."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from haremile.core.statistics.lane_statistics import Interval
from haremile.core.statistics.large_lanes import Pairs
from haremile.core.statistics.order_statistics import PairwiseDifferences
from haremile.core.statistics.rank_sum import interval_rank
from haremile.core.statistics.studentised_rank import studentised_intervals
from haremile.core.statistics.validation import FloatArray, as_level, as_ranked
from haremile.errors import SampleError


@dataclass(frozen=True)
class Estimate:
    """An estimate with its interval, in the unit of the readings or as a ratio."""

    value: float
    interval: Interval


@dataclass(frozen=True)
class Contrast:
    """B against A.

    Attributes
    ----------
    n_a, n_b : int
        Readings, with runs slower than their time limit.
    shift : Estimate
        Hodges–Lehmann shift b − a, in the unit of the readings.
    ratio : Estimate or None
        The same on logarithms, b / a; None unless every reading is positive.
    probability_b_lower : float
        Chance that a run of B is below a run of A, half of ties.
    cliffs_delta : float
        P(b > a) − P(b < a).
    method : str
        Where the interval of the shift comes from: ``studentised rank``, ``signed rank`` of pairs,
        ``counted`` of counts.
    """

    n_a: int
    n_b: int
    shift: Estimate
    ratio: Estimate | None
    probability_b_lower: float
    cliffs_delta: float
    method: str


def shift_estimate(
    a: Sequence[float] | FloatArray,
    b: Sequence[float] | FloatArray,
    level: float = 0.95,
    resolution: float | None = None,
) -> Estimate:
    """Hodges–Lehmann shift of B against A with its interval.

    Parameters
    ----------
    a, b : array_like, shapes (n_a,) and (n_b,)
        Readings in one unit; +infinity for a run slower than its time limit.
    level : float
        Asked level. The achieved one stands in the interval; it can be lower where there are too
        few readings (three against three give 90 %).
    resolution : float, optional
        The instrument's step; the interval is widened by half of it on each side.

    Raises
    ------
    SampleError
        If a lane has no finite reading, or the level is none.

    Notes
    -----
    The median of all pairwise differences b − a (Hollander, Wolfe & Chicken, Nonparametric
    Statistical Methods, 3rd ed., section 4.2), with the interval of the studentised rank test,
    which holds where spreads and numbers of readings differ.
    """
    (found,) = _estimates([(as_ranked(a, "a"), as_ranked(b, "b"))], [level])
    return Estimate(found[0].value, found[0].interval.widened(resolution))


def _estimates(pairs: Pairs, levels: Sequence[float]) -> list[list[Estimate]]:
    """The Hodges–Lehmann shift of each pair, with its interval at each level."""
    found = studentised_intervals(pairs, [as_level(level) for level in levels])
    return [[Estimate(value, one) for one in intervals] for value, intervals in found]


def rank_sum_interval(
    a: Sequence[float] | FloatArray, b: Sequence[float] | FloatArray, level: float = 0.95
) -> Interval:
    """Interval of the shift of B against A that belongs to the rank-sum test.

    From the order statistics of the differences at the exact rank-sum quantile; it takes the lanes
    to differ by a shift alone. Source: Hollander, Wolfe & Chicken, as above, section 4.3.
    """
    found = PairwiseDifferences(as_ranked(a, "a"), as_ranked(b, "b"))
    rank, achieved = interval_rank(found.n_a, found.n_b, as_level(level))
    return Interval(found.lower(rank), found.upper(rank), achieved)


def ratio_estimate(
    a: Sequence[float] | FloatArray,
    b: Sequence[float] | FloatArray,
    level: float = 0.95,
    resolution: float | None = None,
) -> Estimate | None:
    """Ratio of B to A: the shift on logarithms; None unless every reading is positive."""
    first, second = as_ranked(a, "a"), as_ranked(b, "b")
    if min(first.min(), second.min()) <= 0:
        return None
    (logs,) = _estimates([(np.log(first), np.log(second))], [level])
    return _exponential(logs[0], log_step(first, second, resolution))


def log_step(a: FloatArray, b: FloatArray, resolution: float | None) -> float | None:
    """The instrument's step on the scale of logarithms, at the smaller median."""
    if not resolution:
        return None
    return 2.0 * float(np.log1p(resolution / 2.0 / min(np.median(a), np.median(b))))


def _exponential(logs: Estimate, step: float | None) -> Estimate:
    limits = logs.interval.widened(step)
    return Estimate(float(np.exp(logs.value)), limits.mapped(np.exp))


def contrasts(
    pairs: Sequence[tuple[Sequence[float] | FloatArray, Sequence[float] | FloatArray]],
    levels: Sequence[float],
    resolution: float | None = None,
) -> list[list[Contrast]]:
    """Compare b with a in many pairs (a, b): of each, one contrast for each level; as
    `shift_estimate` otherwise.

    Raises
    ------
    SampleError
        If a lane has no finite reading or holds a value that is no number.
    """
    lanes: dict[int, FloatArray] = {}  # one that stands in many pairs is looked at once
    for a, b in pairs:
        for name, lane in (("a", a), ("b", b)):
            if id(lane) not in lanes:
                lanes[id(lane)] = as_ranked(lane, name)
    ranked = [(lanes[id(a)], lanes[id(b)]) for a, b in pairs]
    shifts = _estimates(ranked, levels)
    of_lane = {id(lane): np.log(lane) for lane in lanes.values() if lane.min() > 0}
    positive = [
        place for place, (a, b) in enumerate(ranked) if id(a) in of_lane and id(b) in of_lane
    ]
    with_logs = [(of_lane[id(ranked[i][0])], of_lane[id(ranked[i][1])]) for i in positive]
    logs = dict(zip(positive, _estimates(with_logs, levels), strict=True))
    found = []
    for place, (a, b) in enumerate(ranked):
        lower, higher = chances(a, b)
        ratios: list[Estimate | None] = [None] * len(levels)
        if place in logs:
            step = log_step(a, b, resolution)
            ratios = [_exponential(one, step) for one in logs[place]]
        found.append(
            [
                Contrast(
                    n_a=a.size,
                    n_b=b.size,
                    shift=Estimate(shift.value, shift.interval.widened(resolution)),
                    ratio=ratio,
                    probability_b_lower=lower + (1.0 - higher - lower) / 2.0,
                    cliffs_delta=higher - lower,
                    method="studentised rank",
                )
                for shift, ratio in zip(shifts[place], ratios, strict=True)
            ]
        )
    return found


def stretched(found: Contrast, factor: float) -> Contrast:
    """The same with intervals so many times as wide, those of the ratio on logarithms."""
    shift, ratio = found.shift, found.ratio
    if ratio is not None and ratio.value > 0.0:
        centre = float(np.log(ratio.value))
        limits = ratio.interval.mapped(np.log).stretched(centre, factor).mapped(np.exp)
        ratio = Estimate(ratio.value, limits)
    wider = Estimate(shift.value, shift.interval.stretched(shift.value, factor))
    return replace(found, shift=wider, ratio=ratio)


def chances(a: FloatArray, b: FloatArray) -> tuple[float, float]:
    """P(b < a) and P(b > a) over all pairs of readings."""
    ordered = np.sort(a)
    pairs = a.size * b.size
    higher = float(np.searchsorted(ordered, b, side="left").sum()) / pairs
    lower = float(pairs - np.searchsorted(ordered, b, side="right").sum()) / pairs
    return lower, higher


def contrast(
    a: Sequence[float] | FloatArray,
    b: Sequence[float] | FloatArray,
    level: float = 0.95,
    resolution: float | None = None,
) -> Contrast:
    """Compare B with A; parameters as in `shift_estimate`."""
    return contrasts([(a, b)], [level], resolution)[0][0]


def is_exact(*lanes: FloatArray) -> bool:
    """Whether each lane holds one value only, as counts of one install do."""
    return all(bool((lane == lane[0]).all()) for lane in lanes)


def exact_contrast(a: FloatArray, b: FloatArray) -> Contrast:
    """Two counts compared as they are: intervals without width, at level 1.

    Raises
    ------
    SampleError
        If a lane varies.
    """
    if not is_exact(a, b):
        raise SampleError("a count that varies is not exact for its install")
    first, second = float(a[0]), float(b[0])
    shift, lower = second - first, float(second < first)
    is_positive = min(first, second) > 0
    return Contrast(
        n_a=a.size,
        n_b=b.size,
        shift=Estimate(shift, Interval(shift, shift, 1.0)),
        ratio=Estimate(second / first, Interval(second / first, second / first, 1.0))
        if is_positive
        else None,
        probability_b_lower=0.5 if shift == 0.0 else lower,
        cliffs_delta=float(np.sign(shift)),
        method="counted",
    )


def mirrored(found: Contrast) -> Contrast:
    """A against B, from B against A."""
    shift, ratio = found.shift, found.ratio
    return Contrast(
        n_a=found.n_b,
        n_b=found.n_a,
        shift=Estimate(-shift.value, negated(shift.interval)),
        ratio=ratio and Estimate(_reciprocal(ratio.value), ratio.interval.turned(_reciprocal)),
        probability_b_lower=1.0 - found.probability_b_lower,
        cliffs_delta=-found.cliffs_delta,
        method=found.method,
    )


def negated(interval: Interval) -> Interval:
    """The interval of the difference the other way round."""
    return interval.turned(lambda limit: -limit)


def _reciprocal(ratio: float) -> float:
    return np.inf if ratio == 0.0 else 1.0 / ratio
