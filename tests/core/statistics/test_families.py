from itertools import combinations

import numpy as np
import pytest
from scipy import stats

from haremile.core.statistics.families import error_of_family, error_of_pair, pairs_of
from haremile.core.statistics.studentised_rank import limit_of, many_statistics
from haremile.errors import SampleError


def test_one_pair_keeps_the_whole_error():
    assert error_of_pair(0.05, 2) == 0.05
    assert error_of_family(0.05, 2) == 0.05


@pytest.mark.parametrize("lanes", [3, 5, 8, 20])
def test_pairs_that_share_lanes_may_err_more_than_their_even_part_but_less_than_the_whole(lanes):
    of_pair = error_of_pair(0.05, lanes)
    assert 0.05 / pairs_of(lanes) < of_pair < 0.05
    assert error_of_family(of_pair, lanes) == pytest.approx(0.05, rel=1e-6)


def test_the_pairs_limit_is_that_of_the_tukey_test_of_many_readings():
    generator = np.random.default_rng(2)
    lanes = generator.normal(size=(4, 500)) + np.array([0.0, 0.02, 0.1, 0.16])[:, None]
    found = stats.tukey_hsd(*lanes)
    se = np.sqrt(lanes.var(axis=1, ddof=1).mean() * 2.0 / 500)
    for i, j in combinations(range(4), 2):
        p = 2.0 * stats.norm.sf(abs(lanes[i].mean() - lanes[j].mean()) / se)
        assert error_of_family(p, 4) == pytest.approx(found.pvalue[i, j], abs=2e-3)


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
