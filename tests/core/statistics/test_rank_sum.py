"""The rank-sum distribution against every arrangement, and the ranks that bound an interval."""

from itertools import combinations

import numpy as np
import pytest

from haremile.core.statistics.rank_sum import (
    EXACT_UP_TO,
    interval_rank,
    least_repeats,
    rank_sum_cdf,
)


@pytest.mark.parametrize(("n_a", "n_b"), [(1, 1), (2, 3), (4, 4), (5, 3)])
def test_the_distribution_is_that_of_all_arrangements(n_a, n_b):
    places = range(n_a + n_b)
    counts = np.zeros(n_a * n_b + 1)
    for of_b in combinations(places, n_b):
        of_a = [place for place in places if place not in of_b]
        counts[sum(a < b for a in of_a for b in of_b)] += 1
    assert rank_sum_cdf(n_a, n_b) == pytest.approx(np.cumsum(counts) / counts.sum())


def test_it_does_not_matter_which_lane_comes_first():
    assert list(rank_sum_cdf(7, 12)) == list(rank_sum_cdf(12, 7))


@pytest.mark.parametrize("level", [0.9, 0.95, 0.99])
@pytest.mark.parametrize(("n_a", "n_b"), [(5, 5), (12, 9), (40, 30)])
def test_an_interval_reaches_its_level_and_no_narrower_one_does(n_a, n_b, level):
    rank, achieved = interval_rank(n_a, n_b, level)
    cdf = rank_sum_cdf(n_a, n_b)
    assert achieved >= level
    assert achieved == pytest.approx(1.0 - 2.0 * cdf[rank - 1])
    assert 1.0 - 2.0 * cdf[rank] < level


def test_too_few_readings_give_the_widest_interval_and_say_its_level():
    assert interval_rank(3, 3, 0.95) == (1, pytest.approx(0.9))
    assert interval_rank(1, 1, 0.95) == (1, 0.0)


def test_the_normal_limit_continues_what_is_counted_out():
    n = int(EXACT_UP_TO**0.5)
    counted, _ = interval_rank(n, n, 0.95)
    near, level = interval_rank(n, n + 1, 0.95)
    assert near / (n * (n + 1)) == pytest.approx(counted / n**2, rel=2e-3)
    assert level == pytest.approx(0.95, abs=1e-3)


@pytest.mark.parametrize(("level", "n"), [(0.9, 3), (0.95, 4), (0.99, 5), (0.999, 7)])
def test_so_many_repeats_can_reach_a_level_and_one_fewer_cannot(level, n):
    assert least_repeats(level) == n
    assert interval_rank(n, n, level)[1] >= level
    assert interval_rank(n - 1, n - 1, level)[1] < level
