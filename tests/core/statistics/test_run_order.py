"""A lane in run order: trends, first runs, what lies far out."""

import numpy as np
import pytest
from scipy import stats

from haremile.core.statistics.run_order import (
    diagnose_sequence,
    far_out,
    first_run,
    lag1_autocorrelation,
    modified_z,
    trend,
)

LONG = np.random.default_rng(21).normal(size=200)
LANE = 20.0 + LONG[:30]


def test_the_trend_is_kendalls_over_the_run_order():
    drifting = np.round(LANE + 0.1 * np.arange(30), 1)
    found, expected = trend(drifting), stats.kendalltau(np.arange(30), drifting)
    assert found.tau == pytest.approx(expected.statistic)
    assert found.p == pytest.approx(expected.pvalue, abs=0.01)
    assert found.slope_per_run == pytest.approx(stats.theilslopes(drifting, np.arange(30)).slope)


def test_turning_the_order_round_turns_the_trend():
    there, back = trend(LANE), trend(LANE[::-1])
    assert (there.s, there.slope_per_run) == (-back.s, pytest.approx(-back.slope_per_run))
    assert there.p == back.p


def test_two_readings_have_no_trend_and_a_constant_lane_no_chance_of_one():
    assert trend([1.0, 2.0]) is None
    assert (trend([4.0] * 5).tau, trend([4.0] * 5).p) == (None, None)


def test_far_out_is_told_by_place_and_never_dropped():
    values = np.append(LANE, 60.0)
    assert far_out(values) == (30,)
    assert modified_z(values).size == 31


def test_a_lane_of_mostly_one_value_still_has_a_spread():
    values = [5.0] * 9 + [9.0]
    assert far_out(values) == (9,)
    assert list(modified_z([5.0] * 4)) == [0.0] * 4


def test_a_slow_first_run_is_told_from_the_rest_alone():
    found = first_run(np.insert(LANE, 0, 40.0))
    assert found.is_unlike
    assert found.rest_median == pytest.approx(np.median(LANE))
    assert not first_run(LANE).is_unlike
    assert first_run([1.0, 2.0, 3.0]) is None


def test_a_first_run_is_unlike_others_that_do_not_vary_as_soon_as_it_differs():
    assert first_run([5.1, 5.0, 5.0, 5.0]).is_unlike
    assert not first_run([5.0, 5.0, 5.0, 5.0]).is_unlike


def test_neighbours_that_resemble_one_another_are_seen():
    assert lag1_autocorrelation(np.cumsum(LONG)) > 0.8
    assert abs(lag1_autocorrelation(LONG)) < 0.2
    assert lag1_autocorrelation([2.0, 2.0, 2.0]) is None


def test_short_lanes_say_that_they_can_tell_little():
    assert diagnose_sequence(LANE[:12]).has_little_power
    assert not diagnose_sequence(LANE).has_little_power
    lone = diagnose_sequence([3.0])
    assert (lone.n, lone.lag1, lone.trend, lone.shapiro_p) == (1, None, None, None)


def test_the_test_of_normality_knows_no_unit():
    plain, tiny = diagnose_sequence(LANE), diagnose_sequence(LANE * 1e-21)
    assert tiny.shapiro_w == pytest.approx(plain.shapiro_w)
