from itertools import combinations

import numpy as np
import pytest
from scipy import special, stats

from haremile.core.statistics.families import error_of_pair
from haremile.core.statistics.studentised_rank import limit_of, many_statistics
from haremile.errors import SampleError


def test_one_pair_keeps_the_whole_error():
    assert error_of_pair(0.05, 2) == 0.05


@pytest.mark.parametrize("lanes", [3, 5, 8, 20])
def test_pairs_that_share_lanes_may_err_more_than_their_even_part_but_less_than_the_whole(lanes):
    of_pair = error_of_pair(0.05, lanes)
    assert 0.05 / (lanes * (lanes - 1) / 2) < of_pair < 0.05


def test_the_pairs_limit_is_that_of_the_tukey_test_of_many_readings():
    found = stats.tukey_hsd(*np.random.default_rng(2).normal(size=(4, 2000)))
    reach = -special.ndtri(error_of_pair(0.05, 4) / 2.0)
    limits = found.confidence_interval(0.95)
    se = (limits.high[0, 1] - limits.low[0, 1]) / 2.0 / reach
    assert se == pytest.approx((2.0 / 2000) ** 0.5, rel=0.03)


@pytest.mark.parametrize("n", [7, 12])
def test_a_family_of_small_lanes_errs_as_seldom_as_promised(n):
    generator = np.random.default_rng(n)
    draws, lanes = 2000, 6
    drawn = generator.lognormal(size=(lanes, draws, n))
    limit = limit_of(n, n, 1.0 - error_of_pair(0.05, lanes))
    errs = np.zeros(draws, bool)
    for i, j in combinations(range(lanes), 2):
        errs |= limit.refuses(many_statistics(drawn[i], drawn[j]))
    assert 0.02 < errs.mean() < 0.06


def test_a_family_takes_two_lanes():
    with pytest.raises(SampleError, match="two lanes, not 1"):
        error_of_pair(0.05, 1)
