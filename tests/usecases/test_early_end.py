import pytest

from haremile.core.records.interim_looks import InterimLooks
from haremile.core.records.margin import Margin
from haremile.core.records.study import RunState, StudyState
from haremile.usecases.compare import kept_findings
from haremile.usecases.conduct import Conductor
from haremile.usecases.early_end import DecidedWatch, asked_of
from haremile.usecases.plan import checked_plan, extend_study
from helpers import FakeRig, install

EVERY = InterimLooks.after_every_block(14).planned


def prepared(bench, apart, interim_looks=EVERY, margin=0.5):
    """Two systems so far apart, in up to 14 blocks, with what their runs will read."""
    plan = checked_plan(
        "Q",
        [install("A"), install("B")],
        14,
        seed=2,
        margins={"boot.total": Margin(amount=margin)},
        interim_looks=interim_looks,
    )
    study = bench.studies.create(plan)
    outcomes = []
    for place, run in enumerate(bench.studies.runs(study.id)):
        late = apart if run.lane_no == 2 else 0.0
        outcomes.append(3.0 + late + 0.1 * ((7 * place) % 5 - 2))
    return study, outcomes


def conductor_of(bench, outcomes, watches=True):
    watch = DecidedWatch(bench.studies, bench.readings, bench.queue)
    rigs = {"simulated": FakeRig(outcomes)}
    return Conductor(
        bench.studies, bench.queue, bench.events, rigs, end_watches=[watch] if watches else []
    )


def conducted(bench, apart, interim_looks=EVERY, margin=0.5):
    study, outcomes = prepared(bench, apart, interim_looks, margin)
    assert conductor_of(bench, outcomes).conduct(study.id)
    return bench.studies.get(study.id), bench.studies.runs(study.id)


def test_a_study_ends_at_the_first_block_at_which_all_that_was_asked_is_decided(bench):
    study, runs = conducted(bench, apart=4.0)
    assert study.state is StudyState.DONE
    assert 4 < study.blocks < 10
    later = [run for run in runs if run.block > study.blocks]
    assert {run.state for run in later} == {RunState.SKIPPED}
    assert later[0].reason == "not needed: all that was asked is decided"
    (digest,) = bench.studies.digests()
    assert digest.runs == digest.finished == len(runs) - len(later), "what was skipped is no run"
    (row,) = [
        row
        for row in kept_findings(bench.studies, bench.readings, study.id).findings.rows
        if row.metric == "boot.total"
    ]
    assert row.leader == 1
    assert row.pairs[0].found.look.blocks == study.blocks
    assert row.pairs[0].found.look.planned == EVERY


@pytest.mark.parametrize(
    ("apart", "interim_looks"), [(0.5, EVERY), (4.0, (14,))], ids=["open", "one look"]
)
def test_a_study_goes_on_while_anything_is_open_or_where_verdicts_are_read_at_the_end(
    bench, apart, interim_looks
):
    study, runs = conducted(bench, apart, interim_looks)
    assert study.blocks == 14
    assert {run.state for run in runs} == {RunState.DONE}


def test_repeats_that_are_added_after_an_early_end_go_on_with_the_planned_looks(bench):
    study, _ = conducted(bench, apart=4.0)
    further = extend_study(bench.studies, study.id, 2)
    assert further.interim_looks.planned == EVERY
    assert further.interim_looks.extensions == ()
    runs = [run for run in bench.studies.runs(study.id) if run.block > study.blocks]
    again = [run for run in runs if run.state is RunState.PLANNED]
    assert sorted({run.block for run in again}) == [study.blocks + 1, study.blocks + 2]
    assert len(runs) == 2 * (14 - study.blocks)


def test_repeats_that_are_added_after_an_early_end_are_all_carried_out(bench):
    study, _ = conducted(bench, apart=4.0)
    extend_study(bench.studies, study.id, 2)
    assert conductor_of(bench, [3.0, 7.0] * 4).conduct(study.id)
    assert bench.studies.get(study.id).blocks == study.blocks + 2
    added = [
        run for run in bench.studies.runs(study.id) if study.blocks < run.block <= study.blocks + 2
    ]
    assert [run.state for run in added] == [RunState.DONE] * 4


def test_a_study_whose_worker_was_killed_before_it_looked_ends_without_a_further_run(bench):
    study, outcomes = prepared(bench, apart=4.0)
    unwatched = conductor_of(bench, outcomes, watches=False)

    def eight_blocks_are_done():
        runs = bench.studies.runs(study.id)
        return sum(run.state is RunState.DONE for run in runs) >= 16

    assert not unwatched.conduct(study.id, stop=eight_blocks_are_done)
    assert conductor_of(bench, []).conduct(study.id)
    assert bench.studies.get(study.id).state is StudyState.DONE
    assert bench.studies.get(study.id).blocks == 8
    states = [run.state for run in bench.studies.runs(study.id)]
    assert states.count(RunState.DONE) == 16
    assert states.count(RunState.SKIPPED) == 12


def test_without_margins_a_study_is_about_what_stands_for_its_procedures(bench):
    plan = checked_plan("Q", [install("A"), install("B")], 3, procedures=("boot", "idle"))
    study = bench.studies.create(plan)
    assert asked_of(study) == {"boot.total", "memory.used"}
