import pytest

from haremile.core.records.metrics import CATALOGUE, GoodEnd, check_possible, metric
from haremile.core.records.units import CANONICAL
from haremile.errors import BadInputError, UnknownMetricError


def test_every_metric_has_a_canonical_unit_and_a_stated_margin():
    for item in CATALOGUE.values():
        assert item.unit in CANONICAL
        assert item.margin.is_stated
        assert item.procedures


def test_own_metrics_are_allowed_and_have_no_good_end():
    assert metric("own.battery_hours").good_end is GoodEnd.NONE
    assert metric("own.battery_hours").label == "Battery hours"


@pytest.mark.parametrize("key", ["boot.totl", "own.", ""])
def test_an_unknown_metric_is_named_with_what_is_known(key):
    with pytest.raises(UnknownMetricError, match=r"expected one of .*boot\.total"):
        metric(key)


@pytest.mark.parametrize(
    ("key", "value", "conditions", "says"),
    [
        ("memory.used", 98_000 * 2**30, {"memory": "8192 MiB"}, "98,000 GiB of idle memory"),
        ("memory.used", 9 * 2**30, {"memory": "8192 MiB"}, "on a machine with 8 GiB"),
        ("memory.pss", 2**47, {}, "is the unit right"),
        ("boot.total", 8 * 86400.0, {}, "cannot be"),
        ("cpu.busy", 1.2, {}, "120 %"),
    ],
)
def test_what_a_metric_or_a_machine_cannot_give_is_refused(key, value, conditions, says):
    with pytest.raises(BadInputError) as refused:
        check_possible(metric(key), value, conditions)
    assert says in str(refused.value)


def test_what_can_be_is_taken_whatever_the_machine_says_of_itself():
    check_possible(metric("memory.used"), 7 * 2**30, {"memory": "8192 MiB"})
    check_possible(metric("memory.used"), 9 * 2**30, {"memory": "eight"})
    check_possible(metric("memory.rss"), 9 * 2**30, {"memory": "8192 MiB"})
    check_possible(metric("disk.used"), 9 * 2**40, {"memory": "8192 MiB"})
