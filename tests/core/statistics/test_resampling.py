import numpy as np
import pytest

from haremile.core.statistics.permutation import permutation_test
from haremile.core.statistics.resampling import bootstrap_interval
from haremile.errors import SampleError


def means(rows):
    return rows.mean(axis=1)


def medians(rows):
    return np.median(rows, axis=1)


def test_the_same_seed_gives_the_same_interval():
    sample = np.random.default_rng(1).lognormal(size=25)
    first, again, other = (bootstrap_interval([sample], means, seed=n) for n in (7, 7, 8))
    assert again == first
    assert other != first


def test_a_skewed_statistic_is_corrected():
    sample = np.random.default_rng(1).lognormal(size=25)
    found = bootstrap_interval([sample], lambda rows: rows.var(axis=1))
    assert found.method == "BCa"
    assert found.interval.high - found.value > found.value - found.interval.low


def test_an_even_jackknife_falls_back_to_percentiles_and_says_so():
    flat = bootstrap_interval([[1.0, 2.0, 2.0, 2.0, 3.0]], medians)
    assert flat.method == "percentile"


def test_constant_readings_have_an_interval_without_width():
    found = bootstrap_interval([[5.0] * 6], medians)
    assert (found.method, found.interval.low, found.interval.high) == ("constant", 5.0, 5.0)


@pytest.mark.parametrize(
    ("sample", "statistic", "resamples", "says"),
    [
        ([], medians, 1000, "at least one"),
        ([1.0, 2.0], medians, 10, "100 resamples or more, not 10"),
        ([1.0, 2.0], lambda rows: rows[:, 0] * np.nan, 1000, "not a finite number"),
    ],
)
def test_what_cannot_be_resampled_is_refused(sample, statistic, resamples, says):
    with pytest.raises(SampleError, match=says):
        bootstrap_interval([sample], statistic, resamples=resamples)


def test_many_readings_are_rearranged_at_random_but_never_to_nought():
    generator = np.random.default_rng(2)
    a, b = generator.normal(size=20), generator.normal(5, 1, 20)
    found = permutation_test(a, b)
    assert found.method == "drawn arrangements"
    assert found.p_two_sided == pytest.approx(1 / 20_001)
    assert permutation_test(a, b) == found
    assert permutation_test(a, a).p_two_sided == 1.0
