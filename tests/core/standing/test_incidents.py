"""Rates of incidents, with exact intervals."""

import pytest

from haremile.core.standing.incidents import incident_rate, rate_places
from haremile.errors import BadInputError


@pytest.mark.parametrize(
    ("count", "low", "high"),
    [(0, 0.0, 3.689), (1, 0.0253, 5.572), (3, 0.619, 8.767), (10, 4.795, 18.390)],
)
def test_intervals_are_those_of_the_printed_tables(count, low, high):
    found = incident_rate(count, 100.0)
    assert found.rate == count
    assert (found.low, found.high) == pytest.approx((low, high), abs=1e-3)


def test_a_rate_is_per_hundred_hours():
    assert incident_rate(5, 250.0).rate == pytest.approx(2.0)


@pytest.mark.parametrize(("count", "hours"), [(1, 0.0), (1, -5.0), (1, 1e9), (-1, 5.0)])
def test_what_is_no_time_in_use_is_refused(count, hours):
    with pytest.raises(BadInputError):
        incident_rate(count, hours)


def test_places_are_decided_only_where_counts_are_far_apart():
    calm, wild, unknown = incident_rate(2, 400.0), incident_rate(40, 400.0), incident_rate(1, 20.0)
    found = rate_places([calm, wild, unknown])
    assert [(one.first, one.last) for one in found] == [(1, 2), (2, 3), (1, 3)]
    assert [(one.first, one.last) for one in rate_places([incident_rate(0, 5.0)] * 2)] == [
        (1, 2)
    ] * 2
