"""Which arms may stand in one list."""

import numpy as np
import pytest
from tests.core.standing.books import arm

from haremile.core.standing.arms import comparable_arms, log_figures


def test_a_list_holds_to_what_most_readings_were_taken_under() -> None:
    arms = [arm(n, s, 5, conditions=[{"medium": "installed"}]) for n in (1, 2) for s in "ab"]
    live = [arm(3, s, 5, conditions=[{"medium": "live"}]) for s in "ab"]
    found = comparable_arms(arms + live, "memory.used")
    assert {one.study for one in found.arms} == {one.study for one in arms}
    assert found.left_out[0].reason == "medium: live, not installed"
    asked = comparable_arms(arms + live, "memory.used", {"medium": "live"})
    assert [one.study for one in asked.arms] == [one.study for one in live]
    assert asked.choices[0].runs == {"installed": 32, "live": 16}


def test_what_does_not_state_it_stays_and_is_told() -> None:
    arms = [arm(1, "a", 5, conditions=[{"medium": "installed"}]), arm(2, "a", 5)]
    arms.append(arm(3, "a", 5, conditions=[{"medium": "live"}]))
    found = comparable_arms(arms, "memory.used")
    assert len(found.arms) == 2 and found.unstated == ("medium",)


def test_a_condition_that_has_nothing_to_do_with_the_measure_decides_nothing() -> None:
    arms = [arm(1, "a", 5, conditions=[{"waits": "none"}])]
    arms.append(arm(2, "a", 5, conditions=[{"waits": "menu"}]))
    assert len(comparable_arms(arms, "memory.used").arms) == 2
    assert len(comparable_arms(arms, "boot.total").arms) == 1


def test_a_study_that_compares_unlike_things_stays_out_until_it_is_overruled() -> None:
    unlike = [arm(1, "a", 5, conditions=[{"memory": "1 GiB"}])]
    unlike.append(arm(1, "b", 5, conditions=[{"memory": "2 GiB"}]))
    found = comparable_arms(unlike, "memory.used")
    assert found.arms == () and found.left_out[0].reason.startswith("not comparable: memory")
    reasons = {"memory": "that is the question"}
    overruled = [
        arm(1, s, 5, conditions=[{"memory": m}], overrides=reasons) for s, m in ("a1", "b2")
    ]
    assert len(comparable_arms(overruled, "memory.used").arms) == 2


@pytest.mark.parametrize(
    ("values", "reason"),
    [
        ([1.0, np.inf, np.inf], "most of its runs timed out"),
        ([0.0, 0.0, 1.0], "it reads zero, and a ratio needs figures above zero"),
    ],
)
def test_what_has_no_ratio_stays_out_with_its_reason(values: list[float], reason: str) -> None:
    found = comparable_arms([arm(1, "a", 5, values=np.array(values))], "boot.total")
    assert found.arms == () and found.left_out[0].reason == reason


def test_the_scatter_of_few_readings_is_drawn_towards_the_usual_one() -> None:
    calm = arm(1, "a", 100, values=np.array([100.0, 100.1]))
    usual = [arm(1, name, 100) for name in "bcd"]
    kept = log_figures([calm, *usual])
    assert kept.figures[0] == pytest.approx(np.log(100.05))
    assert kept.variances[0] > kept.variances[1]  # two readings, not one of eight


def test_installs_that_bear_names_stand_apart() -> None:
    assert arm(1, "Varrow 12", 5, install="live").name == "Varrow 12, live"
