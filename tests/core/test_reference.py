"""Tests and sequence diagnoses against independently reckoned cases."""

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from haremile.core.humps import hump_count
from haremile.core.lane_statistics import summarise_lane
from haremile.core.location_tests import hedges_g, mann_whitney, welch
from haremile.core.paired import paired_contrast
from haremile.core.sequence import diagnose_sequence, modified_z
from haremile.errors import SampleError
from helpers import DATA

FOLDER = DATA / "reference-statistics"


def cases(family):
    return [
        pytest.param(json.loads(path.read_text()), id=path.stem)
        for path in sorted(FOLDER.glob(f"{family}__*.json"))
    ]


def agree(found, expected, tolerance, name):
    if expected is None:
        assert found is None, name
    else:
        allowed = {"rel": 1e-8, "abs": 1e-10, **tolerance.get(name, tolerance["default"])}
        assert found == pytest.approx(expected, **allowed), name


@pytest.mark.parametrize("case", cases("two_sample"))
def test_two_lane_tests(case):
    x, y = case["input"]["x"], case["input"]["y"]
    expected, tolerance = case["expected"], case["tolerance"]
    ranks, means = mann_whitney(y, x), welch(y, x)  # the cases say x against y
    agree(ranks.u, expected["mann_whitney_u_x"], tolerance, "mann_whitney_u_x")
    name = "mann_whitney_exact_p"
    if expected[name] is None and expected["mann_whitney_exact_conditional_p_with_ties"]:
        name = "mann_whitney_exact_conditional_p_with_ties"
        assert ranks.method == "exact with ties"
    if len(set(x + y)) > 1:
        agree(ranks.p, expected[name], tolerance, name)
    else:
        assert ranks.p is None
    for field, value in {
        "welch_t": means.t, "welch_df": means.df, "welch_p": means.p,
        "welch_ci95_low": means.low, "welch_ci95_high": means.high,
        "mean_difference": means.difference, "hedges_g_exact_gamma": hedges_g(y, x),
    }.items():  # fmt: skip
        agree(value, expected[field], tolerance, field)


@pytest.mark.parametrize("case", cases("paired"))
def test_pairs_with_ties_and_zeros(case):
    expected, tolerance = case["expected"], case["tolerance"]
    found = paired_contrast(case["input"]["y"], case["input"]["x"])
    for field, value in {
        "wilcoxon_v": found.test.v, "n_nonzero": found.test.n_used,
        "signed_rank_exact_conditional_p_with_ties_zeros_dropped": found.test.p,
        "pseudo_median_walsh": found.shift.value,
        "pseudo_median_ci95_low_orderstat": found.shift.interval.low,
        "pseudo_median_ci95_high_orderstat": found.shift.interval.high,
        "pseudo_median_ci_achieved_level": found.shift.interval.level,
    }.items():  # fmt: skip
        agree(value, expected[field], tolerance, field)


@pytest.mark.parametrize("case", cases("sequence"))
def test_sequence_diagnoses(case):
    x, expected, tolerance = case["input"]["x"], case["expected"], case["tolerance"]
    found = diagnose_sequence(x)
    for field, value in {
        "lag1_autocorrelation": found.lag1, "mann_kendall_s": found.trend.s,
        "kendall_tau_b": found.trend.tau, "mann_kendall_p_normal_continuity": found.trend.p,
        "theil_sen_slope_per_run": found.trend.slope_per_run, "shapiro_w": found.shapiro_w,
        "shapiro_p": found.shapiro_p,
    }.items():  # fmt: skip
        agree(value, expected[field], tolerance, field)
    assert list(found.far_out) == expected["modified_z_outlier_indices_3p5"]
    assert list(modified_z(x)) == pytest.approx(expected["modified_z"])


@pytest.mark.parametrize("case", cases("nist_style"))
def test_alternating_readings_on_a_large_offset(case):
    x, expected = case["input"]["x"], case["expected"]
    found = summarise_lane(x)
    assert found.mean == pytest.approx(expected["mean"], rel=1e-12)
    assert found.sd == pytest.approx(expected["sd"], rel=5e-8)
    assert diagnose_sequence(x).lag1 == pytest.approx(expected["lag1_autocorrelation"], rel=1e-7)


@pytest.mark.parametrize("case", cases("one_sample"))
def test_means_and_their_intervals(case):
    found, expected = summarise_lane(case["input"]["x"]), case["expected"]
    for field, value in {
        "se": found.se, "cv": found.cv, "geometric_mean": found.geometric_mean,
        "mean_ci95_low": found.mean_interval and found.mean_interval.low,
        "mean_ci95_high": found.mean_interval and found.mean_interval.high,
    }.items():  # fmt: skip
        agree(value, expected[field], case["tolerance"], field)


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
    assert hump_count(same) is None


def test_pairs_need_lanes_of_one_length():
    with pytest.raises(SampleError, match="not 2 and 3"):
        paired_contrast([1, 2], [1, 2, 3])


def test_two_humps_are_seen_and_one_is_not_doubled():
    generator = np.random.default_rng(3)
    one = generator.normal(10, 0.4, 40)
    two = np.where(generator.random(40) < 0.4, 3.0, 0.0) + one
    assert hump_count(one) == 1
    assert hump_count(two) == 2
    assert hump_count(one[:7]) is None


@given(st.lists(st.floats(0.1, 1e3), min_size=2, max_size=12))
def test_any_lane_is_diagnosed_without_a_warning(values):
    found = diagnose_sequence(values)
    assert found.n == len(values)
    assert found.has_little_power
