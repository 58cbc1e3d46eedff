"""What may come in at all."""

import math
from datetime import UTC, datetime, timedelta, timezone

import pytest
from hypothesis import given
from hypothesis import strategies as st

from haremile.core.records.bounds import (
    LEAST_VALUE,
    MOST_VALUE,
    checked_instant,
    checked_resolution,
    checked_text,
    checked_value,
    parse_instant,
)
from haremile.errors import BadInputError


@pytest.mark.parametrize(
    "text",
    [
        "0001-01-01T00:00:00+14:00",
        "9999-12-31T23:59:59-14:00",
        "1999-12-31T23:59:59+00:00",
        "2100-01-01T00:00:00+00:00",
        "2026-10-05T08:00:00",
        "yesterday",
        "2026-13-01T00:00:00Z",
        "",
    ],
)
def test_an_instant_at_which_nothing_was_measured_is_refused(text):
    with pytest.raises(BadInputError):
        parse_instant(text)


@given(st.datetimes(), st.integers(-23 * 60, 23 * 60))
def test_an_instant_that_is_taken_can_be_written_in_every_zone(at, minutes):
    try:
        taken = checked_instant(at.replace(tzinfo=timezone(timedelta(minutes=minutes))))
    except BadInputError:
        return
    for zone in (-14, 0, 14):
        taken.astimezone(timezone(timedelta(hours=zone))).isoformat()
    assert 2000 <= taken.astimezone(UTC).year < 2100


@given(st.floats())
def test_what_is_taken_can_be_compared_with_anything_else_that_is(value):
    try:
        taken = checked_value(value, may_be_negative=True)
    except BadInputError:
        return
    assert math.isfinite(taken * MOST_VALUE)
    assert math.isfinite(taken**2)
    assert taken == 0 or math.isfinite(MOST_VALUE / taken)


def test_only_own_metrics_are_negative_and_a_step_is_positive():
    assert checked_value(-3.0, may_be_negative=True) == -3.0
    for value in (-3.0, -LEAST_VALUE, math.nan, math.inf, 2 * MOST_VALUE, LEAST_VALUE / 2):
        with pytest.raises(BadInputError):
            checked_value(value, may_be_negative=False)
    assert checked_resolution(None) is None
    for step in (0.0, -0.1):
        with pytest.raises(BadInputError, match="is positive"):
            checked_resolution(step)


@pytest.mark.parametrize("hidden", ["\x00", "\x1b", "\x9b", "\u202e", "\u2066", "\u200f", "\ud800"])
def test_a_text_with_what_cannot_be_seen_is_refused(hidden):
    with pytest.raises(BadInputError, match=r"cannot be seen \(U\+"):
        checked_text(f"Varrow{hidden}12")
    assert checked_text("Ä\tb\nצ") == "Ä\tb\nצ"
    with pytest.raises(BadInputError, match="longer than 3"):
        checked_text("four", 3)


def test_a_time_of_another_calendar_states_its_bounds():
    with pytest.raises(BadInputError, match="from 2000 on and before 2100"):
        checked_instant(datetime(1970, 1, 1, tzinfo=UTC))
