"""What must hold for any readings at all."""

import dataclasses
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from haremile.core.comparison.findings import find
from haremile.core.comparison.records import Observation, Plan, RunOutcome
from haremile.core.comparison.verdict import VerdictRule, mirrored_pair, pair_verdict
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd
from haremile.core.records.study import RunState
from haremile.core.statistics.contrast import contrast, mirrored
from haremile.core.statistics.diagnostic_power import diagnostic_power
from haremile.core.statistics.equivalence import equivalence
from haremile.core.statistics.lane_statistics import quantile, stalls, summarise_lane
from haremile.core.statistics.location_tests import hedges_g, mann_whitney, welch
from haremile.core.statistics.modality import mode_count
from haremile.core.statistics.omnibus_tests import friedman, kruskal_wallis
from haremile.core.statistics.paired import paired_contrast
from haremile.core.statistics.permutation import permutation_test
from haremile.core.statistics.resampling import bootstrap_interval
from haremile.core.statistics.run_order import diagnose_sequence
from haremile.core.statistics.variance_components import moment_components
from haremile.errors import SampleError

sizes = st.floats(1e-60, 1e60)
wild = st.one_of(st.just(0.0), sizes, sizes.map(lambda v: -v), st.floats(-1e6, 1e6))
usual = st.floats(1.0, 1e3)
few = st.integers(1, 5).map(float)
late = st.just(math.inf)


def lanes(values, least=1, most=14):
    return st.lists(values, min_size=least, max_size=most)


any_lane = st.one_of(lanes(wild), lanes(usual), lanes(few))
with_time_outs = st.tuples(lanes(usual, 1), lanes(late, 0, 4)).map(lambda two: two[0] + two[1])
margins = st.one_of(
    st.builds(Margin, share=st.floats(0.001, 1)),
    st.builds(Margin, amount=st.floats(0.01, 50)),
    st.builds(Margin, share=st.floats(0.001, 1), amount=st.floats(0.01, 50)),
)


def numbers(found):
    """All numbers of a result, however deep."""
    if dataclasses.is_dataclass(found):
        found = [getattr(found, field.name) for field in dataclasses.fields(found)]
    if isinstance(found, list | tuple):
        return [number for item in found for number in numbers(item)]
    return [found] if isinstance(found, float) else []


@given(any_lane, any_lane)
@settings(deadline=None)
def test_any_finite_readings_give_numbers_and_no_warning(a, b):
    results = [
        summarise_lane(a),
        diagnose_sequence(a),
        contrast(a, b),
        mann_whitney(a, b),
        welch(a, b),
        kruskal_wallis([a, b]),
        stalls(a, 1.0),
        diagnostic_power(len(a)),
        quantile(a, 0.3),
    ]
    assert not any(math.isnan(number) for number in numbers(results))
    size = hedges_g(a, b)
    assert size is None or math.isfinite(size)


@given(any_lane, st.randoms())
@settings(deadline=None, max_examples=40)
def test_dearer_methods_stand_any_finite_readings_too(a, shuffler):
    b = [v * shuffler.choice([1.0, 0.5]) if abs(v) > 1e-50 else v for v in a]
    results = [
        paired_contrast(a, b),
        permutation_test(a[:6], b[:6]),
        equivalence(a, b, amount=1.0),
        bootstrap_interval([a], lambda rows: np.median(rows, axis=1), resamples=200),
        friedman([[x, y] for x, y in zip(a, b, strict=True)]),
        moment_components([[*a, 1.0], b]),
    ]
    assert not any(math.isnan(number) for number in numbers(results))
    assert mode_count(a) in (None, 1, 2)


@given(with_time_outs, with_time_outs)
def test_runs_that_timed_out_leave_limits_open_but_no_nonsense(a, b):
    found = contrast(a, b)
    assert not any(math.isnan(number) for number in numbers(found))
    assert found.shift.interval.low <= found.shift.value <= found.shift.interval.high
    assert summarise_lane(a).timed_out == sum(map(math.isinf, a))
    assert 0.0 <= found.probability_b_lower <= 1.0


@given(with_time_outs)
def test_a_time_out_is_slower_than_any_reading(a):
    before, after = summarise_lane(a), summarise_lane([*a, math.inf])
    assert after.median >= before.median
    assert contrast(a, [*a, math.inf]).cliffs_delta >= 0.0


