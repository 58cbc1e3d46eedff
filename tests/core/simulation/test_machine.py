import numpy as np
import pytest

from haremile.core.simulation.machine import LaneTruth, MetricTruth, simulate_launch, simulate_run
from helpers import truth


def drawn(lane, n=400):
    runs = [simulate_run(lane, 3, 1, block) for block in range(2, n + 2)]
    return runs


def test_the_same_seed_lane_and_block_give_the_same_run():
    assert simulate_run(truth(9.0), 3, 1, 5) == simulate_run(truth(9.0), 3, 1, 5)
    assert simulate_run(truth(9.0), 3, 1, 5) != simulate_run(truth(9.0), 3, 2, 5)


def test_the_typical_value_is_the_median_and_the_total_the_sum_of_parts():
    runs = drawn(truth(9.0))
    totals = [run.values["boot.total"] for run in runs]
    assert abs(np.median(totals) - 9.0) < 0.05
    for run in runs[:5]:
        parts = run.values["boot.kernel"] + run.values["boot.userspace"]
        assert run.values["boot.total"] == parts


def test_failures_humps_and_the_slow_first_run_come_as_stated():
    lane = LaneTruth(
        {
            "boot.userspace": MetricTruth(
                5.0, 0.01, first_run=2.0, second_mode=3.0, second_share=0.3
            )
        },
        failure_share=0.2,
    )
    runs = drawn(lane)
    failed = sum(run.failure is not None for run in runs)
    assert 0.13 < failed / len(runs) < 0.27
    values = [run.values["boot.userspace"] for run in runs if not run.failure]
    assert 0.22 < np.mean(np.array(values) > 6.5) < 0.38
    firsts = [simulate_run(lane, seed, 1, 1).values.get("boot.userspace", 7.0) for seed in range(9)]
    assert min(firsts) > 6.5


def test_stalls_drift_and_a_recorder_that_was_left_on_come_as_stated():
    lane = LaneTruth(
        {"boot.userspace": MetricTruth(5.0, 0.01, drift=0.1)},
        stall_share=0.2,
        stall_s=20.0,
        recorder_blocks=(7,),
        recorder_share=0.5,
        conditions={"recorder": "none"},
    )
    values = [simulate_run(lane, 3, 1, block).values["boot.userspace"] for block in range(1, 201)]
    stalled = [value for block, value in enumerate(values) if value > 5.0 + 0.1 * block + 10.0]
    assert 0.12 < len(stalled) / len(values) < 0.28
    calm = [value - 0.1 * block for block, value in enumerate(values) if value not in stalled]
    assert np.median(calm) == pytest.approx(5.0, abs=0.05)
    assert values[6] > 1.4 * (5.0 + 0.6)
    assert lane.conditions_in(7) == {"recorder": "running"}
    assert lane.conditions_in(8) == {"recorder": "none"}


def test_launches_have_truths_of_their_own():
    lane = LaneTruth({}, launches={"Coppicer": MetricTruth(0.8, 0.01)})
    assert simulate_launch(lane, "Coppicer", 3, 1, 5) == pytest.approx(0.8, abs=0.1)
    with pytest.raises(KeyError):
        simulate_launch(lane, "Inkwarren", 3, 1, 5)
