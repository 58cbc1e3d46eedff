import pytest

from haremile.core.comparison.comparability import (
    RULES,
    Grade,
    disturbed_runs,
    fair_start,
    graded_conditions,
    unstated_keys,
)
from haremile.core.records.conditions import KEYS, checked, condition_hash
from haremile.errors import BadInputError


def test_equal_conditions_leave_nothing_to_say():
    same = {"accelerator": "tcg", "cores": "2"}
    assert fair_start({1: [same], 2: [same]}) == ()


def test_the_gravest_comes_first():
    found = fair_start(
        {
            1: [{"kernel": "6.1", "updates_pending": "0", "accelerator": "kvm"}],
            2: [{"kernel": "6.2", "updates_pending": "9", "accelerator": "tcg"}],
        }
    )
    assert [item.grade for item in found] == [Grade.BREAKS, Grade.WEAKENS, Grade.NOTE]
    assert found[0].sentence == "accelerator: kvm, tcg"


def test_unknown_is_not_the_same_as_equal():
    (found,) = fair_start({1: [{"recorder": "none"}], 2: [{}]})
    assert found.grade is Grade.WEAKENS
    assert "not stated" in found.sentence


def test_what_differs_from_run_to_run_is_no_difference_of_lanes():
    assert fair_start({1: [{"host_load": "0.1"}], 2: [{"host_load": "2.0"}]}) == ()
    assert condition_hash({"host_load": "1", "cores": "2"}) == condition_hash({"cores": "2"})


def test_a_change_on_the_way_counts_within_one_lane_too():
    (found,) = fair_start({1: [{"clock": "host"}, {"clock": "counted"}]})
    assert found.grade is Grade.BREAKS


def test_unknown_keys_are_refused_by_name():
    with pytest.raises(BadInputError, match="unknown condition: colour"):
        checked({"colour": "red"})


def test_every_condition_has_its_rule_and_a_remedy():
    assert set(RULES) == set(KEYS)
    assert all(rule.remedy for rule in RULES.values())


def test_what_is_alike_is_graded_same_and_said_last():
    stated = {1: [{"medium": "live", "kernel": "6.1"}], 2: [{"medium": "live", "kernel": "6.2"}]}
    assert [(d.key, d.grade) for d in graded_conditions(stated)] == [
        ("kernel", Grade.NOTE),
        ("medium", Grade.SAME),
    ]


def test_an_overrule_needs_a_reason_and_prints_it():
    stated = {1: [{"medium": "live"}], 2: [{"medium": "installed"}]}
    (found,) = fair_start(stated)
    assert found.forbids
    (put_up_with,) = fair_start(stated, {"medium": "both from the same SSD"})
    assert put_up_with.grade is Grade.BREAKS
    assert not put_up_with.forbids
    assert put_up_with.sentence.endswith("(overridden: both from the same SSD)")
    for override, says in (
        ({"medium": " "}, "needs a reason"),
        ({"colour": "x"}, "unknown condition"),
    ):
        with pytest.raises(BadInputError, match=says):
            fair_start(stated, override)


def test_what_nobody_states_is_named_where_it_would_break():
    stated = {1: [{"medium": "live"}], 2: [{}]}
    assert "accelerator" in unstated_keys(stated, "boot.total")
    assert "medium" not in unstated_keys(stated, "boot.total")
    assert "app_version" not in unstated_keys(stated, "boot.total")
    assert "app_version" in unstated_keys(stated, "launch.window")


def test_runs_beside_other_work_are_told_against_the_calm_ones():
    calm = {1: [0.02] * 9, 2: [0.03] * 9}
    assert disturbed_runs("host_wait", calm) is None
    found = disturbed_runs("host_wait", {**calm, 1: [0.02] * 7 + [0.4, 0.6]})
    assert found.grade is Grade.WEAKENS
    assert found.values == ("usually 2 %", "40 % or more in 2 of 18 runs")
    assert "again" in found.remedy
    whole = disturbed_runs("host_wait", {1: [0.5] * 9, 2: [0.03] * 9})
    assert whole.values[1] == "50 % or more in 9 of 18 runs", "a lane that was disturbed throughout"
    assert disturbed_runs("host_wait", {}) is None
