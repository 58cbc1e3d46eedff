import numpy as np
import pytest
from scipy import special

from haremile.core.statistics import order_statistics
from haremile.core.statistics.order_statistics import PairwiseDifferences
from haremile.core.statistics.rank_sum import interval_rank
from haremile.core.statistics.studentised_rank import (
    limit_of,
    many_statistics,
    null_statistics,
    studentised_intervals,
    studentised_statistic,
)

NOISE = np.random.default_rng(4).normal(size=40)
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
    assert found.median == middle.mean()


def _half_alike(generator, n):
    return np.where(generator.random(n) < 0.5, 2.0, generator.normal(size=n))


LARGE = {
    "noise": lambda generator, n: generator.normal(size=n),
    "wild": lambda generator, n: generator.standard_cauchy(n),
    "whole steps": lambda generator, n: np.round(generator.normal(size=n), 1),
    "half of them alike": _half_alike,
    "one value": lambda _, n: np.full(n, 2.5),
}


@pytest.mark.parametrize("shape", LARGE)
def test_of_many_readings_any_place_is_that_of_the_whole_matrix(shape):
    generator = np.random.default_rng(8)
    a, b = LARGE[shape](generator, 610), LARGE[shape](generator, 540) + 0.3
    whole = np.sort(np.subtract.outer(b, a), axis=None)
    assert whole.size > order_statistics.DENSE_UP_TO
    found = PairwiseDifferences(a, b)
    ranks = [1, 2, 600, whole.size // 3, whole.size // 2, 170_000, whole.size - 1, whole.size]
    assert [found.lower(rank) for rank in ranks] == [whole[rank - 1] for rank in ranks]
    assert [found.upper(rank) for rank in ranks] == [whole[-rank] for rank in ranks]
    middle = whole.size // 2
    assert found.median == (whole[middle - 1] + whole[middle]) / 2.0
    for shift in (found.median, 0.3, whole[-1]):
        of_b, of_a = found.placements(shift, or_equal=False)
        above = np.subtract.outer(b, a) > shift
        assert sorted(of_b) == sorted(above.mean(axis=1))
        assert sorted(of_a) == sorted(above.mean(axis=0))


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


@pytest.mark.parametrize("level", [0.9, 0.95, 0.998, 0.99995])
@pytest.mark.parametrize(
    ("a", "b"),
    [
        (NOISE[:9], 3.0 * NOISE[9:20]),
        (np.round(NOISE[:12]), np.round(NOISE[12:24])),
        (np.append(NOISE[:8], np.inf), np.append(NOISE[8:15], [np.inf, np.inf])),
        (NOISE[:2], NOISE[2:30]),
    ],
    ids=["unequal spread", "ties", "time-outs", "two against many"],
)
def test_the_interval_holds_the_differences_that_the_test_does_not_refuse(a, b, level):
    found = PairwiseDifferences(a, b)
    ((shift, (at,)),) = studentised_intervals([(a, b)], [level])
    low, high, achieved = at.low, at.high, at.level
    assert shift == found.median
    limit = limit_of(found.n_a, found.n_b, level)

    def is_kept(shift, or_equal):
        statistic, df = studentised_statistic(*found.placements(shift, or_equal))
        chance = found.placements(shift, or_equal)[0].mean()
        is_far = abs(statistic) >= limit.statistic and abs(chance - 0.5) >= limit.away
        return not (is_far and 2.0 * special.stdtr(df, -abs(statistic)) <= 1.0 - level)

    count = found.n_a * found.n_b
    assert low == next(at for at in map(found.lower, range(1, count + 1)) if is_kept(at, False))
    assert high == next(at for at in map(found.upper, range(1, count + 1)) if is_kept(at, True))
    assert achieved == limit.level


def test_a_level_beyond_the_drawn_arrangements_is_that_of_the_rank_sum():
    rank, achieved = interval_rank(20, 20, 0.99995)
    assert limit_of(20, 20, 0.99995).level == achieved > 0.99995
    ((_, (found,)),) = studentised_intervals([(NOISE[:20], NOISE[20:] + 5.0)], [0.99995])
    differences = PairwiseDifferences(NOISE[:20], NOISE[20:] + 5.0)
    assert found.low <= differences.lower(rank)
    assert found.high >= differences.upper(rank)


def test_lanes_that_do_not_vary_have_an_interval_without_width():
    ((_, (found,)),) = studentised_intervals([(np.full(6, 2.0), np.full(5, 3.0))], [0.95])
    assert (found.low, found.high) == (1.0, 1.0)


def test_many_pairs_at_once_have_the_statistic_of_each():
    a, b = NOISE[:21].reshape(3, 7), 1.8 * NOISE[:27].reshape(3, 9)
    many = many_statistics(a, b)
    for row in range(3):
        found = PairwiseDifferences(a[row], b[row])
        one = studentised_statistic(*found.placements(0.0, False))
        assert (many.statistic[row], many.degrees((np.arange(3),))[row]) == pytest.approx(one)


def test_the_statistics_distribution_is_counted_out_where_it_can_be():
    sizes = null_statistics(3, 4)
    assert sizes.size == 35
    assert np.isinf(sizes[-2:]).all()  # the two arrangements without any overlap
    assert null_statistics(30, 30).size == 20_000


def test_without_overlap_the_statistic_is_infinite():
    found = PairwiseDifferences(np.array([1.0, 2.0]), np.array([5.0, 6.0]))
    statistic, _ = studentised_statistic(*found.placements(0.0, False))
    assert statistic == np.inf
