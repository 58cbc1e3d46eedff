"""Two one-sided tests and the interval that says the same."""

import numpy as np
import pytest
from scipy import stats

from haremile.core.statistics.equivalence import equivalence
from haremile.errors import SampleError

NOISE = np.random.default_rng(12)
A, B = NOISE.normal(20.0, 1.0, 20), NOISE.normal(20.1, 1.4, 24)


def test_each_side_is_a_t_test_against_its_end_of_the_margin():
    found = equivalence(A, B, amount=0.9)
    above = stats.ttest_ind(B + 0.9, A, equal_var=False, alternative="greater").pvalue
    below = stats.ttest_ind(B - 0.9, A, equal_var=False, alternative="less").pvalue
    assert (found.p_lower, found.p_upper) == (pytest.approx(above), pytest.approx(below))
    assert found.p == max(found.p_lower, found.p_upper)


@pytest.mark.parametrize("margin", [0.3, 0.6, 0.9, 1.2, 2.0])
def test_the_interval_lies_within_the_margin_exactly_where_the_tests_say_so(margin):
    found = equivalence(A, B, amount=margin, error=0.05)
    inside = -margin < found.interval.low and found.interval.high < margin
    assert inside == (found.p < 0.05)
    assert found.interval.level == pytest.approx(0.9)


def test_a_share_is_judged_on_logarithms():
    found = equivalence(A, B, share=0.05)
    logs = equivalence(np.log(A), np.log(B), amount=float(np.log(1.05)))
    assert found.scale == "log ratio"
    assert (found.p, found.limit) == (pytest.approx(logs.p), pytest.approx(logs.limit))


def test_a_difference_as_large_as_the_margin_is_not_equivalent():
    assert equivalence(A, A + 1.0, amount=1.0).p > 0.45
    assert equivalence(A, A + 1.0, amount=1.0).rank_p > 0.3


@pytest.mark.parametrize(
    ("margins", "says"),
    [
        ({}, "takes one margin"),
        ({"amount": 1.0, "share": 0.1}, "takes one margin"),
        ({"amount": 0.0}, "positive"),
        ({"amount": float("inf")}, "positive"),
    ],
)
def test_a_margin_is_one_positive_number(margins, says):
    with pytest.raises(SampleError, match=says):
        equivalence(A, B, **margins)


def test_a_share_takes_positive_readings():
    with pytest.raises(SampleError, match="state an amount"):
        equivalence(A - 20.0, B, share=0.1)


def test_without_a_spread_nothing_is_said():
    found = equivalence([5.0, 5.0], [5.0, 5.0], amount=1.0)
    assert (found.p, found.rank_p, found.interval) == (None, None, None)
    assert (found.scale, found.limit) == ("amount", 1.0)
