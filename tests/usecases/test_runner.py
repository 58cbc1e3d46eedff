import threading

import pytest

from haremile.core.records.study import RunState, StudyState
from haremile.errors import ConflictError, MissingHereError
from haremile.usecases.conduct import Conductor
from haremile.usecases.plan import checked_plan
from haremile.usecases.runner import StudyRunner
from helpers import FakeRig, capture_for, install

WAIT_S = 20


class GatedRig(FakeRig):
    """Lets each run through only when the test says so."""

    def __init__(self):
        super().__init__()
        self.entered, self.gate = threading.Semaphore(0), threading.Semaphore(0)

    def run(self, asked, mark):
        self.entered.release()
        assert self.gate.acquire(timeout=WAIT_S)
        return capture_for(asked)

    def interrupt(self, run_id=None):
        self.gate.release()


@pytest.fixture
def made(bench):
    rig = GatedRig()
    conductor = Conductor(bench.studies, bench.queue, bench.events, {"simulated": rig})
    runner = StudyRunner(conductor, bench.studies, bench.events)
    study = bench.studies.create(checked_plan("Q", [install("A"), install("B")], 2, seed=1))
    yield runner, rig, study
    runner.stop()


def join(runner):
    for thread in list(runner._threads.values()):
        thread.join(WAIT_S)
        assert not thread.is_alive()


def states(bench, study):
    return [run.state for run in bench.studies.runs(study.id)]


def test_a_study_runs_in_the_background_and_only_once(bench, made):
    runner, rig, study = made
    runner.start(study.id)
    assert rig.entered.acquire(timeout=WAIT_S)
    with pytest.raises(ConflictError, match="already"):
        runner.start(study.id)
    rig.gate.release(4)
    join(runner)
    assert states(bench, study) == [RunState.DONE] * 4


def test_a_pause_waits_for_the_run_under_way(bench, made):
    runner, rig, study = made
    runner.start(study.id)
    assert rig.entered.acquire(timeout=WAIT_S)
    runner.pause(study.id)
    rig.gate.release(4)
    join(runner)
    assert states(bench, study) == [RunState.DONE] + [RunState.PLANNED] * 3
    assert bench.studies.get(study.id).state is StudyState.PAUSED
    with pytest.raises(ConflictError, match="not running"):
        runner.pause(study.id)


def test_stopping_leaves_the_study_to_the_next_start(bench, made):
    runner, rig, study = made
    runner.start(study.id)
    assert rig.entered.acquire(timeout=WAIT_S)
    runner.stop()
    assert states(bench, study) == [RunState.PLANNED] * 4
    fresh = FakeRig()
    conductor = Conductor(bench.studies, bench.queue, bench.events, {"simulated": fresh})
    again = StudyRunner(conductor, bench.studies, bench.events)
    again.take_up_interrupted()
    join(again)
    assert states(bench, study) == [RunState.DONE] * 4


def test_what_stops_a_study_is_told_as_an_event(bench):
    lacking = FakeRig([MissingHereError("the guest systems are not built")])
    conductor = Conductor(bench.studies, bench.queue, bench.events, {"simulated": lacking})
    runner = StudyRunner(conductor, bench.studies, bench.events)
    study = bench.studies.create(checked_plan("Q", [install("A"), install("B")], 2, seed=1))
    runner.start(study.id)
    join(runner)
    stopped = [e for e in bench.events.after(0, study.id) if e.kind == "study.stopped"]
    assert [event.facts["reason"] for event in stopped] == ["the guest systems are not built"]
    assert states(bench, study) == [RunState.PLANNED] * 4


def test_stopping_now_ends_the_run_under_way_and_plans_it_again(made, bench):
    runner, rig, study = made
    runner.start(study.id)
    assert rig.entered.acquire(timeout=WAIT_S)
    runner.stop_now(study.id)
    runner._threads[study.id].join(WAIT_S)
    runs = bench.studies.runs(study.id)
    assert {run.state for run in runs} == {RunState.PLANNED}
    assert bench.studies.get(study.id).state is StudyState.PAUSED
    assert bench.readings.readings(study.id) == []
    with pytest.raises(ConflictError, match="not running"):
        runner.stop_now(study.id)
    runner.start(study.id)
    for _ in runs:
        rig.gate.release()
    runner._threads[study.id].join(WAIT_S)
    assert bench.studies.get(study.id).state is StudyState.DONE
    assert {run.attempt for run in bench.studies.runs(study.id)} == {1, 2}


def test_a_drain_ends_the_run_under_way_and_leaves_the_study_to_the_next_start(bench, made):
    runner, rig, study = made
    runner.start(study.id)
    assert rig.entered.acquire(timeout=WAIT_S)
    rig.gate.release(4)
    runner.drain(WAIT_S)
    assert states(bench, study).count(RunState.DONE) >= 1
    assert RunState.RUNNING not in states(bench, study)
    assert bench.studies.get(study.id).state in (StudyState.RUNNING, StudyState.DONE)


def test_a_drain_waits_no_longer_than_it_was_told(bench, made):
    runner, rig, study = made
    runner.start(study.id)
    assert rig.entered.acquire(timeout=WAIT_S)
    runner.drain(0.05)
    assert runner._threads[study.id].is_alive()
