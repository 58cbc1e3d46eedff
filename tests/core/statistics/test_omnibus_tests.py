"""Several lanes at once, against an independent library."""

import numpy as np
import pytest
from scipy import stats

from haremile.core.statistics.omnibus_tests import friedman, kruskal_wallis
from haremile.errors import SampleError

NOISE = np.random.default_rng(15)
LANES = [np.round(NOISE.normal(20.0 + place, 2.0, 9 + place), 0) for place in range(4)]
BLOCKS = np.round(NOISE.normal(20.0, 1.0, (8, 3)) + np.array([0.0, 0.5, 1.5]), 1)


def test_lanes_are_compared_with_ties_allowed_for():
    found, expected = kruskal_wallis(LANES), stats.kruskal(*LANES)
    assert found.statistic == pytest.approx(expected.statistic)
    assert (found.p, found.df) == (pytest.approx(expected.pvalue), 3)
    assert 0.0 < found.effect < 1.0


def test_blocks_are_compared_row_by_row():
    found, expected = friedman(BLOCKS), stats.friedmanchisquare(*BLOCKS.T)
    assert found.statistic == pytest.approx(expected.statistic)
    assert (found.p, found.df) == (pytest.approx(expected.pvalue), 2)


def test_what_a_block_shares_does_not_count():
    moved = BLOCKS + np.arange(8.0)[:, None] * 100.0
    assert friedman(np.round(moved, 1)).statistic == pytest.approx(friedman(BLOCKS).statistic)


def test_full_agreement_of_all_blocks_is_one():
    assert friedman([[1.0, 2.0, 3.0]] * 5).effect == pytest.approx(1.0)


def test_a_time_out_is_the_last_in_the_order():
    late = [LANES[0], np.append(LANES[1], np.inf)]
    far = [LANES[0], np.append(LANES[1], 1e6)]
    assert kruskal_wallis(late).statistic == kruskal_wallis(far).statistic


def test_nothing_is_said_where_all_readings_are_equal():
    assert kruskal_wallis([[3.0, 3.0], [3.0]]).p is None
    assert friedman([[1.0, 1.0], [2.0, 2.0]]).p is None


def test_one_lane_or_no_table_is_refused():
    with pytest.raises(SampleError, match="two lanes, not 1"):
        kruskal_wallis([[1.0, 2.0]])
    with pytest.raises(SampleError, match="two or more columns"):
        friedman([[1.0], [2.0]])
