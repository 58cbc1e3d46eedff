import pytest

from haremile.bench.conduct import Conductor
from haremile.bench.plan import checked_plan, plan_first_mile
from haremile.core.study import RunState, StudyState
from haremile.errors import (
    BadInputError,
    ConflictError,
    GuestPanickedError,
    MissingHereError,
    RunFailedError,
)
from haremile_probe.wire import WireError, load_capture
from helpers import FakeRig, install


def conductor(bench, rig):
    return Conductor(bench.studies, bench.desk, bench.events, {"simulated": rig})


@pytest.fixture
def study(bench):
    return bench.studies.create(checked_plan("Which?", [install("A"), install("B")], 3, seed=4))


def states(bench, study):
    return [run.state for run in bench.studies.runs(study.id)]


def test_the_whole_sheet_is_run_in_its_order(bench, study):
    rig = FakeRig()
    assert conductor(bench, rig).conduct(study.id)
    assert states(bench, study) == [RunState.DONE] * 6
    expected = [(run.block, run.lane_no) for run in bench.studies.runs(study.id)]
    assert [(asked.block, asked.lane_no) for asked in rig.orders] == expected
    assert bench.studies.get(study.id).state is StudyState.DONE


def test_a_failed_run_is_a_result_and_the_study_goes_on(bench, study):
    panic = GuestPanickedError("the guest's kernel panicked: no init", "…\nKernel panic")
    garbled = WireError("not a framed record: 'x'")
    rig = FakeRig([panic, OSError("no space left"), 3.0, BadInputError("what?"), garbled, 3.0])
    assert conductor(bench, rig).conduct(study.id)
    runs = bench.studies.runs(study.id)
    failed = [run for run in runs if run.state is RunState.FAILED]
    assert [run.reason for run in failed] == [
        "panicked: the guest's kernel panicked: no init",
        "failed: the rig met: no space left",
        "failed: what?",
        "failed: the rig met: not a framed record: 'x'",
    ]
    capture = load_capture(bench.readings.capture_of_run(failed[0].id).body)
    assert capture.outcome == "failed"
    assert "Kernel panic" in capture.text_of("log-tail")
    assert len(bench.readings.readings(study.id)) == 2


def test_a_pause_comes_after_the_run_and_going_on_does_the_rest(bench, study):
    rig = FakeRig()
    made = conductor(bench, rig)
    assert not made.conduct(study.id, stop=lambda: len(rig.orders) == 2)
    assert states(bench, study).count(RunState.PLANNED) == 4
    assert bench.studies.get(study.id).state is StudyState.PAUSED
    assert made.conduct(study.id)
    assert len(rig.orders) == 6


@pytest.mark.parametrize("blow", [KeyboardInterrupt(), MissingHereError("no QEMU")])
def test_an_interrupted_run_is_planned_again(bench, study, blow):
    with pytest.raises(type(blow)):
        conductor(bench, FakeRig([3.0, blow])).conduct(study.id)
    assert states(bench, study) == [RunState.DONE] + [RunState.PLANNED] * 5
    assert bench.studies.get(study.id).state is StudyState.PAUSED
    assert not bench.desk.is_held(study.id)


def test_abandoning_leaves_the_run_to_the_next_start(bench, study):
    made = None

    def abandon_meanwhile(asked):
        made.abandon()
        raise RunFailedError("its process was ended")

    made = conductor(bench, FakeRig([3.0, abandon_meanwhile]))
    assert not made.conduct(study.id)
    assert RunState.FAILED not in states(bench, study)
    assert bench.studies.get(study.id).state is StudyState.RUNNING
    assert conductor(bench, FakeRig()).conduct(study.id)


def test_two_conductors_never_share_a_study(bench, study):
    with bench.desk.hold(study.id), pytest.raises(ConflictError, match="another conductor"):
        conductor(bench, FakeRig()).conduct(study.id)


def test_contenders_without_a_rig_are_named(bench):
    plan = checked_plan("Which?", [install("A", rig=None), install("B")], 2)
    study = bench.studies.create(plan)
    with pytest.raises(ConflictError, match="A has no rig"):
        conductor(bench, FakeRig()).conduct(study.id)


@pytest.mark.parametrize(
    ("title", "names", "blocks", "says"),
    [("", "AB", 3, "question"), ("Q", "A", 3, "two contenders"), ("Q", "AB", 0, "between 1")],
)
def test_impossible_plans_are_refused(title, names, blocks, says):
    with pytest.raises(BadInputError, match=says):
        checked_plan(title, [install(name) for name in names], blocks)


def test_the_first_mile_compares_the_two_guests_with_margins_of_their_size(bench):
    study = plan_first_mile(bench.studies, "here", 5, seed=3)
    assert [c.label for c in study.contenders] == ["Osterfell Base", "Osterfell Laden"]
    assert study.margins["memory.used"].amount == 4 * 2.0**20
    assert len(bench.studies.runs(study.id)) == 10
