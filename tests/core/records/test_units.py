import pytest

from haremile.core.records.units import in_unit, parse_amount, scale_for, to_canonical
from haremile.errors import UnitError


@pytest.mark.parametrize(
    ("value", "unit", "expected"),
    [
        (1500, "ms", (1.5, "s")),
        (2, "min", (120.0, "s")),
        (1, "MiB", (2.0**20, "B")),
        (1, "MB", (1e6, "B")),
        (4, "GiB", (4 * 2.0**30, "B")),
        (50, "%", (0.5, "share")),
    ],
)
def test_units_as_written_become_canonical(value, unit, expected):
    assert to_canonical(value, unit) == expected


@pytest.mark.parametrize(
    ("text", "expected"),
    [("0.5s", (0.5, "s")), ("15 MiB", (15 * 2.0**20, "B")), ("3%", (0.03, "share"))],
)
def test_amounts_are_read(text, expected):
    value, unit = parse_amount(text)
    assert value == pytest.approx(expected[0])
    assert unit == expected[1]


@pytest.mark.parametrize("text", ["", "fast", "3 furlongs", "-1s", "1e3"])
def test_what_is_no_amount_is_refused(text):
    with pytest.raises(UnitError):
        parse_amount(text)


@pytest.mark.parametrize(
    ("unit", "value", "says"),
    [
        ("s", 17.04, "17.0 s"),
        ("s", 2.345, "2.35 s"),
        ("s", 0.0421, "42.1 ms"),
        ("B", 312 * 2.0**20, "312 MiB"),
        ("B", 4.9 * 2.0**30, "4.90 GiB"),
        ("1", 141.0, "141"),
        ("share", 0.123, "12.3 %"),
        ("s", 180.2, "180 s"),
    ],
)
def test_figures_are_written_for_readers(unit, value, says):
    assert scale_for(unit, value).amount(value) == says


def test_minus_is_a_true_minus_and_never_stands_before_zero():
    scale = scale_for("s", 17.0)
    assert scale.number(-0.51) == "−0.5"
    assert scale.number(-0.01) == "0.0"
    assert scale.at_least_one_step(0.01) == "less than 0.1 s"


def test_what_has_no_unit_is_whole_unless_it_comes_in_fractions():
    assert scale_for("1", 311.0).amount(311.0) == "311"
    assert scale_for("1", 2.0, is_whole=False).amount(2.25) == "2.25"
    assert scale_for("1", 240.0, is_whole=False).amount(240.5) == "240.5"


def test_a_unit_of_ones_own_comes_in_fractions_and_long_times_in_hours():
    assert scale_for("W", 5.6).amount(5.6) == "5.60 W"
    assert scale_for("W", 0.5, True).amount(0.5) == "0.50 W"
    assert scale_for("s", 18_000.0).amount(18_000.0) == "5.00 h"
    assert scale_for("s", 7_000.0).amount(7_000.0) == "7000 s"


def test_what_is_written_is_turned_into_the_unit_of_what_is_measured():
    assert in_unit(1500.0, "ms", "s") == 1.5
    assert in_unit(7.0, "W", "W") == 7.0
    assert isinstance(in_unit(7, "W", "W"), float)  # one kind of number, whatever was read
    for written, unit in (("MiB", "s"), ("V", "W"), ("W", "s")):
        with pytest.raises(UnitError):
            in_unit(1.0, written, unit)
