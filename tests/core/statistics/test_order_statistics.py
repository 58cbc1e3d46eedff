import numpy as np
import pytest

from haremile.core.statistics import order_statistics
from haremile.core.statistics.order_statistics import PairwiseDifferences
from haremile.core.statistics.studentised_rank import (
    null_statistics,
    spreads_differ,
    studentised_interval,
    studentised_statistic,
)

SIZES = [(1, 1), (3, 7), (20, 13), (31, 30)]


def lanes(n_a, n_b, late=0):
    generator = np.random.default_rng([n_a, n_b, late])
    a, b = generator.integers(0, 40, n_a) / 4, generator.integers(3, 50, n_b) / 4
    return a.astype(float), np.concatenate([b, np.full(late, np.inf)])


@pytest.mark.parametrize(("n_a", "n_b"), SIZES)
@pytest.mark.parametrize("late", [0, 2])
def test_selected_differences_are_those_of_the_whole_matrix(monkeypatch, n_a, n_b, late):
    a, b = lanes(n_a, n_b, late)
    whole = np.sort(np.subtract.outer(b, a), axis=None)
    monkeypatch.setattr(order_statistics, "DENSE_UP_TO", -1)
    monkeypatch.setattr(order_statistics, "GATHER_UP_TO", 5)
    found = PairwiseDifferences(a, b)
    ranks = range(1, whole.size + 1)
    assert [found.lower(rank) for rank in ranks] == list(whole)
    assert [found.upper(rank) for rank in ranks] == list(whole[::-1])
    middle = whole[(whole.size - 1) // 2 : whole.size // 2 + 1]
    assert found.median() == middle.mean()


@pytest.mark.parametrize("or_equal", [True, False])
def test_placements_count_alike_with_and_without_the_matrix(monkeypatch, or_equal):
    a, b = lanes(20, 13, 2)
    dense = PairwiseDifferences(a, b)
    monkeypatch.setattr(order_statistics, "DENSE_UP_TO", -1)
    lean = PairwiseDifferences(a, b)
    for shift in (-3.0, 0.0, 0.25, 1.0, 9.0):
        for there, here in zip(
            dense.placements(shift, or_equal), lean.placements(shift, or_equal), strict=True
        ):
            assert list(there) == list(here)


def test_two_time_outs_against_one_another_only_widen():
    a, b = np.array([1.0, 2.0, np.inf]), np.array([5.0, 6.0, np.inf])
    found = PairwiseDifferences(a, b)
    assert found.lower(1) == found.lower(2) == -np.inf
    assert found.upper(1) == found.upper(2) == np.inf


def test_a_wide_lane_of_few_calls_for_the_studentised_interval():
    generator = np.random.default_rng(4)
    calm, wild = generator.normal(size=30), generator.normal(0, 5, 10)
    assert spreads_differ(calm, wild)
    assert not spreads_differ(calm, calm * 1.9)
    low, high, level = studentised_interval(PairwiseDifferences(calm, wild), 0.95)
    assert level >= 0.95
    assert low < 0.0 < high


def test_one_reading_far_out_is_no_unequal_spread():
    calm = np.array([10.0, 10.2, 10.1, 9.9, 10.3, 9.8, 10.0, 10.1])
    assert not spreads_differ(calm, np.append(calm[:-1], 25.0))


def test_the_statistics_distribution_is_counted_out_where_it_can_be():
    sizes = null_statistics(3, 4)
    assert sizes.size == 35
    assert np.isinf(sizes[-2:]).all()  # the two arrangements without any overlap
    assert null_statistics(30, 30).size == 20_000


def test_without_overlap_the_statistic_is_infinite():
    found = PairwiseDifferences(np.array([1.0, 2.0]), np.array([5.0, 6.0]))
    statistic, _ = studentised_statistic(*found.placements(0.0, False))
    assert statistic == np.inf
