import pytest
from hypothesis import given
from hypothesis import strategies as st

from haremile.core.by_hand.amounts import read_amount
from haremile.errors import BadInputError, HareMileError

MIB, GIB = 2.0**20, 2.0**30


@pytest.mark.parametrize(
    ("text", "unit", "value", "step"),
    [
        ("1:45", "s", 105.0, 1.0),
        ("1:45.3", "s", 105.3, 0.1),
        ("1:02:03", "s", 3723.0, 1.0),
        ("47 s", "s", 47.0, 1.0),
        ("47,5s", "s", 47.5, 0.1),
        ("2 min 5 s", "s", 125.0, 1.0),
        ("2m30.5s", "s", 150.5, 0.1),
        ("1 h 12 min", "s", 4320.0, 60.0),
        ("850 ms", "s", 0.85, 0.001),
        ("11:42 to 12:35", "s", 3180.0, 60.0),
        ("23:50–0:10", "s", 1200.0, 60.0),
        ("1.18 GiB", "B", 1.18 * GIB, 0.01 * GIB),
        ("1,18 GiB", "B", 1.18 * GIB, 0.01 * GIB),
        ("505M", "B", 505 * MIB, MIB),
        ("505 Mi", "B", 505 * MIB, MIB),
        ("505 MB", "B", 505e6, 1e6),
        ("1,234,567 KiB", "B", 1234567 * 1024.0, 1024.0),
        ("1.234,5 MiB", "B", 1234.5 * MIB, 0.1 * MIB),
        ("0,250 GiB", "B", 0.25 * GIB, 0.001 * GIB),
        ("30 % of 1 GiB", "B", 0.3 * GIB, 0.01 * GIB),
        ("1842", "1", 1842.0, 1.0),
        ("3 %", "share", 0.03, 0.01),
    ],
)
def test_amounts_are_read_as_written_with_the_step_of_their_last_place(text, unit, value, step):
    found = read_amount(text, unit)
    assert (found.value, found.unit) == (pytest.approx(value), unit)
    assert found.resolution == pytest.approx(step)


def test_a_figure_without_a_unit_is_taken_in_that_of_its_column():
    assert read_amount("47", "s", "s").value == 47.0
    assert read_amount("512", "B", "MiB").value == 512 * MIB
    with pytest.raises(BadInputError, match="which unit"):
        read_amount("512", "B")


@pytest.mark.parametrize(
    ("text", "unit", "says"),
    [
        ("1,180 s", "s", "may be 1180 or 1.180"),
        ("-3 s", "s", "negative"),
        ("−3 s", "s", "negative"),
        ("1:75", "s", "go up to 59"),
        ("25:00 to 26:00", "s", "no time of day"),
        ("12,34,567 KiB", "B", "thousands"),
        ("5 s 2 min", "s", "larger unit first"),
        ("1 GiB 3 MiB", "B", "two figures"),
        ("47 GiB", "s", "no unit here"),
        ("soon", "s", "not an amount"),
        ("", "s", "not an amount"),
        ("9" * 70, "s", "longer than"),
    ],
)
def test_what_is_none_or_may_mean_two_things_is_asked_about(text, unit, says):
    with pytest.raises(BadInputError, match=says):
        read_amount(text, unit)


@given(st.text(max_size=80), st.sampled_from(["s", "B", "1", "share"]))
def test_any_text_is_an_amount_or_refused_in_words(text, unit):
    try:
        found = read_amount(text, unit)
    except HareMileError:
        return
    assert found.value >= 0
    assert found.resolution > 0 or found.value == 0
