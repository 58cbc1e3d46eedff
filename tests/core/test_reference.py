"""Tests and sequence diagnoses against independently calculated cases."""

import json
from fnmatch import fnmatch

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

import reference_fields as reference
from haremile.core.statistics.location_tests import hedges_g, mann_whitney, welch
from haremile.core.statistics.modality import mode_count
from haremile.core.statistics.paired import paired_contrast
from haremile.core.statistics.run_order import diagnose_sequence
from haremile.errors import SampleError
from helpers import DATA

CASES = sorted((DATA / "reference-statistics").glob("*.json"))
FAMILIES = sorted({path.stem.partition("__")[0] for path in CASES})


def is_listed(name):
    return any(fnmatch(name, pattern) for group in reference.NOT_OURS.values() for pattern in group)


def agree(found, expected, allowed, name):
    first = expected[0] if isinstance(expected, list) and expected else expected
    if isinstance(first, float | int) and not isinstance(first, bool):
        assert found == pytest.approx(expected, **allowed), name
    else:
        assert found == expected, name


@pytest.mark.parametrize("path", CASES, ids=lambda path: path.stem)
def test_independently_calculated_cases_are_reproduced(path):
    case = json.loads(path.read_text())
    expected, tolerance = case["expected"], case["tolerance"]
    said = getattr(reference, path.stem.partition("__")[0])(case["input"])
    for name, value in said.items():
        allowed = tolerance.get(name, tolerance["default"])
        agree(value, expected[name], {"rel": 1e-12, "abs": 1e-12, **allowed}, name)
    assert [name for name in expected if name not in said and not is_listed(name)] == []


def test_every_family_of_cases_is_here():
    assert len(FAMILIES) == 15


def test_a_stated_step_finds_the_ties():
    a, b = [10.4 - 10.2, 0.5, 0.9], [11.2 - 11.0, 0.6, 1.0]
    assert mann_whitney(a, b).method == "exact"
    assert mann_whitney(a, b, resolution=0.1).method == "exact with ties"


def test_large_lanes_with_ties_use_the_normal_limit():
    generator = np.random.default_rng(1)
    a, b = generator.integers(0, 9, 80), generator.integers(1, 10, 80)
    found = mann_whitney(a, b)
    expected = stats.mannwhitneyu(b, a, method="asymptotic", use_continuity=True).pvalue
    assert found.method == "normal"
    assert found.p == pytest.approx(expected)


def test_undefined_is_none_and_never_nought_or_one():
    same = [5.0] * 6
    assert mann_whitney(same, same).p is None
    assert welch(same, same).p is None
    assert hedges_g(same, same) is None
    assert paired_contrast(same, same).test.p is None
    assert diagnose_sequence(same).trend.p is None
    assert mode_count(same) is None


def test_pairs_need_lanes_of_one_length():
    with pytest.raises(SampleError, match="not 2 and 3"):
        paired_contrast([1, 2], [1, 2, 3])


def test_two_humps_are_seen_and_one_is_not_doubled():
    generator = np.random.default_rng(3)
    one = generator.normal(10, 0.4, 40)
    two = np.where(generator.random(40) < 0.4, 3.0, 0.0) + one
    assert mode_count(one) == 1
    assert mode_count(two) == 2
    assert mode_count(one[:7]) is None
    assert mode_count([14.0, *one]) == 1  # a far-out first run is no hump


@given(st.lists(st.floats(0.1, 1e3), min_size=2, max_size=12))
def test_any_lane_is_diagnosed_without_a_warning(values):
    found = diagnose_sequence(values)
    assert found.n == len(values)
    assert found.has_little_power
