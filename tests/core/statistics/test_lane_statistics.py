import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from haremile.core.statistics.lane_statistics import (
    is_first_apart,
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


def test_stalls_lie_beyond_five_margins_and_seven_times_the_lower_spread():
    calm = [10.0, 10.1, 10.2, 10.1, 10.0, 10.2, 10.1]
    assert stalls([*calm, 13.0], margin_width=0.5) == (7,)
    assert stalls([*calm, 13.0], margin_width=1.0) == ()
    assert stalls(calm, margin_width=0.0) == ()
    assert stalls([5.0] * 6 + [9.0], margin_width=0.0) == (), "nothing says what is far"


def test_stalls_do_not_hide_one_another_and_calm_lanes_are_rarely_accused():
    generator = np.random.default_rng(4)
    found = accused = 0
    for _ in range(200):
        boots = generator.normal(20.0, 0.3, 20)
        boots[generator.choice(20, 4, replace=False)] *= 3.0
        found += bool(stalls(boots, margin_width=0.5))
        accused += bool(stalls(20.0 + generator.exponential(0.4, 20), margin_width=0.5))
    assert found == 200
    assert accused <= 20


def test_a_first_reading_apart_is_seen_beside_calm_others():
    calm = [10.0, 10.1, 10.2, 10.1, 10.0]
    assert is_first_apart([11.0, *calm], 0.5)
    assert not is_first_apart([11.0, *calm], 2.0)
    assert not is_first_apart([*calm, 11.0], 0.5)
    assert not is_first_apart([11.0], 0.5)


@pytest.mark.parametrize(
    ("values", "says"),
    [([], "at least one"), ([1.0, float("nan")], "position 1"), ([[1.0]], "shape")],
)
def test_bad_samples_are_named(values, says):
    with pytest.raises(SampleError, match=says):
        summarise_lane(values)
