import numpy as np
import pytest
from scipy import special

from haremile.core.statistics.sequential import (
    Ended,
    looks_cost,
    median_unbiased,
    nominal_errors,
    spent_before_last,
)
from haremile.errors import SampleError

EVERY = tuple(range(1, 25))
DRAWS = 40_000


def limits(errors):
    return -special.ndtri(np.array(errors) / 2.0)


def walks(shift, looks, draws=DRAWS):
    """Estimates of a shift after each look, of steps of standard deviation 1."""
    generator = np.random.default_rng(len(looks))
    sums = (shift + generator.normal(size=(draws, looks[-1]))).cumsum(axis=1)
    return sums[:, np.array(looks) - 1] / np.array(looks)


@pytest.mark.parametrize("looks", [(10, 15, 20), EVERY, (5, 40)], ids=["three", "every", "two"])
@pytest.mark.parametrize("error", [0.05, 0.0024])
def test_all_looks_together_err_as_often_as_was_asked_for(looks, error):
    size = np.abs(walks(0.0, looks)) * np.sqrt(looks)
    errs = (size > limits(nominal_errors(error, looks))).any(axis=1).mean()
    assert errs == pytest.approx(error, abs=4.0 * (error / DRAWS) ** 0.5)


def test_one_look_spends_all_of_it():
    assert nominal_errors(0.05, (20,)) == (0.05,)
    assert spent_before_last((20,)) == 0.0
    assert spent_before_last((10, 20)) == 0.25


def test_a_look_too_early_spends_nothing_and_the_next_has_it():
    found = nominal_errors(0.05, (4, 10, 20), (0.02, 0.001, 0.0))
    assert found[0] == 0.0
    assert found[1:] == pytest.approx(nominal_errors(0.05, (10, 20)), rel=0.01)
    assert nominal_errors(0.05, (3,), (0.1,)) == (0.0,)


def test_reading_after_every_block_costs_little_and_ends_soon():
    cost = looks_cost(0.05, EVERY, 0.9)
    assert 1.05 < cost.most < 1.12
    assert 0.5 < cost.typical < 0.8
    assert looks_cost(0.05, (20,), 0.9).most == 1.0


@pytest.mark.parametrize("shift", [0.5, 1.0, 1.5])
def test_what_was_told_early_is_as_often_too_high_as_too_low(shift):
    margin, draws = 0.4, 400
    reach = limits(nominal_errors(0.05, EVERY))
    seen = walks(shift, EVERY, draws)
    ends = seen - reach / np.sqrt(EVERY) > margin
    last = np.where(ends.any(axis=1), ends.argmax(axis=1), len(EVERY) - 1)
    found = [
        median_unbiased(Ended(EVERY[: at + 1], tuple(reach[: at + 1]), margin, float(walk[at])))
        for at, walk in zip(last, seen, strict=True)
    ]
    assert np.median(found) == pytest.approx(shift, abs=0.05)


def test_the_other_side_is_the_same_turned_round():
    up = Ended((5, 10), (2.5, 2.2), 0.5, 1.4)
    down = Ended((5, 10), (2.5, 2.2), 0.5, -1.4)
    assert median_unbiased(down) == -median_unbiased(up)
    assert median_unbiased(Ended((5,), (2.0,), 0.5, 1.4)) == 1.4


@pytest.mark.parametrize(("error", "looks"), [(0.0, (5, 10)), (1.0, (5, 10)), (0.05, (10, 10))])
def test_looks_rise_and_errors_are_shares(error, looks):
    with pytest.raises(SampleError):
        nominal_errors(error, looks)
