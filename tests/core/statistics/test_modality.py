"""One mode or two."""

import numpy as np
import pytest

from haremile.core.statistics.modality import BINNED_FROM, critical_bandwidth, mode_count, modes_of


def noise(n):
    return np.random.default_rng(30).normal(20.0, 1.0, n)


def two_modes_of(n, apart=8.0, share=0.4):
    upper = np.arange(n) < share * n
    return noise(n) + np.where(upper, apart, 0.0)


@pytest.mark.parametrize("n", [30, 80, BINNED_FROM + 200], ids=["few", "some", "binned"])
def test_two_modes_are_found_with_the_medians_of_both(n):
    found = modes_of(two_modes_of(n))
    assert found.number == 2
    assert found.medians == pytest.approx((20.0, 28.0), abs=0.8)


@pytest.mark.parametrize("n", [30, 80, BINNED_FROM + 200], ids=["few", "some", "binned"])
def test_one_mode_stays_one(n):
    assert modes_of(noise(n)) == (1, None)


def test_one_or_two_stalls_are_no_mode():
    assert mode_count(np.append(noise(20), [90.0, 95.0])) == 1


@pytest.mark.parametrize("values", [[1.0, 2.0, 9.0, 9.1], [5.0] * 20], ids=["few", "constant"])
def test_too_few_or_constant_readings_tell_nothing(values):
    assert modes_of(values) == (None, None)


def test_the_unit_does_not_matter_and_the_answer_stays():
    values = two_modes_of(40)
    assert mode_count(values) == mode_count(values * 1000.0) == mode_count(values) == 2
    assert critical_bandwidth(values * 1000.0) == pytest.approx(1000.0 * critical_bandwidth(values))


def test_modes_farther_apart_take_a_wider_kernel_to_melt():
    near, far = two_modes_of(60, apart=5.0), two_modes_of(60, apart=20.0)
    assert critical_bandwidth(far) > 2.0 * critical_bandwidth(near)
