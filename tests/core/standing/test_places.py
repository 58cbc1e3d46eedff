"""Simultaneous quantiles and places."""

import numpy as np
import pytest
from scipy import stats

from haremile.core.standing.places import are_ahead, places, simultaneous_quantiles


def test_two_systems_need_no_more_than_their_own_quantile() -> None:
    found = simultaneous_quantiles(np.diag([0.3, 0.5]), (None, 9.0), 0.95)
    assert found == pytest.approx([stats.norm.ppf(0.975), stats.t.ppf(0.975, 9)], rel=0.03)


def test_many_alike_need_the_studentised_range() -> None:
    (found,) = simultaneous_quantiles(np.eye(6), (20.0,), 0.95)
    assert found == pytest.approx(stats.studentized_range.ppf(0.95, 6, 20) / np.sqrt(2.0), rel=0.02)


def test_a_pair_that_may_not_be_read_leaves_both_places_open() -> None:
    effects, reach = np.array([0.0, 1.0, 2.0]), np.full((3, 3), 0.5)
    readable = np.ones((3, 3), dtype=bool)
    readable[0, 2] = readable[2, 0] = False
    found = places(are_ahead(effects, reach, readable))
    assert [(one.first, one.last) for one in found] == [(1, 2), (2, 2), (2, 3)]
