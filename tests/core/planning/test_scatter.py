import numpy as np
import pytest
from scipy import stats

from haremile.core.planning.scatter import TAILS, Scatter, drawn, scatter_of


@pytest.mark.parametrize("tail", TAILS)
def test_what_is_drawn_has_its_mean_spread_and_tail(tail):
    values = drawn(np.random.default_rng(1), tail, (200_000,))
    assert values.mean() == pytest.approx(0.0, abs=0.01)
    assert values.std() == pytest.approx(1.0, abs=0.01)
    third = float(np.mean((values - values.mean()) ** 3))
    assert scatter_of(1.0, third) == Scatter(1.0, tail)
    assert scatter_of(3.0, 27.0 * third) == Scatter(3.0, tail)


def test_ranks_cost_a_twentieth_of_normal_readings_and_gain_with_a_tail():
    costs = [Scatter(1.0, tail).rank_cost for tail in TAILS]
    assert costs[0] == pytest.approx(np.pi / 3)
    assert costs[-1] == pytest.approx(1 / 3)
    assert costs == sorted(costs, reverse=True)
    squared = np.mean(stats.norm.pdf(stats.norm.rvs(size=100_000, random_state=1)))
    assert costs[0] == pytest.approx(1 / (12 * squared**2), rel=0.02)


def test_readings_without_spread_have_no_tail():
    assert scatter_of(0.0, 0.0) == Scatter(0.0)
