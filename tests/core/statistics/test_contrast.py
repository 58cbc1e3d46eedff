import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from haremile.core.statistics.contrast import contrast, ratio_estimate, shift_estimate
from haremile.core.statistics.rank_sum import (
    EXACT_UP_TO,
    interval_rank,
    least_repeats,
    rank_sum_cdf,
)

samples = st.lists(st.floats(0.1, 1e4), min_size=3, max_size=25)


@pytest.mark.parametrize(("n_a", "n_b"), [(3, 3), (4, 9), (12, 7), (40, 40)])
def test_the_null_distribution_is_that_of_mann_and_whitney(n_a, n_b):
    cdf = rank_sum_cdf(n_a, n_b)
    assert cdf[-1] == pytest.approx(1.0)
    low = list(range(n_a))  # all of a below all of b, then u pairs the other way round
    high = [n_a + i for i in range(n_b)]
    exact = stats.mannwhitneyu(high, low, alternative="greater", method="exact").pvalue
    assert cdf[0] == pytest.approx(exact)
    assert cdf[(n_a * n_b) // 2 :][0] >= 0.5


def test_three_against_three_give_ninety_percent():
    found = shift_estimate([1, 2, 3], [2, 3, 4])
    assert found.interval.level == pytest.approx(0.9)
    assert (found.interval.low, found.interval.high) == (-1, 3)


def test_least_repeats_for_one_pair_and_for_five_contenders():
    assert least_repeats(0.95) == 4
    assert least_repeats(1 - 0.05 / 10) == 6


def test_above_the_exact_limit_the_normal_one_goes_on_smoothly():
    side = math.isqrt(EXACT_UP_TO)
    exact, _ = interval_rank(side, side, 0.95)
    normal, level = interval_rank(side + 1, side, 0.95)
    assert exact < normal < exact * 1.02
    assert level == pytest.approx(0.95, abs=0.002)


def test_identical_constant_lanes_differ_by_nothing_at_the_achieved_level():
    found = contrast([512.0] * 5, [512.0] * 5)
    assert (found.shift.interval.low, found.shift.interval.high) == (0, 0)
    assert found.probability_b_lower == 0.5
    assert found.ratio.value == 1.0


def test_a_ratio_needs_positive_readings():
    assert ratio_estimate([0.0, 1.0], [1.0, 2.0]) is None


@given(samples, samples)
def test_swapping_mirrors(a, b):
    there, back = contrast(a, b), contrast(b, a)
    assert back.shift.value == pytest.approx(-there.shift.value, abs=1e-9)
    assert back.shift.interval.low == pytest.approx(-there.shift.interval.high, abs=1e-9)
    assert back.ratio.value == pytest.approx(1 / there.ratio.value)
    assert back.cliffs_delta == pytest.approx(-there.cliffs_delta)
    assert back.probability_b_lower == pytest.approx(1 - there.probability_b_lower)


@given(samples, samples, st.floats(0.01, 100))
def test_scaling_scales_the_shift_and_keeps_the_ratio(a, b, factor):
    before = contrast(a, b)
    after = contrast([v * factor for v in a], [v * factor for v in b])
    assert after.shift.value == pytest.approx(before.shift.value * factor, rel=1e-6, abs=1e-6)
    assert after.ratio.value == pytest.approx(before.ratio.value, rel=1e-6)
