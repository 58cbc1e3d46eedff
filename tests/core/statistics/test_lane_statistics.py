import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from haremile.core.statistics.lane_statistics import (
    median_interval,
    stalls,
    summarise_lane,
    widest_median_interval,
)
from haremile.errors import SampleError

finite = st.floats(-1e6, 1e6, allow_nan=False)


def test_below_six_readings_there_is_no_95_percent_interval():
    assert median_interval([1, 2, 3, 4, 5]) is None
    assert median_interval([1, 2, 3, 4, 5, 6]).level == pytest.approx(1 - 2 / 64)
    assert widest_median_interval([1, 2, 3, 4, 5]).level == pytest.approx(0.9375)


def test_a_large_offset_does_not_cancel_the_spread():
    small = np.array([1e-6, 2e-6, 4e-6, 8e-6])
    assert summarise_lane(small + 1e9).sd == pytest.approx(np.std(small, ddof=1), rel=0.05)


def test_one_reading_has_no_spread():
    found = summarise_lane([4.0])
    assert found.sd is None
    assert found.median == 4.0


def test_resolution_widens_by_half_a_step_on_each_side():
    plain, wide = summarise_lane(range(10)), summarise_lane(range(10), resolution=0.5)
    assert wide.median_interval.low == plain.median_interval.low - 0.25
    assert wide.median_interval.high == plain.median_interval.high + 0.25


@given(st.lists(finite, min_size=6, max_size=60), finite)
def test_shifting_the_readings_shifts_the_interval(values, by):
    before, after = summarise_lane(values), summarise_lane([v + by for v in values])
    assert after.median == pytest.approx(before.median + by, abs=1e-6)
    assert after.median_interval.low == pytest.approx(before.median_interval.low + by, abs=1e-6)
    assert after.median_interval.low <= after.median <= after.median_interval.high


def test_stalls_lie_beyond_the_outer_fence_and_the_margin():
    calm = [10.0, 10.1, 10.2, 10.1, 10.0, 10.2, 10.1]
    assert stalls([*calm, 13.0], least_excess=0.5) == (7,)
    assert stalls([*calm, 13.0], least_excess=5.0) == ()
    assert stalls(calm, least_excess=0.0) == ()


@pytest.mark.parametrize(
    ("values", "says"),
    [([], "at least one"), ([1.0, float("nan")], "position 1"), ([[1.0]], "shape")],
)
def test_bad_samples_are_named(values, says):
    with pytest.raises(SampleError, match=says):
        summarise_lane(values)
