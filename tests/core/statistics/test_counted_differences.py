"""Counts by table against the whole matrix of differences."""

import numpy as np
import pytest

from haremile.core.statistics import large_lanes
from haremile.core.statistics.counted_differences import CountedLane, DifferencesFromOne
from haremile.core.statistics.large_lanes import intervals_of_large, one_by_one
from haremile.core.statistics.order_statistics import PairwiseDifferences

SIZES = (520, 700, 613)
LEVELS = (0.95, 0.9998)
SHAPES = {
    "noise": lambda generator, n: generator.normal(size=n),
    "skewed": lambda generator, n: generator.lognormal(0.0, 0.8, n),
    "wild": lambda generator, n: generator.standard_cauchy(n),
    "some far away": lambda generator, n: np.append(generator.normal(size=n - 2), [1e6, 1e12]),
}


def lanes_of(draw, sizes=SIZES, seed=5):
    generator = np.random.default_rng(seed)
    return [draw(generator, n) + place for place, n in enumerate(sizes)]


def all_pairs(lanes):
    return [(a, b) for place, a in enumerate(lanes) for b in lanes[place + 1 :]]


@pytest.mark.parametrize("shape", SHAPES)
def test_so_many_differences_lie_below_the_value_as_were_asked_for(shape):
    a, *others = lanes_of(SHAPES[shape])
    found = DifferencesFromOne(CountedLane(a), [CountedLane(b) for b in others])
    for share in (0.4, 0.5, 0.58):
        values = found.at(share * found.sizes)
        for b, value in zip(others, values, strict=True):
            below = (np.subtract.outer(b, a) < value).mean()
            assert below == pytest.approx(share, abs=2e-4)


@pytest.mark.parametrize("shape", SHAPES)
def test_placements_have_the_mean_and_the_squares_of_those_of_the_whole_matrix(shape):
    a, *others = lanes_of(SHAPES[shape])
    found = DifferencesFromOne(CountedLane(a), [CountedLane(b) for b in others])
    shifts = np.array([0.8, 2.2])
    chance, squares_a, squares_b = found.placements(shifts)
    for place, b in enumerate(others):
        of_b, of_a = PairwiseDifferences(a, b).placements(float(shifts[place]), or_equal=False)
        assert chance[place] == pytest.approx(of_b.mean(), abs=3e-4)
        assert squares_a[place] == pytest.approx((of_a**2).sum(), rel=1e-3)
        assert squares_b[place] == pytest.approx((of_b**2).sum(), rel=1e-3)


@pytest.mark.parametrize("shape", SHAPES)
def test_intervals_of_many_large_pairs_are_those_of_each_to_a_thousandth_of_their_width(shape):
    pairs = all_pairs(lanes_of(SHAPES[shape], (520, 700, 613, 900, 560)))
    assert len(pairs) >= large_lanes.COUNTED_FROM
    counted = intervals_of_large(pairs, LEVELS)
    for pair, (shift, intervals) in zip(pairs, counted, strict=True):
        exact, limits = one_by_one(PairwiseDifferences(*pair), LEVELS)
        for found, limit in zip(intervals, limits, strict=True):
            near = 2e-3 * limit.width
            assert shift == pytest.approx(exact, abs=near)
            assert found.low == pytest.approx(limit.low, abs=near)
            assert found.high == pytest.approx(limit.high, abs=near)
            assert found.level == limit.level


@pytest.mark.parametrize(
    "draw",
    [
        lambda generator, n: np.round(generator.normal(size=n), 1),
        lambda generator, n: np.where(generator.random(n) < 0.5, 2.0, generator.normal(size=n)),
        lambda generator, n: np.append(generator.normal(size=n - 3), np.full(3, np.inf)),
        lambda _, n: np.full(n, 4.0),
    ],
    ids=["whole steps", "half of them alike", "time-outs", "one value"],
)
def test_what_cannot_be_counted_is_found_exactly(draw):
    pairs = all_pairs(lanes_of(draw, (520, 700, 613, 900, 560)))
    found = intervals_of_large(pairs, LEVELS)
    assert found == [one_by_one(PairwiseDifferences(*pair), LEVELS) for pair in pairs]


def test_a_lane_that_does_not_vary_has_no_table():
    assert not CountedLane(np.full(600, 3.0)).is_wide
    assert not CountedLane(np.append(np.full(600, 3.0), 9.0)).is_wide
    assert CountedLane(np.arange(600.0)).is_wide
