import pytest

from haremile.core.records.precision import PrecisionPlan
from haremile.core.records.study import RunState, StudyState
from haremile.errors import BadInputError, RunFailedError
from haremile.usecases.conduct import Conductor
from haremile.usecases.plan import checked_plan
from haremile.usecases.precision import PrecisionWatch
from helpers import FakeRig, install


def conducted(bench, outcomes, width, blocks=14):
    plan = checked_plan(
        "Q",
        [install("A"), install("B")],
        blocks,
        seed=2,
        stopping=PrecisionPlan("boot.total", width),
    )
    study = bench.studies.create(plan)
    watch = PrecisionWatch(bench.studies, bench.readings, bench.queue)
    rigs = {"simulated": FakeRig(outcomes)}
    made = Conductor(bench.studies, bench.queue, bench.events, rigs, end_watches=[watch])
    assert made.conduct(study.id)
    return bench.studies.get(study.id), bench.studies.runs(study.id)


def wobbling(spread):
    return [3.0 + spread * ((7 * i) % 5 - 2) for i in range(28)]


def test_a_study_ends_with_the_block_after_which_all_is_known_precisely(bench):
    study, runs = conducted(bench, wobbling(0.001), width=0.5)
    assert study.state is StudyState.DONE
    assert study.blocks == 10
    later = [run for run in runs if run.block > 10]
    assert {run.state for run in later} == {RunState.SKIPPED}
    assert later[0].reason.startswith("not needed: the widest interval is")
    assert later[0].reason.endswith("0.5 s was asked for")
    assert {run.state for run in runs if run.block <= 10} == {RunState.DONE}


def test_a_study_that_is_never_precise_ends_at_its_limit(bench):
    study, runs = conducted(bench, wobbling(1.0), width=0.01)
    assert study.blocks == 14
    assert {run.state for run in runs} == {RunState.DONE}


def test_failed_runs_do_not_count_as_precise(bench):
    outcomes = [RunFailedError("no") if i % 2 else 3.0 for i in range(28)]
    study, _ = conducted(bench, outcomes, width=0.5)
    assert study.blocks in (10, 14)
    assert study.state is StudyState.DONE


@pytest.mark.parametrize(
    ("key", "width", "blocks", "interim_looks", "says"),
    [
        ("boot.totl", 1.0, 20, (), "unknown metric"),
        ("boot.total", -1.0, 20, (), "positive"),
        ("boot.total", 1.0, 5, (), "takes 10 blocks"),
        ("boot.total", 1.0, 20, (10, 20), "not both"),
    ],
)
def test_impossible_precision_is_refused(key, width, blocks, interim_looks, says):
    stopping = PrecisionPlan(key, width)
    with pytest.raises(BadInputError, match=says):
        checked_plan(
            "Q",
            [install("A"), install("B")],
            blocks,
            interim_looks=interim_looks,
            stopping=stopping,
        )
