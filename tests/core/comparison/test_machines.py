import numpy as np
import pytest

from haremile.core.comparison.machines import (
    bonferroni,
    contrast_over_machines,
    log_mean,
    machines_field,
)
from haremile.errors import SampleError

TEN = np.arange(10) / 10.0 + 10


def test_each_machine_has_its_ratio_and_all_have_one_together():
    found = contrast_over_machines({"mini PC": (TEN, TEN * 0.8), "laptop": (TEN * 3, TEN * 2.7)})
    assert [part.medians for part in found.machines] == pytest.approx([0.8, 0.9])
    assert found.geometric_mean == pytest.approx(np.sqrt(0.72))
    assert found.interval.low < found.geometric_mean < found.interval.high
    assert not found.disagree


def test_machines_that_point_opposite_ways_are_said_to_disagree():
    assert contrast_over_machines({"m": (TEN, TEN * 0.7), "n": (TEN, TEN * 1.4)}).disagree
    unsure = contrast_over_machines({"m": (TEN, TEN * 0.7), "n": (TEN[:2], TEN[:2] * 1.4)})
    assert not unsure.disagree  # two readings decide nothing


def test_one_machine_has_no_interval_over_machines():
    assert log_mean([0.8]) == (pytest.approx(0.8), None, None)
    assert log_mean([0.8, 0.8])[1] is None


def test_a_field_over_machines_shares_out_its_error():
    generator = np.random.default_rng(1)
    medians = (
        generator.lognormal(2, 0.5, (6, 1)) * [1.0, 1.2, 1.5] * generator.lognormal(0, 0.02, (6, 3))
    )
    found = {(pair.a, pair.b): pair for pair in machines_field(medians)}
    assert len(found) == 6
    there, back = found[(0, 1)], found[(1, 0)]
    assert there.interval.level == pytest.approx(1 - 0.05 / 3)
    assert there.geometric_mean == pytest.approx(1 / back.geometric_mean)
    assert there.p_adjusted == pytest.approx(back.p_adjusted)
    assert bonferroni(0.4, 3) == 1.0


@pytest.mark.parametrize("bad", [{}, {"m": ([0.0, 1.0], [1.0, 2.0])}])
def test_no_machine_or_no_ratio_is_refused(bad):
    with pytest.raises(SampleError):
        contrast_over_machines(bad)


def test_a_field_needs_positive_columns():
    with pytest.raises(SampleError, match="two or more columns"):
        machines_field(np.ones((3, 1)))
    with pytest.raises(SampleError, match="positive"):
        machines_field(np.zeros((3, 2)))
