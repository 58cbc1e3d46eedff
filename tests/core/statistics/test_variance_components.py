import numpy as np
import pytest

from haremile.core.statistics.installs import contrast_of_installs
from haremile.core.statistics.variance_components import (
    boots_per_install,
    install_means_interval,
    moment_components,
    nested_components,
    reml_components,
)
from haremile.errors import SampleError


def drawn(installs=40, boots=6, launches=5, seed=1, spreads=(3.0, 2.0, 1.0)):
    generator = np.random.default_rng(seed)
    return [
        [
            list(20 + of_install + of_boot + generator.normal(0, spreads[2], launches))
            for of_boot in generator.normal(0, spreads[1], boots)
        ]
        for of_install in generator.normal(0, spreads[0], installs)
    ]


def test_unequal_boots_are_stood_by_both_methods():
    generator = np.random.default_rng(2)
    installs = [
        list(10 + of_install + generator.normal(0, 0.5, boots))
        for of_install, boots in zip(generator.normal(0, 1.5, 60), [2, 5, 9] * 20, strict=True)
    ]
    moments, reml = moment_components(installs), reml_components(installs)
    assert moments.between == pytest.approx(1.5**2, rel=0.4)
    assert reml.between == pytest.approx(moments.between, rel=0.1)
    assert moments.n0 < np.mean([2, 5, 9])


def test_installs_alike_give_no_negative_variance():
    installs = [[1.0, 3.0], [2.0, 2.2], [1.9, 2.1]]
    found = moment_components(installs)
    assert found.between_raw < 0
    assert (found.between, reml_components(installs).between) == (0.0, 0.0)


def test_launches_nest_in_boots_and_boots_in_installs():
    found = nested_components(drawn())
    assert found.launches == pytest.approx(1.0, rel=0.15)
    assert found.boots == pytest.approx(4.0, rel=0.25)
    assert found.installs == pytest.approx(9.0, rel=0.4)


def test_with_one_launch_level_less_nesting_agrees_with_one_way():
    installs = drawn(installs=12, boots=4, launches=3, spreads=(2.0, 0.0, 1.0))
    nested = nested_components(installs)
    one_way = reml_components([np.concatenate(boots) for boots in installs])
    assert nested.installs == pytest.approx(one_way.between, rel=0.2)


def test_boots_that_pay():
    assert boots_per_install(45, 2, 0.0009, 0.0004) == pytest.approx(7.115, abs=1e-3)
    assert boots_per_install(45, 2, 0.0009, 0.0) is None
    with pytest.raises(SampleError, match="boot_cost must be a positive number, not 0"):
        boots_per_install(45, 0, 1.0, 1.0)


@pytest.mark.parametrize("bad", [[[1.0, 2.0]], [[1.0], [2.0]], []])
def test_one_install_or_one_boot_each_has_no_components(bad):
    with pytest.raises(SampleError, match="components take"):
        moment_components(bad)
    with pytest.raises(SampleError):
        nested_components([[group] for group in bad])


def test_boots_that_do_not_vary_are_said():
    with pytest.raises(SampleError, match="nothing to split"):
        reml_components([[1.0, 1.0], [2.0, 2.0]])
    assert install_means_interval([[1.0, 1.0], [1.0]]) == (1.0, None)


def test_systems_are_compared_by_the_means_of_their_installs():
    generator = np.random.default_rng(3)
    a = {f"i{k}": generator.normal(10 + k / 9, 0.1, 30) for k in range(4)}
    b = {f"i{k}": generator.normal(12 + k / 9, 0.1, 30) for k in range(3)}
    found = contrast_of_installs(a, b)
    assert found.method == "install means"
    assert (found.n_a, found.n_b) == (120, 90)
    assert found.shift.interval.low < 2.0 < found.shift.interval.high
    assert found.shift.interval.width > 0.2  # boots of one install do not narrow it
    assert found.probability_b_lower == 0.0
    with pytest.raises(SampleError, match="a needs two installs"):
        contrast_of_installs({"one": [1.0, 2.0]}, b)
