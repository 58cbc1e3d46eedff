"""What is taken for readings, and how the rest is refused."""

import numpy as np
import pytest

from haremile.core.statistics.validation import (
    LARGEST,
    SMALLEST,
    are_whole,
    as_level,
    as_ranked,
    as_sample,
)
from haremile.errors import SampleError


def test_numbers_come_back_as_doubles():
    found = as_sample([1, 2, 3])
    assert found.dtype == np.float64
    assert list(found) == [1.0, 2.0, 3.0]


@pytest.mark.parametrize(
    ("values", "says"),
    [
        ([], "a must hold at least one number"),
        ([[1.0, 2.0]], r"a must be one row of numbers, not of shape \(1, 2\)"),
        ([1.0, float("nan")], "a must be finite; position 1 is nan"),
        ([float("inf"), 1.0], "a must be finite; position 0 is inf"),
        ([1.0, -2.0 * LARGEST], "a must be no larger than 1e\\+60; position 1 is -2e\\+60"),
    ],
    ids=["none", "a table", "no number", "infinite", "too large"],
)
def test_what_cannot_be_calculated_with_is_refused_by_its_place(values, says):
    with pytest.raises(SampleError, match=says):
        as_sample(values, "a")


def test_what_is_too_small_to_be_squared_counts_as_zero():
    assert list(as_sample([SMALLEST / 2.0, -SMALLEST / 2.0, SMALLEST])) == [0.0, 0.0, SMALLEST]


def test_a_time_out_is_allowed_where_ranks_are_read_and_only_there():
    assert list(as_ranked([1.0, np.inf])) == [1.0, np.inf]
    with pytest.raises(SampleError, match="finite"):
        as_sample([1.0, np.inf])


@pytest.mark.parametrize("values", [[np.inf, np.inf], [1.0, -np.inf], [np.inf, np.nan]])
def test_time_outs_alone_or_other_infinities_are_refused(values):
    with pytest.raises(SampleError):
        as_ranked(values)


def test_the_readings_that_were_given_stay_as_they_are():
    given = np.array([1e-70, 3.0, np.inf])
    as_ranked(given)
    assert list(given) == [1e-70, 3.0, np.inf]


@pytest.mark.parametrize("level", [0.0, 1.0, -0.1, 1.5, float("nan")])
def test_a_level_lies_between_nought_and_one(level):
    with pytest.raises(SampleError, match="between 0 and 1"):
        as_level(level)
    assert as_level(0.95) == 0.95


def test_counts_are_told_from_measured_values():
    assert are_whole(np.array([412.0, 409.0]))
    assert not are_whole(np.array([412.0, 409.5]))
