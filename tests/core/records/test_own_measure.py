"""A measure that a tester defines: its key states what every reader has to know."""

import pytest

from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd, Kind, is_undefined, metric, own_name
from haremile.core.records.own_measure import OwnMeasure, checked_measure
from haremile.core.records.procedures import headline_of
from haremile.core.records.study import split_procedure
from haremile.errors import BadInputError


def measure(**more):
    return OwnMeasure(**{"name": "Sort the seeds", "unit": "s", "good_end": GoodEnd.LOW, **more})


@pytest.mark.parametrize(
    ("unit", "key"),
    [
        ("s", "own.s.low.Sort_the_seeds"),
        ("B/s", "own.Bps.low.Sort_the_seeds"),
        ("1/s", "own.ps.low.Sort_the_seeds"),
        ("1", "own.n.low.Sort_the_seeds"),
        ("share", "own.share.low.Sort_the_seeds"),
        ("W", "own.W.low.Sort_the_seeds"),
        ("°C", "own.°C.low.Sort_the_seeds"),
    ],
)
def test_a_key_tells_name_unit_and_good_end_to_whoever_reads_it(unit, key):
    made = measure(unit=unit)
    assert made.key == key
    known = metric(key)
    assert (known.label, known.unit, known.good_end) == ("Sort the seeds", unit, GoodEnd.LOW)
    assert (known.kind, known.procedures) == (Kind.OWN, ("command",))
    assert own_name(key) == "Sort_the_seeds"


def test_keys_of_which_only_the_name_is_known_stay_what_they_were():
    for key in ("own.battery_hours", "own.time.Printed", "own.s.lower.x"):
        assert is_undefined(key)
    assert metric("own.time.Printed").unit == "s"
    assert not is_undefined(measure().key)


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"name": " ! "}, "a name of 1 to 80"),
        ({"name": "x" * 81}, "a name of 1 to 80"),
        ({"unit": "per hour"}, "a unit is s, B, B/s"),
        ({"unit": "Bps"}, "a unit is"),
        ({"unit": ""}, "a unit is"),
        ({"resolution": -1.0}, "resolution"),
        ({"resolution": 1e-15}, "resolution"),
    ],
)
def test_what_cannot_be_a_measure_is_refused(more, says):
    with pytest.raises(BadInputError, match=says):
        checked_measure(measure(**more))


def test_a_plan_asks_for_it_with_its_steps_and_it_stands_for_its_runs():
    made = measure(resolution=0.01, margin=Margin(amount=0.5))
    assert made.asked == "command:own.s.low.Sort_the_seeds:0.01"
    procedure, conditions = split_procedure(made.asked)
    assert conditions == {"measure": made.key, "measure_step": "0.01"}
    assert headline_of(procedure, conditions) == made.key
    assert split_procedure(measure().asked)[1] == {"measure": made.key}
    assert headline_of("boot", {}) == "boot.total"


@pytest.mark.parametrize(
    "text", ["command", "command:sort", "command:own.seeds", "command:own.s.low.x:often"]
)
def test_a_command_without_a_defined_measure_is_refused(text):
    with pytest.raises(BadInputError):
        split_procedure(text)
