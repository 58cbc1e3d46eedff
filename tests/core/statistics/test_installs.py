"""Several installs of each system: the install is what is repeated."""

import numpy as np
import pytest
from scipy import stats

from haremile.core.statistics.installs import contrast_of_installs
from haremile.errors import SampleError

A = {"first": [20.0, 21.0, 22.0], "second": [24.0, 26.0], "third": [19.0]}
B = {"first": [30.0, 31.0], "second": [33.0, 36.0]}


def test_the_interval_is_that_of_the_installs_means():
    found = contrast_of_installs(A, B)
    means_a = [np.mean(values) for values in A.values()]
    means_b = [np.mean(values) for values in B.values()]
    expected = stats.ttest_ind(means_b, means_a, equal_var=False).confidence_interval(0.95)
    assert found.shift.value == pytest.approx(np.mean(means_b) - np.mean(means_a))
    assert found.shift.interval.low == pytest.approx(expected.low)
    assert found.shift.interval.high == pytest.approx(expected.high)


def test_more_boots_of_one_install_do_not_make_it_more_certain():
    more = {name: list(values) * 10 for name, values in A.items()}
    few, many = contrast_of_installs(A, B), contrast_of_installs(more, B)
    assert many.shift.interval.width == pytest.approx(few.shift.interval.width)
    assert many.n_a == 10 * few.n_a


def test_the_ratio_is_that_of_logarithms_and_absent_without_them():
    doubled = {name: [2.0 * value for value in values] for name, values in A.items()}
    assert contrast_of_installs(A, doubled).ratio.value == pytest.approx(2.0)
    around = {name: [value - 22.0 for value in values] for name, values in A.items()}
    assert contrast_of_installs(around, B).ratio is None


def test_chances_are_over_all_pairs_of_readings():
    found = contrast_of_installs(A, B)
    assert (found.probability_b_lower, found.cliffs_delta) == (0.0, 1.0)


def test_one_install_speaks_of_itself_alone():
    with pytest.raises(SampleError, match="b needs two installs or more, not 1"):
        contrast_of_installs(A, {"first": [30.0, 31.0]})


def test_means_that_do_not_vary_have_no_interval():
    alike = {"first": [2.0, 4.0], "second": [3.0]}
    with pytest.raises(SampleError, match="do not vary"):
        contrast_of_installs(alike, alike)
