import numpy as np
import pytest

from haremile.core.statistics.tails import percentile_difference


@pytest.mark.parametrize("shape", ["normal", "lognormal", "stalls"])
def test_the_interval_of_a_90th_percentile_difference_holds(shape):
    generator = np.random.default_rng(5)
    draws = {
        "normal": lambda size: generator.normal(size=size),
        "lognormal": lambda size: generator.lognormal(0.0, 0.8, size),
        "stalls": lambda size: generator.normal(size=size) + 15.0 * (generator.random(size) < 0.2),
    }[shape]
    truth = 2.0 * np.quantile(draws(400_000), 0.9)
    held = 0
    for _ in range(400):
        limits = percentile_difference(draws(60), 3.0 * draws(60), 0.9).interval
        held += limits.low <= truth <= limits.high
    assert held / 400 >= 0.94


def test_it_turns_round_with_the_lanes():
    generator = np.random.default_rng(6)
    a, b = generator.normal(size=80), generator.normal(1.0, 2.0, 80)
    there, back = percentile_difference(a, b, 0.9), percentile_difference(b, a, 0.9)
    assert there.value == pytest.approx(-back.value)
    assert there.interval.low == pytest.approx(-back.interval.high)


def test_there_is_none_below_forty_readings_or_where_they_do_not_reach_the_level():
    lane = np.arange(100.0)
    assert percentile_difference(lane[:39], lane, 0.9) is None
    assert percentile_difference(lane[:40], lane[:40], 0.9) is not None
    assert percentile_difference(lane[:40], lane[:40], 0.9, 0.998) is None


def test_a_few_time_outs_move_the_limits_and_many_leave_none():
    lane = np.arange(100.0)
    late = np.append(lane[:98], [np.inf, np.inf])
    found = percentile_difference(lane, late, 0.9)
    assert found.value == pytest.approx(0.0)
    assert np.isfinite(found.interval.high)
    assert percentile_difference(lane, np.append(lane[:80], [np.inf] * 20), 0.9) is None
