"""Lanes of thousands of readings: what is selected, counted or binned is what is written out."""

import numpy as np
import pytest
from scipy import stats

from haremile.core.statistics import order_statistics, paired, run_order, studentised_rank
from haremile.core.statistics.contrast import shift_estimate
from haremile.core.statistics.diagnostic_power import diagnostic_power
from haremile.core.statistics.modality import mode_count, two_modes
from haremile.core.statistics.order_statistics import PairwiseDifferences, walsh_averages
from haremile.core.statistics.paired import pseudo_median
from haremile.core.statistics.resampling import quantile_interval
from haremile.core.statistics.run_order import trend


def readings(n, step=None, seed=3):
    drawn = np.random.default_rng(seed).lognormal(2.0, 0.4, n)
    return drawn if step is None else np.round(drawn / step) * step


@pytest.mark.parametrize("step", [None, 0.5, 20.0], ids=["as they are", "rounded", "all alike"])
def test_selected_averages_are_those_that_are_written_out(monkeypatch, step):
    values = readings(400, step)
    count = values.size * (values.size + 1) // 2
    places = [0, 1, 777, count // 2, count - 1]
    written = walsh_averages(values, places)
    monkeypatch.setattr(order_statistics, "DENSE_UP_TO", 10)
    monkeypatch.setattr(order_statistics, "GATHER_UP_TO", 50)
    assert walsh_averages(values, places) == pytest.approx(written)


def test_selecting_ends_where_two_values_share_the_place(monkeypatch):
    a, b = np.repeat([0.0, 1.0], 300), np.zeros(600)
    written = PairwiseDifferences(a, b)
    monkeypatch.setattr(order_statistics, "DENSE_UP_TO", 10)
    monkeypatch.setattr(order_statistics, "GATHER_UP_TO", 50)
    selected = PairwiseDifferences(a, b)
    for rank in (1, 179_999, 180_000, 180_001, 360_000):
        assert selected.lower(rank) == written.lower(rank)


def test_the_limits_rank_of_many_differences_is_that_which_is_counted_out(monkeypatch):
    values = readings(250)
    counted = pseudo_median(values)
    monkeypatch.setattr(paired, "COUNTED_UP_TO", 10)
    paired._walsh_rank.cache_clear()
    near = pseudo_median(values)
    paired._walsh_rank.cache_clear()
    assert near.value == counted.value
    assert near.interval.low == pytest.approx(counted.interval.low, rel=1e-3)
    assert near.interval.level == pytest.approx(counted.interval.level, abs=1e-3)


@pytest.mark.parametrize("step", [None, 0.5, 20.0], ids=["as they are", "rounded", "all alike"])
def test_a_long_lanes_trend_is_that_of_all_its_pairs(monkeypatch, step):
    values = readings(700, step) + (0.0 if step == 20.0 else 0.002) * np.arange(700)
    written = trend(values)
    monkeypatch.setattr(run_order, "DENSE_UP_TO", 10)
    counted = trend(values)
    assert counted.s == written.s
    assert counted.tau == pytest.approx(written.tau) if written.tau else counted.tau is written.tau
    assert counted.slope_per_run == pytest.approx(written.slope_per_run, rel=1e-3, abs=1e-12)


def test_large_lanes_of_unlike_spread_have_the_interval_of_the_turned_test(monkeypatch):
    a, b = readings(300), 3.0 * readings(260, seed=4)
    turned = shift_estimate(a, b).interval
    monkeypatch.setattr(order_statistics, "DENSE_UP_TO", 10)
    monkeypatch.setattr(studentised_rank, "DENSE_UP_TO", 10)
    ranked = shift_estimate(a, b).interval
    assert ranked.low == pytest.approx(turned.low, abs=0.05 * turned.width)
    assert ranked.high == pytest.approx(turned.high, abs=0.05 * turned.width)


def test_the_90th_percentile_has_order_statistics_from_36_readings_on():
    assert quantile_interval(readings(35), 0.9).method == "BCa"
    values = np.sort(readings(40))
    found = quantile_interval(values, 0.9)
    assert found.method == "order statistics"
    low = np.searchsorted(values, found.interval.low) + 1
    high = np.searchsorted(values, found.interval.high) + 1
    inside = stats.binom(40, 0.9)
    assert inside.cdf(low - 1) <= 0.025 < inside.cdf(low)
    assert inside.sf(high - 1) <= 0.025 < inside.sf(high - 2)
    assert found.interval.level == pytest.approx(inside.cdf(high - 1) - inside.cdf(low - 1))


def test_the_interval_of_the_90th_percentile_covers_as_often_as_it_says():
    generator = np.random.default_rng(5)
    truth, covered = stats.expon.ppf(0.9), 0
    for lane in generator.exponential(size=(2000, 60)):
        found = quantile_interval(lane, 0.9).interval
        covered += found.low <= truth <= found.high
    assert 0.95 <= covered / 2000 <= 0.985


def test_humps_of_thousands_of_readings_are_told_and_one_hump_is_not_two():
    generator = np.random.default_rng(6)
    one = generator.normal(size=4000)
    two = one + np.where(generator.random(4000) < 0.3, 6.0, 0.0)
    assert mode_count(one) == 1
    assert mode_count(two) == 2
    assert two_modes(two) == pytest.approx((0.0, 6.0), abs=0.2)


def test_the_power_of_long_lanes_goes_on_from_that_of_simulated_ones():
    assert diagnostic_power(200).drift == pytest.approx(diagnostic_power(201).drift, abs=0.01)
    assert diagnostic_power(200).first_run == pytest.approx(
        diagnostic_power(201).first_run, abs=0.03
    )
