import pytest

from haremile.core.comparison.verdict import Verdict
from haremile.core.records.study import RunState, StudyState
from haremile.errors import BadInputError, ConflictError
from haremile.usecases.compare import study_findings
from haremile.usecases.plan import checked_plan, extend_study
from haremile_probe.wire import dump_capture
from helpers import capture_for, install, order


def planned(bench, blocks=6, interim_looks=()):
    installs = [install("A"), install("B")]
    return bench.studies.create(
        checked_plan("Which?", installs, blocks, seed=1, interim_looks=interim_looks)
    )


def run_all(bench, study, reason=None):
    """Every planned run: 3 s for lane 1, 9 s for lane 2, or a failure of lane 2's first."""
    while (lease := bench.queue.lease_next(study.id)) is not None:
        bench.queue.begin(lease)
        fails = reason and lease.run.lane_no == 2 and lease.run.block == 1
        value = lease.run.lane_no**2 * 2.0 + lease.run.block / 100
        made = capture_for(order(lease.install), value, "failed" if fails else "done")
        made.ticket = type(made.ticket)(str(lease.run.id), lease.run.attempt)
        made.reason = reason if fails else None
        bench.queue.finish(lease, made, dump_capture(made))
    bench.studies.set_state(study.id, StudyState.DONE)


def row_of(bench, study):
    return study_findings(bench.studies, bench.readings, study.id).rows[0]


def test_a_plan_keeps_its_looks_and_reads_verdicts_at_them(bench):
    study = planned(bench, 12, interim_looks=(6, 12))
    assert bench.studies.get(study.id).interim_looks.planned == (6, 12)
    run_all(bench, study)
    row = row_of(bench, study)
    pair = next(pair for pair in row.pairs if (pair.a, pair.b) == (1, 2))
    assert (row.verdict, pair.found.look.blocks) == (Verdict.AHEAD, 6)
    assert "Behind, read after block 6" in pair.sentence


def test_an_extension_adds_blocks_in_the_seeds_order_and_is_marked(bench):
    study = planned(bench, 3)
    run_all(bench, study)
    assert row_of(bench, study).verdict is Verdict.UNDECIDED
    before = [(run.block, run.lane_no) for run in bench.studies.runs(study.id)]
    longer = extend_study(bench.studies, study.id, 5)
    assert (longer.blocks, longer.interim_looks.planned, longer.interim_looks.extensions) == (
        8,
        (3,),
        (8,),
    )
    assert longer.state is StudyState.PAUSED
    runs = bench.studies.runs(study.id)
    assert [(run.block, run.lane_no) for run in runs][: len(before)] == before
    assert [run.position for run in runs] == list(range(1, 17))
    assert {run.state for run in runs[6:]} == {RunState.PLANNED}
    run_all(bench, study)
    row = row_of(bench, study)
    assert row.verdict is Verdict.AHEAD
    assert "read after block 8, extended" in row.pairs[0].sentence
    assert [event.kind for event in bench.events.after(0, study.id)].count("study.extended") == 1


def test_a_plan_that_is_not_done_is_not_extended(bench):
    study = planned(bench)
    with pytest.raises(ConflictError, match="not done"):
        extend_study(bench.studies, study.id, 2)
    with pytest.raises(BadInputError, match="between 1 and 494, not 600"):
        extend_study(bench.studies, study.id, 600)


def test_the_last_look_is_at_the_last_block(bench):
    with pytest.raises(BadInputError, match="must be at the last block, 12, not 6"):
        checked_plan("Which?", [install("A"), install("B")], 12, interim_looks=(3, 6))


def test_a_run_that_timed_out_counts_as_slower(bench):
    study = planned(bench, 8)
    run_all(bench, study, reason="timed out: no ready within 60 s")
    lane = next(lane for lane in row_of(bench, study).lanes if lane.lane_no == 2)
    assert (lane.summary.n, lane.summary.timed_out, lane.failed) == (7, 1, 1)
    assert lane.summary.median > 8.04  # of eight, not of the seven that ended
