import json

import numpy as np
import pytest

from haremile.core.margin import Margin
from haremile.core.metrics import GoodEnd
from haremile.core.planning import (
    plan_repeats,
    smallest_difference,
    two_sample_power,
    two_sample_repeats,
)
from haremile.core.verdict import Verdict, VerdictRule, pair_verdict
from haremile.errors import BadInputError
from helpers import DATA

CASE = json.loads((DATA / "reference-statistics/planning__power_1.json").read_text())


def test_power_and_repeats_agree_with_independently_reckoned_ones():
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
        ({"spread": 0.0}, "spread"), ({"margin": -1.0}, "margin"), ({"power": 1.0}, "power"),
        ({"contenders": 1}, "two contenders"),
    ],
)  # fmt: skip
def test_impossible_plans_are_named(words, says):
    asked = {"spread": 0.4, "margin": 0.5, "difference": 0.8, **words}
    with pytest.raises(BadInputError, match=says):
        plan_repeats(**asked)
    asked.pop("difference")
    with pytest.raises(BadInputError, match=says):
        smallest_difference(repeats=20, **asked)
