"""Pairs: the signed-rank test, the pseudo-median and its interval."""

import numpy as np
import pytest
from scipy import stats

from haremile.core.statistics.paired import (
    EXACT_UP_TO,
    least_pairs,
    paired_contrast,
    paired_differences,
    pseudo_median,
    signed_rank,
)

NOISE = np.random.default_rng(6)
A = NOISE.normal(20.0, 3.0, 15)
B = A + NOISE.normal(0.8, 0.7, 15)


def test_the_test_is_the_exact_signed_rank_test():
    found = signed_rank(B - A)
    expected = stats.wilcoxon(B - A, method="exact")
    assert found.p == pytest.approx(expected.pvalue)
    assert found.method == "exact"


def test_many_differences_take_the_normal_limit():
    differences = np.random.default_rng(7).normal(0.2, 1.0, EXACT_UP_TO + 20)
    found = signed_rank(differences)
    expected = stats.wilcoxon(differences, method="asymptotic", correction=True)
    assert found.method == "normal"
    assert found.p == pytest.approx(expected.pvalue)


def test_pairs_without_a_difference_are_dropped_and_counted():
    found = signed_rank([0.0, 0.0, 1.0, 2.0, -3.0])
    assert found.n_used == 3
    assert signed_rank([0.0, 0.0]).p is None


def test_the_pseudo_median_is_the_median_of_all_averages_of_two():
    differences = np.array([1.0, 4.0, 9.0, 2.0])
    averages = [
        (first + second) / 2.0
        for place, first in enumerate(differences)
        for second in differences[place:]
    ]
    assert pseudo_median(differences).value == pytest.approx(np.median(averages))


@pytest.mark.parametrize("level", [0.9, 0.95, 0.99])
def test_the_interval_holds_what_the_test_does_not_refuse(level):
    differences = B - A
    found = pseudo_median(differences, level).interval
    assert found.level >= level
    step = 1e-6 * found.width
    for inside in (found.low + step, found.high - step):
        assert signed_rank(differences - inside).p > 1.0 - level
    for outside in (found.low - step, found.high + step):
        assert signed_rank(differences - outside).p <= 1.0 - level


def test_what_blocks_share_goes_out_of_a_paired_contrast():
    moved = np.random.default_rng(8).normal(0.0, 50.0, A.size)
    plain, drifting = paired_contrast(A, B), paired_contrast(A + moved, B + moved)
    assert drifting.shift.value == pytest.approx(plain.shift.value, abs=1e-6)
    assert drifting.shift.interval.width == pytest.approx(plain.shift.interval.width, abs=1e-6)


def test_a_ratio_is_told_of_positive_readings_alone():
    found = paired_contrast(A, 1.1 * A)
    assert found.ratio.value == pytest.approx(1.1)
    assert paired_contrast(A - 20.0, B).ratio is None


def test_the_instruments_step_widens_by_half_on_each_side():
    plain, stepped = paired_contrast(A, B), paired_contrast(A, B, resolution=0.2)
    assert stepped.shift.interval.width == pytest.approx(plain.shift.interval.width + 0.2)
    assert stepped.shift.value == plain.shift.value


def test_differences_that_arithmetic_split_are_ties_again():
    found = paired_differences([10.1, 10.2, 10.3], [10.4, 10.5, 10.6])
    assert len(set(found)) == 1
    assert list(paired_differences([1.0, 2.0], [1.24, 2.9], resolution=0.5)) == [0.0, 1.0]


@pytest.mark.parametrize(("level", "pairs"), [(0.9, 5), (0.95, 6), (0.975, 7), (0.99, 8)])
def test_so_many_pairs_can_reach_a_level(level, pairs):
    assert least_pairs(level) == pairs
    assert pseudo_median(np.arange(float(pairs)), level).interval.level >= level
    assert pseudo_median(np.arange(pairs - 1.0), level).interval.level < level
