"""Exact distributions against every subset and every sign, written out."""

from itertools import combinations, product

import numpy as np
import pytest

from haremile.core.statistics.exact_sums import signed_sum_shares, subset_sum_shares, two_sided

WEIGHTS = [
    np.array([2.0, 4.0, 6.0, 8.0, 10.0]),
    np.array([3.0, 3.0, 7.0, 7.0, 10.0, 12.0]),
    np.array([5.0, 5.0, 5.0, 5.0]),
]


def shares_of(sums, size):
    counts = np.bincount(np.array(sums, dtype=int), minlength=size)
    return counts / counts.sum()


@pytest.mark.parametrize("weights", WEIGHTS, ids=["no ties", "ties", "all alike"])
@pytest.mark.parametrize("size", [1, 2, 3])
def test_sums_of_subsets_are_those_of_all_subsets(weights, size):
    found = subset_sum_shares(weights, size)
    sums = [sum(chosen) for chosen in combinations(weights, size)]
    assert found == pytest.approx(shares_of(sums, found.size))


@pytest.mark.parametrize("weights", WEIGHTS, ids=["no ties", "ties", "all alike"])
def test_sums_of_those_with_a_plus_are_those_of_all_signs(weights):
    found = signed_sum_shares(weights)
    sums = [
        sum(weight for weight, plus in zip(weights, signs, strict=True) if plus)
        for signs in product((False, True), repeat=weights.size)
    ]
    assert found == pytest.approx(shares_of(sums, found.size))


def test_many_weights_leave_shares_that_add_up():
    shares = subset_sum_shares(2.0 * np.arange(1.0, 61.0), 30)
    assert shares.sum() == pytest.approx(1.0)
    assert (shares >= 0.0).all()
    assert two_sided(shares, int(np.argmax(shares))) == pytest.approx(1.0)


def test_both_sides_count_what_is_as_far_from_the_mean():
    shares = signed_sum_shares(np.array([1.0, 2.0, 3.0]))  # 0 to 6 about 3
    assert two_sided(shares, 6) == two_sided(shares, 0) == pytest.approx(2 / 8)
    assert two_sided(shares, 5) == pytest.approx(4 / 8)
    assert two_sided(shares, 3) == pytest.approx(1.0)
