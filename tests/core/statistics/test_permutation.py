"""Rearranged readings."""

import numpy as np
import pytest
from scipy import stats

from haremile.core.statistics import permutation
from haremile.core.statistics.permutation import permutation_test


def row_means(rows):
    return rows.mean(axis=1)


def test_all_arrangements_of_few_readings_are_tried():
    a, b = [1.0, 2.0, 4.0], [3.0, 8.0, 9.0, 11.0]
    found = permutation_test(a, b, row_means)
    expected = stats.permutation_test(
        (np.array(b), np.array(a)), lambda x, y: np.mean(x) - np.mean(y), n_resamples=np.inf
    )
    assert (found.arrangements, found.method) == (35, "all arrangements")
    assert found.observed == pytest.approx(expected.statistic)
    greater = stats.permutation_test(
        (np.array(b), np.array(a)),
        lambda x, y: np.mean(x) - np.mean(y),
        n_resamples=np.inf,
        alternative="greater",
    )
    assert found.p_greater == pytest.approx(greater.pvalue)


def test_the_median_is_tested_unless_another_figure_is_asked_for():
    a, b = [1.0, 2.0, 90.0], [3.0, 4.0, 5.0]
    assert permutation_test(a, b).observed == pytest.approx(2.0)
    assert permutation_test(a, b, row_means).observed == pytest.approx(-27.0)


def test_drawn_arrangements_never_say_nought_and_come_again_with_their_seed(monkeypatch):
    monkeypatch.setattr(permutation, "DRAWS", 500)
    a = np.random.default_rng(9).normal(0.0, 1.0, 20)
    b = a + 9.0
    found = permutation_test(a, b, seed=4)
    assert (found.arrangements, found.method) == (501, "drawn arrangements")
    assert found.p_two_sided == pytest.approx(1 / 501)
    assert found == permutation_test(a, b, seed=4)


def test_alike_readings_are_as_far_as_can_be_from_a_difference():
    found = permutation_test([0.1 + 0.2, 0.3, 0.3], [0.3, 0.3])
    assert found.p_two_sided == found.p_greater == found.p_less == 1.0
