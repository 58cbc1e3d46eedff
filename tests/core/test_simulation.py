import numpy as np

from haremile.core.simulation import LaneTruth, MetricTruth, simulate_run
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
                5.0, 0.01, first_run=2.0, second_hump=3.0, second_share=0.3
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
