import math

import numpy as np
import pytest

from haremile.core.standing.total import (
    Ends,
    Figure,
    Recipe,
    stored_reference,
    totals,
    totals_of_figures,
)
from haremile.core.wording.total import total_sentence
from haremile.errors import BadInputError

MIB = 2.0**20


def readings(boot, memory, rate=None):
    ripple = np.arange(9) / 100
    found = {"boot.total": boot + ripple, "memory.used": (memory + ripple) * MIB}
    return found if rate is None else {**found, "rate.mem_read": rate + ripple}


SYSTEMS = {
    "Varrow 12 Thistlow": readings(20, 500),
    "Quillfern 8 Tarnwick": readings(10, 600),
    "Marlstone 26.1 Mossgate": readings(30, 300),
}
RECIPE = Recipe({"boot.total": 2.0, "memory.used": 1.0}, {})


def calculated(recipe=RECIPE, systems=SYSTEMS, name="Varrow 12 Thistlow"):
    return totals(recipe, stored_reference(recipe, systems[name], name), systems, resamples=500)


def test_the_reference_is_a_hundred_and_more_is_better():
    found = calculated()
    scores = {one.system: one.total for one in found.systems}
    assert scores["Varrow 12 Thistlow"] == pytest.approx(100)
    expected = 100 * ((20.04 / 10.04) ** 2 * 500.04 / 600.04) ** (1 / 3)
    assert scores["Quillfern 8 Tarnwick"] == pytest.approx(expected)
    assert found.leader == "Quillfern 8 Tarnwick"
    one = found.systems[0]
    assert one.interval.interval.low < one.total < one.interval.interval.high


def test_taking_a_system_out_turns_no_others():
    fewer = {name: own for name, own in SYSTEMS.items() if not name.startswith("Marlstone")}
    before = {one.system: one.total for one in calculated().systems}
    for one in calculated(systems=fewer).systems:
        assert one.total == pytest.approx(before[one.system])


def test_the_weights_that_turn_the_leader_do_turn_it():
    (turn,) = [turn for turn in calculated().turns if turn.metric == "memory.used"]
    assert (turn.side, turn.leader) == ("above", "Marlstone 26.1 Mossgate")
    for factor, leader in ((0.99, "Quillfern 8 Tarnwick"), (1.01, turn.leader)):
        weights = {"boot.total": 2.0, "memory.used": turn.weight * factor}
        assert calculated(Recipe(weights, {})).leader == leader


def test_where_more_is_better_the_ratio_is_turned():
    systems = {"A": readings(10, 500, 100.0), "B": readings(10, 500, 200.0)}
    recipe = Recipe({"rate.mem_read": 1.0}, {})
    assert calculated(recipe, systems, "A").systems[0].system == "B"


def test_a_system_without_a_metric_has_no_total_and_says_what_it_lacks():
    systems = {**SYSTEMS, "Osterfell Base": {"boot.total": np.array([5.0, 5.1])}}
    last = calculated(systems=systems).systems[-1]
    assert (last.system, last.total, last.missing) == ("Osterfell Base", None, ("memory.used",))
    said = total_sentence(calculated(systems=systems), "Varrow 12 Thistlow")
    assert said.endswith("Osterfell Base has no total: nothing usable of memory.used.")


def test_a_system_that_mostly_timed_out_has_no_total():
    late = np.array([5.0, 5.1, *[np.inf] * 3])
    systems = {**SYSTEMS, "Osterfell Base": {**SYSTEMS["Quillfern 8 Tarnwick"], "boot.total": late}}
    last = calculated(systems=systems).systems[-1]
    assert (last.system, last.total, last.missing) == ("Osterfell Base", None, ("boot.total",))


def test_what_can_be_zero_enters_by_a_floor_or_not_at_all():
    systems = {
        "A": {"memory.swap_used": np.zeros(5)},
        "B": {"memory.swap_used": np.full(5, 2 * MIB)},
    }
    with pytest.raises(BadInputError, match="needs a floor"):
        calculated(Recipe({"memory.swap_used": 1.0}, {}), systems, "A")
    floored = Recipe({"memory.swap_used": 1.0}, {"memory.swap_used": MIB})
    assert calculated(floored, systems, "A").systems[1].total == pytest.approx(50)


@pytest.mark.parametrize(
    ("weights", "floors", "says"),
    [
        ({}, {}, "one weighted metric"),
        ({"boot.total": 0.0}, {}, "weight of boot.total must be positive, not 0"),
        ({"boot.total": float("nan")}, {}, "must be positive, not nan"),
        ({"process.count": 1.0}, {}, "process.count has no good end"),
        ({"boot.totl": 1.0}, {}, "unknown metric"),
        ({"boot.total": 1.0}, {"memory.used": 1.0}, "which has no weight"),
    ],
)
def test_a_recipe_that_cannot_be_meant_is_refused(weights, floors, says):
    with pytest.raises(BadInputError, match=says):
        Recipe(weights, floors)


def test_pooled_figures_have_the_total_and_interval_of_their_parts():
    recipe = Recipe({"boot.total|x||": 2.0, "memory.used|y||": 1.0}, {})
    reference = {"boot.total|x||": 10.0, "memory.used|y||": 100.0}
    own = {
        "boot.total|x||": Figure(5.0, 5.0 / 1.1, 5.0 * 1.1),
        "memory.used|y||": Figure(200.0, 200.0 / 1.2, 200.0 * 1.2),
    }
    half = {"boot.total|x||": Figure(5.0, None, None), "memory.used|y||": own["memory.used|y||"]}
    found = totals_of_figures(recipe, reference, {"a": own, "b": half, "c": {}})
    first, second, third = found.systems
    assert first.total == pytest.approx(100 * (2.0**2 * 0.5) ** (1 / 3))
    wide = math.hypot(2 / 3 * math.log(1.1), 1 / 3 * math.log(1.2))
    assert first.interval.interval.high / first.total == pytest.approx(math.exp(wide))
    assert second.total == first.total and second.interval is None
    assert third.total is None and third.missing == tuple(recipe.weights)


def test_ends_hold_a_total_between_0_and_100():
    ends = Ends(50.0, 150.0)
    assert [ends.scaled(total) for total in (20.0, 50.0, 100.0, 400.0)] == [0.0, 0.0, 50.0, 100.0]
    for wrong in ((100.0, 100.0), (-1.0, 5.0), (0.0, math.inf)):
        with pytest.raises(BadInputError):
            Ends(*wrong)