@given(with_time_outs, with_time_outs, margins, st.sampled_from(GoodEnd), st.integers(2, 6))
@settings(deadline=None)
def test_swapping_a_and_b_mirrors_everything(a, b, margin, good_end, count):
    first, second = np.array(a), np.array(b)
    rule = VerdictRule(margin, good_end, count)
    there, back = pair_verdict(first, second, rule), pair_verdict(second, first, rule)
    turned = mirrored_pair(back)
    assert (turned.verdict, turned.lean) == (there.verdict, there.lean)
    assert numbers(mirrored(back.contrast)) == pytest.approx(numbers(there.contrast), rel=1e-9)


@given(st.lists(lanes(usual, 6, 10), min_size=3, max_size=4), margins)
@settings(deadline=None, max_examples=40)
def test_any_baseline_gives_the_same_verdicts(samples, margin):
    names = {no: f"lane {no}" for no in range(1, len(samples) + 1)}
    rows = []
    for order in (list(names), list(names)[::-1]):
        seen = [
            Observation(order[no - 1], "bench", "boot.total", "hand", value, {}, "boot")
            for no in names
            for value in samples[order[no - 1] - 1]
        ]
        runs = [RunOutcome(no, "bench", "boot", RunState.DONE) for no in names]
        rows.append(find(names, seen, runs, Plan({"boot.total": margin})).rows[0])
    for row in rows:
        found = {(pair.a, pair.b): pair.found.verdict for pair in row.pairs}
        assert all(found[(b, a)] is verdict.mirrored for (a, b), verdict in found.items())
    assert (rows[0].verdict, rows[0].leader) == (rows[1].verdict, rows[1].leader)


@given(lanes(usual, 2), st.floats(-100, 100), st.floats(0.01, 100))
def test_shifting_and_scaling_move_a_lane_as_they_must(a, by, factor):
    before = summarise_lane(a)
    moved = summarise_lane([v + by for v in a])
    scaled = summarise_lane([v * factor for v in a])
    for name in ("median", "mean", "q1", "p90", "maximum"):
        value = getattr(before, name)
        assert getattr(moved, name) == pytest.approx(value + by, abs=1e-9)
        assert getattr(scaled, name) == pytest.approx(value * factor, rel=1e-9)
    for name in ("iqr", "mad", "sd"):
        value = getattr(before, name)
        assert getattr(moved, name) == pytest.approx(value, abs=1e-6)
        assert getattr(scaled, name) == pytest.approx(value * factor, rel=1e-6, abs=1e-9)


@given(lanes(usual, 2), lanes(usual, 2), st.randoms())
def test_reordering_changes_no_comparison(a, b, shuffler):
    before = contrast(a, b)
    mixed = list(a)
    shuffler.shuffle(mixed)
    assert contrast(mixed, b) == before
    assert mann_whitney(mixed, b) == mann_whitney(a, b)


@given(lanes(usual, 4), lanes(usual, 4), st.floats(0.01, 100))
def test_a_ratio_does_not_know_its_unit(a, b, factor):
    before = contrast(a, b).ratio
    after = contrast([v * factor for v in a], [v * factor for v in b]).ratio
    assert numbers(after) == pytest.approx(numbers(before), rel=1e-9)


@pytest.mark.parametrize(
    ("bad", "says"),
    [
        ([], "a must hold at least one number"),
        ([[1.0, 2.0]], "a must be one row of numbers"),
        ([1.0, math.nan], "a must be finite; position 1 is nan"),
        ([1.0, -math.inf], "a must be finite; position 1 is -inf"),
        ([math.inf], "a must hold at least one number"),
        ([1.0, 1e300], "position 1 is 1e\\+300"),
    ],
)
def test_bad_readings_are_named(bad, says):
    with pytest.raises(SampleError, match=says):
        contrast(bad, [1.0, 2.0])


@pytest.mark.parametrize("level", [0.0, 1.0, -0.1, 95.0])
def test_a_level_lies_between_nought_and_one(level):
    with pytest.raises(SampleError, match="level must lie"):
        contrast([1.0], [2.0], level)
