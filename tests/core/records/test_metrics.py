import pytest

from haremile.core.records.metrics import CATALOGUE, GoodEnd, metric
from haremile.core.records.units import CANONICAL
from haremile.errors import UnknownMetricError


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
