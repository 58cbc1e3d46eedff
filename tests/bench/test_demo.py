"""The sample world: its findings recover what is true of it."""

import pytest

from haremile.bench.find import study_findings
from haremile.core.metrics import GoodEnd
from haremile.core.simulation import MetricTruth
from haremile.core.study import StudyState
from haremile.core.verdict import Verdict
from haremile.demo.load import load_sample_world
from haremile.demo.world import STUDIES


@pytest.fixture(name="world")
def bench_with_world(bench, world):
    return bench, world


def true_value(lane, metric):
    if metric == "boot.total":
        return lane.typical_total
    found: MetricTruth | None = lane.metrics.get(metric)
    return found.typical if found else None


def test_three_studies_are_finished_and_one_is_half_done(world):
    _, digests = world
    assert len(digests) == 4
    states = sorted(digest.state for digest in digests.values())
    assert states == [StudyState.DONE] * 3 + [StudyState.PAUSED]
    half = next(d for d in digests.values() if d.state is StudyState.PAUSED)
    assert 0 < half.finished < half.runs
    assert half.can_run
    assert sum(digest.failed for digest in digests.values()) >= 4
    assert all(4 <= len(digest.contenders) <= 6 for digest in digests.values())


@pytest.mark.parametrize(
    "truth", [t for t in STUDIES if t.done_runs is None], ids=lambda t: t.machine
)
def test_findings_recover_the_truth(world, truth):
    bench, digests = world
    found = study_findings(bench.studies, bench.readings, digests[truth.title].id)
    lanes = list(truth.lanes.values())
    judged = 0
    for row in found.rows:
        margin = row.margin.amount
        if row.start or row.verdict is Verdict.NOT_COMPARABLE or row.good_end is GoodEnd.HIGH:
            continue
        for pair in row.pairs:
            a, b = (true_value(lanes[lane - 1], row.metric) for lane in (pair.a, pair.b))
            difference = b - a
            is_calm = all(lanes[lane - 1].failure_share == 0 for lane in (pair.a, pair.b))
            if pair.found.verdict in (Verdict.AHEAD, Verdict.LOWER):
                assert difference < -0.8 * margin, (row.label, pair.sentence)
            if abs(difference) > 3 * margin and is_calm:
                assert pair.found.verdict.is_decided_difference, (row.label, pair.sentence)
                judged += 1
    assert judged > 20


def test_loading_twice_adds_nothing(world):
    bench, _ = world
    assert load_sample_world(bench.studies, bench.readings, bench.library, print) == 0


def test_other_browser_versions_are_not_compared(world):
    bench, digests = world
    herbarium = next(d for d in digests.values() if "Herbarium laptop soonest" in d.title)
    found = study_findings(bench.studies, bench.readings, herbarium.id)
    launches = [row for row in found.rows if row.metric == "launch.settled"]
    assert {row.verdict for row in launches} == {Verdict.NOT_COMPARABLE}
    assert "application version: 41, 42" in launches[0].sentence


def test_the_half_done_study_goes_on_in_the_lanes_it_began(world):
    bench, digests = world
    half = next(d for d in digests.values() if d.state is StudyState.PAUSED)
    assert bench.conductor.conduct(half.id)
    found = study_findings(bench.studies, bench.readings, half.id)
    assert found.is_complete
    row = next(row for row in found.rows if row.metric == "memory.used")
    assert row.verdict is Verdict.AHEAD
    assert [d.key for d in row.fair_start] == ["kernel"]
    assert sum(lane.summary.n for lane in row.lanes) + sum(lane.failed for lane in row.lanes) == 80
