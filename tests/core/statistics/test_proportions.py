import pytest
from scipy import stats

from haremile.core.comparison.reliability import failure_reason, is_time_out, reliability
from haremile.core.statistics.proportions import compare_proportions, proportion, unseen_share
from haremile.errors import SampleError


@pytest.mark.parametrize(("count", "runs"), [(0, 20), (4, 20), (19, 20), (20, 20), (1, 3)])
def test_the_score_interval_is_wilsons(count, runs):
    expected = stats.binomtest(count, runs).proportion_ci(method="wilson")
    found = proportion(count, runs)
    assert found.share == count / runs
    assert (found.interval.low, found.interval.high) == pytest.approx(tuple(expected), abs=1e-12)


def test_a_difference_of_shares_has_newcombes_interval():
    found = compare_proportions(proportion(48, 80), proportion(56, 70))  # his example, turned
    assert found.difference.value == pytest.approx(0.2)
    limits = found.difference.interval
    assert (limits.low, limits.high) == pytest.approx((0.0524, 0.3339), abs=5e-5)
    assert found.p == pytest.approx(stats.fisher_exact([[56, 14], [48, 32]]).pvalue)


def test_what_was_not_run_or_never_failed_has_no_p():
    assert compare_proportions(proportion(0, 0), proportion(1, 5)).difference is None
    assert compare_proportions(proportion(0, 9), proportion(0, 9)).p is None
    assert proportion(0, 0).interval is None


@pytest.mark.parametrize(("count", "runs"), [(-1, 5), (6, 5)])
def test_more_failures_than_runs_are_refused(count, runs):
    with pytest.raises(SampleError, match=f"between 0 and 5 runs, not {count}"):
        proportion(count, runs)


def test_twenty_quiet_boots_leave_fourteen_per_cent_unseen():
    assert unseen_share(20) == pytest.approx(0.139, abs=5e-4)
    assert unseen_share(0) == 1.0


def test_a_lane_that_fails_more_often_beyond_doubt_is_named():
    found = reliability({1: (0, 0, 20), 2: (12, 0, 20), 3: (3, 1, 20)})
    assert {(pair.a, pair.b, pair.worse) for pair in found.decided} == {(1, 2, 2), (2, 3, 2)}
    assert found.lanes[0].failed.interval.level == pytest.approx(1 - 0.05 / 3)
    turned = reliability({1: (12, 0, 20), 2: (0, 0, 20)})
    assert turned.decided[0].worse == 1


@pytest.mark.parametrize(
    ("outcome", "reason", "late"),
    [
        ("timed-out", None, True),
        ("timed-out", "no login", True),
        ("failed", "timed out: no login", True),
        ("failed", "hung", False),
        ("failed", None, False),
    ],
)
def test_time_outs_are_told_from_other_failures(outcome, reason, late):
    assert is_time_out(outcome, reason) is late
    assert is_time_out("failed", failure_reason(outcome, reason)) is late
