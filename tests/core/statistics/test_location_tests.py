"""Tests of two lanes against an independent library, and what they say where nothing varies."""

import numpy as np
import pytest
from scipy import stats

from haremile.core.statistics.location_tests import (
    hedges_g,
    mann_whitney,
    rank_sum_normal,
    to_grid,
    welch,
)

NOISE = np.random.default_rng(3)
A, B = NOISE.normal(20.0, 1.0, 14), NOISE.normal(20.8, 2.0, 11)


def test_without_ties_the_test_is_the_exact_one():
    found = mann_whitney(A, B)
    expected = stats.mannwhitneyu(B, A, method="exact")
    assert (found.u, found.method) == (expected.statistic, "exact")
    assert found.p == pytest.approx(expected.pvalue)


def test_turned_round_it_says_the_same():
    there, back = mann_whitney(A, B), mann_whitney(B, A)
    assert there.p == pytest.approx(back.p)
    assert there.u + back.u == A.size * B.size


def test_a_run_beyond_its_time_limit_is_the_slowest_whatever_the_limit_was():
    late = np.append(B, np.inf)
    assert mann_whitney(A, late).u == mann_whitney(A, np.append(B, 1e9)).u


def test_with_ties_each_arrangement_of_the_midranks_counts():
    a, b = [1.0, 2.0, 2.0], [2.0, 3.0, 3.0]
    found = mann_whitney(a, b)
    pooled, hits, total = np.array([*a, *b]), 0, 0
    ranks = stats.rankdata(pooled)
    seen = abs(ranks[3:].sum() - 10.5)
    for chosen in np.ndindex(2, 2, 2, 2, 2, 2):
        if sum(chosen) == 3:
            total += 1
            hits += abs(ranks[np.array(chosen) == 1].sum() - 10.5) >= seen - 1e-9
    assert found.p == pytest.approx(hits / total)
    assert found.method == "exact with ties"


def test_one_sided_p_values_are_those_of_the_normal_limit():
    for side in ("greater", "less"):
        expected = stats.mannwhitneyu(
            B, A, method="asymptotic", alternative=side, use_continuity=True
        )
        assert rank_sum_normal(A, B, side) == pytest.approx(expected.pvalue)
    assert rank_sum_normal(np.full(4, 2.0), np.full(5, 2.0), "less") == 1.0


def test_welch_is_that_of_unequal_variances():
    found, expected = welch(A, B), stats.ttest_ind(B, A, equal_var=False)
    limits = expected.confidence_interval(0.95)
    assert found.t == pytest.approx(expected.statistic)
    assert (found.df, found.p) == (pytest.approx(expected.df), pytest.approx(expected.pvalue))
    assert (found.low, found.high) == (pytest.approx(limits.low), pytest.approx(limits.high))


@pytest.mark.parametrize(("a", "b"), [([1.0], [2.0, 3.0]), ([2.0, 2.0], [3.0, 3.0])])
def test_without_a_spread_there_is_a_difference_and_nothing_else(a, b):
    found = welch(a, b)
    assert found.difference == pytest.approx(np.mean(b) - np.mean(a))
    assert (found.t, found.p, found.low, found.high) == (None, None, None, None)


def test_the_standardised_difference_grows_with_it_and_changes_sign_with_the_lanes():
    assert hedges_g(A, B) == pytest.approx(-hedges_g(B, A))
    assert hedges_g(A, A + 2.0) == pytest.approx(2.0 * hedges_g(A, A + 1.0))
    assert hedges_g([1.0], [2.0]) is None
    assert hedges_g([1.0, 1.0], [2.0, 2.0]) is None


def test_steps_of_the_instrument_make_ties_of_what_arithmetic_split():
    values = np.array([0.1 + 0.2, 0.3])
    assert values[0] != values[1]
    assert len(set(to_grid(values, 0.1))) == 1
    assert list(to_grid(values, None)) == list(values)
