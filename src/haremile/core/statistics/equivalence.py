"""Two one-sided tests: is the difference smaller than the margin?"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import stats

from haremile.core.statistics.lane_statistics import Interval
from haremile.core.statistics.location_tests import rank_sum_normal, welch
from haremile.core.statistics.validation import FloatArray, as_sample
from haremile.errors import SampleError


@dataclass(frozen=True)
class Equivalence:
    """Two one-sided tests of B against A.

    Attributes
    ----------
    scale : str
        ``amount`` (unit of the readings) or ``log ratio``; `estimate`, `limit` and `interval` are
        on it.
    estimate : float
        Difference of means, b − a.
    limit : float
        The margin on this scale: d, or log(1 + m).
    t_lower, t_upper : float
        Welch's t against −limit and +limit.
    df, p_lower, p_upper, p : float
        `p` is the larger of the two.
    rank_p : float
        The same with rank-sum tests (normal with tie and continuity correction).
    interval : Interval
        Of the difference, at 1 − 2·error: wholly inside ±limit exactly where p < error.

    All but scale and limit are None where no spread is seen.
    """

    scale: str
    limit: float
    estimate: float | None
    t_lower: float | None
    t_upper: float | None
    df: float | None
    p_lower: float | None
    p_upper: float | None
    p: float | None
    rank_p: float | None
    interval: Interval | None


def _on_the_margins_scale(
    a: Sequence[float] | FloatArray,
    b: Sequence[float] | FloatArray,
    amount: float | None,
    share: float | None,
) -> tuple[str, float, FloatArray, FloatArray]:
    """The scale's name, the margin on it, and both samples on it. Raises SampleError."""
    first, second = as_sample(a, "a"), as_sample(b, "b")
    if (amount is None) == (share is None):
        raise SampleError("equivalence takes one margin: an amount or a share")
    scale, limit = ("amount", amount) if share is None else ("log ratio", math.log1p(share))
    if limit is None or not 0.0 < limit < math.inf:
        raise SampleError(f"the margin must be a positive number, not {amount or share}")
    if share is not None:
        if min(first.min(), second.min()) <= 0.0:
            raise SampleError("a share is for positive readings; state an amount")
        first, second = np.log(first), np.log(second)
    return scale, limit, first, second


def equivalence(
    a: Sequence[float] | FloatArray,
    b: Sequence[float] | FloatArray,
    amount: float | None = None,
    share: float | None = None,
    error: float = 0.05,
) -> Equivalence:
    """Test whether B and A differ by less than the margin.

    Parameters
    ----------
    a, b : array_like, shapes (n_a,) and (n_b,)
        Readings in one unit; positive where the margin is a share.
    amount, share : float
        Exactly one of them: the margin in the unit of the readings, or as a share m, which is
        ±log(1 + m) on the scale of logarithms.
    error : float
        Of each one-sided test.

    Raises
    ------
    SampleError
        If both or neither margin is given, it is not positive, or a share meets readings that
        have no logarithm.

    Notes
    -----
    Source: Schuirmann, Journal of Pharmacokinetics and Biopharmaceutics 15, 1987, with Welch's
    standard error and degrees of freedom.
    """
    scale, limit, first, second = _on_the_margins_scale(a, b, amount, share)
    means = welch(first, second, 1.0 - 2.0 * error)
    se = means.se
    if se is None or means.df is None or means.low is None or means.high is None:
        return Equivalence(scale, limit, None, None, None, None, None, None, None, None, None)
    t_lower, t_upper = (means.difference + limit) / se, (means.difference - limit) / se
    p_lower = float(stats.t.sf(t_lower, means.df))
    p_upper = float(stats.t.cdf(t_upper, means.df))
    rank_p = max(
        rank_sum_normal(first, second + limit, "greater"),
        rank_sum_normal(first, second - limit, "less"),
    )
    return Equivalence(
        scale,
        limit,
        means.difference,
        t_lower,
        t_upper,
        means.df,
        p_lower,
        p_upper,
        max(p_lower, p_upper),
        rank_p,
        Interval(means.low, means.high, 1.0 - 2.0 * error),
    )
