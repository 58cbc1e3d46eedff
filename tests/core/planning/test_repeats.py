import json

import numpy as np
import pytest

from haremile.core.comparison.verdict import Verdict, VerdictRule, pair_verdict
from haremile.core.planning.repeats import (
    estimate_time,
    plan_repeats,
    repeats_in,
    smallest_difference,
    two_sample_power,
    two_sample_repeats,
)
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd
from haremile.errors import BadInputError
from helpers import DATA

CASE = json.loads((DATA / "reference-statistics/planning__power_1.json").read_text())


def test_power_and_repeats_agree_with_independently_calculated_ones():
    given, expected = CASE["input"], CASE["expected"]
    found = two_sample_repeats(given["delta"], given["sd"], given["power"], given["alpha"])
    assert found == pytest.approx(expected["n_per_group_two_sample"], rel=1e-6)
    power = two_sample_power(10, given["delta"], given["sd"], given["alpha"])
    assert power == pytest.approx(expected["power_at_n10"], rel=1e-6)


def test_at_the_margin_no_number_of_repeats_settles_it():
    assert plan_repeats(0.4, 0.5, 0.5).repeats is None
    assert plan_repeats(0.4, 0.5, 0.50001).repeats is None


def test_more_contenders_less_distance_and_more_power_cost_repeats():
    base = plan_repeats(0.4, 0.5, 0.8).repeats
    assert plan_repeats(0.4, 0.5, 0.8, contenders=5).repeats > base
    assert plan_repeats(0.4, 0.5, 0.7).repeats > base
    assert plan_repeats(0.4, 0.5, 0.8, power=0.99).repeats > base
    assert plan_repeats(0.4, 0.5, -0.8).repeats == base


def test_inside_the_margin_the_aim_is_level():
    assert plan_repeats(0.4, 0.5, 0.0).aim == "level"
    assert plan_repeats(0.4, 0.5, 0.8).aim == "ahead"


def test_never_fewer_than_the_level_takes():
    assert plan_repeats(0.001, 0.5, 9.0, contenders=5).repeats == 6


@pytest.mark.parametrize("difference", [0.8, 0.0])
def test_the_planned_repeats_reach_the_verdict_as_often_as_promised(difference):
    plan = plan_repeats(0.4, 0.5, difference, power=0.9)
    generator = np.random.default_rng(8)
    wanted = Verdict.BEHIND if plan.aim == "ahead" else Verdict.LEVEL
    reached = 0
    for _ in range(300):
        a = generator.normal(20, 0.4, plan.repeats)
        b = generator.normal(20 + difference, 0.4, plan.repeats)
        reached += (
            pair_verdict(a, b, VerdictRule(Margin(amount=0.5), GoodEnd.LOW)).verdict is wanted
        )
    assert 0.84 < reached / 300 < 0.97


def test_the_smallest_difference_is_the_one_that_takes_these_repeats():
    plan = plan_repeats(0.4, 0.5, 0.8)
    found = smallest_difference(0.4, 0.5, plan.repeats)
    assert found == pytest.approx(0.8, abs=0.02)
    assert smallest_difference(0.4, 0.5, 3) is None


@pytest.mark.parametrize(
    ("words", "says"),
    [
        ({"spread": 0.0}, "spread"),
        ({"margin": -1.0}, "margin"),
        ({"power": 1.0}, "power"),
        ({"contenders": 1}, "two contenders"),
    ],
)
def test_impossible_plans_are_named(words, says):
    asked = {"spread": 0.4, "margin": 0.5, "difference": 0.8, **words}
    with pytest.raises(BadInputError, match=says):
        plan_repeats(**asked)
    asked.pop("difference")
    with pytest.raises(BadInputError, match=says):
        smallest_difference(repeats=20, **asked)


def test_looks_cost_repeats():
    once, thrice = (plan_repeats(0.4, 0.5, 0.8, looks=looks).repeats for looks in (1, 3))
    assert thrice > once
    assert smallest_difference(0.4, 0.5, 40, looks=3) > smallest_difference(0.4, 0.5, 40)
    with pytest.raises(BadInputError, match="one look at least, not 0"):
        plan_repeats(0.4, 0.5, 0.8, looks=0)


def test_hours_hold_whole_blocks():
    assert repeats_in(1.0, 90.0, 4) == 10
    assert repeats_in(0.999, 90.0, 4) == 9
    with pytest.raises(BadInputError, match="run_time must be a positive number, not 0"):
        repeats_in(1.0, 0.0, 4)


def test_time_is_told_from_past_runs_and_a_new_lane_is_like_the_others():
    found = estimate_time({1: [60.0, 62.0, 58.0], 2: [100.0, 104.0, 96.0]}, {1: 5, 2: 5, 3: 5})
    assert found.runs == 15
    assert found.seconds == pytest.approx(5 * 60 + 5 * 100 + 5 * 80)
    assert found.low < found.seconds < found.high
    assert estimate_time({1: []}, {1: 5}) is None
    assert estimate_time({1: [60.0]}, {1: 5}).low is None


def test_the_time_estimate_holds_as_often_as_it_says():
    generator = np.random.default_rng(1)
    inside = 0
    for _ in range(300):
        past, future = generator.normal(60, 6, 12), generator.normal(60, 6, 20)
        found = estimate_time({1: past}, {1: 20})
        inside += found.low <= future.sum() <= found.high
    assert inside / 300 == pytest.approx(0.9, abs=0.05)
