"""The share of the noise between blocks, and whether it pays to compare within them."""

import numpy as np
import pytest

from haremile.core.statistics.blocks import pays, share_between_blocks
from haremile.core.statistics.contrast import shift_estimate
from haremile.core.statistics.paired import pseudo_median
from haremile.errors import SampleError


def table(generator, blocks, lanes, drift=0.0):
    return generator.normal(size=(blocks, lanes)) + drift * generator.normal(size=(blocks, 1))


@pytest.mark.parametrize(("drift", "share"), [(0.0, 0.0), (1.0, 0.5), (2.0, 0.8)])
def test_a_known_share_is_recovered(drift, share):
    found = share_between_blocks(table(np.random.default_rng(1), 2000, 4, drift))
    assert found == pytest.approx(share, abs=0.04)


def test_who_is_who_and_how_far_lanes_are_apart_change_nothing():
    seen = table(np.random.default_rng(2), 15, 3, 1.0)
    found = share_between_blocks(seen)
    assert share_between_blocks(seen[:, [2, 0, 1]]) == pytest.approx(found)
    assert share_between_blocks(np.add(seen, [0.0, 40.0, -7.0])) == pytest.approx(found)
    assert share_between_blocks(seen * 3.0) == pytest.approx(found)


def test_one_stall_decides_nothing():
    seen = table(np.random.default_rng(3), 30, 2, 1.5)
    stalled = seen.copy()
    stalled[4, 1] += 1000.0
    assert share_between_blocks(stalled) == pytest.approx(share_between_blocks(seen), abs=0.12)


def test_too_little_to_tell_is_none_and_does_not_pay():
    generator = np.random.default_rng(4)
    assert share_between_blocks(table(generator, 5, 3)) is None
    assert share_between_blocks(table(generator, 9, 1)) is None
    assert share_between_blocks(np.ones((9, 3))) is None
    assert not pays(None, 9, 3)
    with pytest.raises(SampleError, match="lacks a reading"):
        share_between_blocks(np.full((9, 3), np.inf))


def test_a_share_that_chance_gives_does_not_pay():
    assert not pays(0.3, 12, 2)
    assert pays(0.4, 12, 2)
    assert not pays(0.19, 400, 8)
    assert pays(0.21, 40, 8)


@pytest.mark.parametrize("drift", [0.0, 0.5, 1.0])
def test_the_form_that_is_chosen_errs_as_rarely_as_it_says(drift):
    generator, erred, rounds = np.random.default_rng(5), 0, 1500
    for _ in range(rounds):
        seen = table(generator, 12, 2, drift)
        if pays(share_between_blocks(seen), 12, 2):
            limits = pseudo_median(seen[:, 1] - seen[:, 0]).interval
        else:
            limits = shift_estimate(seen[:, 0], seen[:, 1]).interval
        erred += not limits.low <= 0.0 <= limits.high
    assert erred / rounds <= 0.05 + 2.0 * (0.05 * 0.95 / rounds) ** 0.5
