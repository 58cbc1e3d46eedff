import threading
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from dataclasses import replace

import pytest

from haremile.core.records.study import Install, Machine, RunState, StudyState, System
from haremile.errors import (
    BadInputError,
    ConflictError,
    GuestDiedError,
    GuestPanickedError,
    MissingHereError,
    RigRestsError,
    RunFailedError,
    StoreUnavailableError,
)
from haremile.store.rows import HostRow, database
from haremile.store.runs import PostgresRunQueue
from haremile.usecases.conduct import Conductor
from haremile.usecases.plan import checked_plan, plan_first_mile
from haremile_probe.wire import Evidence, WireError, load_capture
from helpers import FakeRig, capture_for, install


def conductor(bench, rig):
    return Conductor(bench.studies, bench.queue, bench.events, {"simulated": rig})


class AtOnce(FakeRig):
    """Counts how many runs are under way at once; a gate lets them go on in pairs."""

    def __init__(self, gate=None):
        super().__init__()
        self.gate, self.now, self.most, self.guard = gate, 0, 0, threading.Lock()

    def run(self, asked, mark):
        with self.guard:
            self.now += 1
            self.most = max(self.most, self.now)
        if self.gate is not None and not self.gate.broken:
            with suppress(threading.BrokenBarrierError):
                self.gate.wait(2)
        with self.guard:
            self.now -= 1
        return capture_for(asked)


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
    assert [run.reason for run in failed] == ["panicked: the guest's kernel panicked: no init"]
    ours = [run.reason for run in runs if run.state is RunState.VOID]
    assert ours == [
        "could not measure: the rig met: no space left",
        "could not measure: what?",
        "could not measure: the rig met: not a framed record: 'x'",
    ], "never counted against the system"
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
    assert not bench.queue.is_held(study.id)


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


def test_two_conductors_share_a_study_and_do_no_run_twice(bench):
    installs = [install("A", "One"), install("B", "One"), install("C", "Two")]
    study = bench.studies.create(checked_plan("Which?", installs, 8, seed=4))
    rigs = [FakeRig(), FakeRig()]
    with ThreadPoolExecutor(2) as pool:
        made = [pool.submit(conductor(bench, rig).conduct, study.id) for rig in rigs]
    assert [one.result() for one in made] == [True, True]
    assert states(bench, study) == [RunState.DONE] * 24
    asked = [order.run_id for rig in rigs for order in rig.orders]
    assert len(asked) == len(set(asked)) == 24


def test_a_machine_does_one_run_at_a_time_and_a_host_no_more_than_it_can(bench):
    at_once = AtOnce()
    machines = [Machine(f"Guest {i}", "simulated", host="Carrier") for i in (1, 2, 3)]
    installs = [Install(System("A"), machine, rig="simulated") for machine in machines]
    study = bench.studies.create(checked_plan("Which?", installs, 3, seed=4))
    assert conductor(bench, at_once).conduct(study.id)
    assert at_once.most == 1
    with database.connection_context():
        HostRow.update(capacity=2).where(HostRow.name == "Carrier").execute()
    study = bench.studies.create(checked_plan("Which?", installs, 3, seed=4))
    at_once = AtOnce(gate=threading.Barrier(2, timeout=20))
    assert conductor(bench, at_once).conduct(study.id)
    assert at_once.most == 2


def test_contenders_without_a_rig_are_named(bench):
    plan = checked_plan("Which?", [install("A", rig=None), install("B")], 2)
    study = bench.studies.create(plan)
    with pytest.raises(ConflictError, match="A cannot be run from here"):
        conductor(bench, FakeRig()).conduct(study.id)


@pytest.mark.parametrize(
    ("title", "names", "blocks", "says"),
    [
        ("", "AB", 3, "question"),
        ("Q", "", 3, "one contender"),
        ("Q", "AB", 0, "between 1"),
    ],
)
def test_impossible_plans_are_refused(title, names, blocks, says):
    with pytest.raises(BadInputError, match=says):
        checked_plan(title, [install(name) for name in names], blocks)


def test_the_first_mile_compares_the_two_guests_with_margins_of_their_size(bench):
    study = plan_first_mile(bench.studies, "here", 5, seed=3)
    assert [c.label for c in study.contenders] == ["Osterfell Base", "Osterfell Server"]
    assert study.margins["memory.used"].amount == 4 * 2.0**20
    assert len(bench.studies.runs(study.id)) == 10


class Flaky:
    """A queue whose database is away for a while, before or after it did what it was asked."""

    def __init__(self, queue, away_at):
        self.queue, self.away_at, self.calls = queue, set(away_at), 0

    def __getattr__(self, name):
        real = getattr(self.queue, name)
        if name not in ("lease_next", "begin", "finish"):
            return real

        def call(*args):
            self.calls += 1
            away = self.calls in self.away_at
            if away and self.calls % 2:
                raise StoreUnavailableError("the database does not answer")
            answer = real(*args)
            if away:
                raise StoreUnavailableError("the answer was lost")
            return answer

        return call


def test_a_database_that_goes_away_costs_no_reading_and_doubles_none(
    bench, study, throwaway_url, monkeypatch
):
    monkeypatch.setattr("haremile.usecases.worker.LONGEST_PAUSE_S", 0.01)
    kept = PostgresRunQueue(throwaway_url, bench.events, lease_s=0.3)
    queue = Flaky(kept, away_at=[2, 3, 5, 6, 9, 12])
    rig = FakeRig()
    made = Conductor(bench.studies, queue, bench.events, {"simulated": rig})
    assert made.conduct(study.id)
    assert states(bench, study) == [RunState.DONE] * 6
    assert len(bench.readings.readings(study.id)) == len(rig.orders) == 6


class ElapsedTimer:
    """A timer whose time is over as soon as it starts."""

    def __init__(self, seconds, then):
        self.seconds, self.then = seconds, then

    def start(self):
        self.then()

    def cancel(self):
        pass


class HangingRig(FakeRig):
    """Gives nothing until it is ended."""

    def __init__(self):
        super().__init__()
        self.ended = threading.Event()

    def run(self, asked, mark):
        assert self.ended.wait(20)
        raise GuestDiedError("its process ended", "the last it said")

    def interrupt(self, run_id=None):
        self.ended.set()


def test_a_run_that_takes_longer_than_its_procedure_may_is_ended_and_says_so(bench):
    made = replace(install("A"), recipe={"truth": "A", "limit_s": "40"})
    study = bench.studies.create(checked_plan("Q", [made, install("B")], 1, seed=1))
    rigs = {"simulated": HangingRig()}
    conductor = Conductor(bench.studies, bench.queue, bench.events, rigs, timer=ElapsedTimer)
    assert conductor.conduct(study.id)
    runs = {run.lane_no: run for run in bench.studies.runs(study.id)}
    assert runs[1].reason == "timed out: no result within 40 s"
    assert runs[2].reason == "timed out: no result within 900 s"
    capture = load_capture(bench.readings.capture_of_run(runs[1].id).body)
    assert capture.text_of("log-tail") == "the last it said"


def test_a_machine_rests_while_the_others_go_on(bench):
    ill = {f"Ill {i}": RunFailedError("its disk is full") for i in range(1)}

    class Mixed(FakeRig):
        def run(self, asked, mark):
            if asked.install.machine.name in ill:
                raise ill[asked.install.machine.name]
            return capture_for(asked)

    study = bench.studies.create(
        checked_plan("Q", [install("A", "Ill 0"), install("B", "Well")], 5, seed=1)
    )
    with pytest.raises(RigRestsError, match="Ill 0 rests after 3 failed runs"):
        conductor(bench, Mixed()).conduct(study.id)
    by_lane = {1: [], 2: []}
    for run in bench.studies.runs(study.id):
        by_lane[run.lane_no].append(run.state)
    assert by_lane[1] == [RunState.FAILED] * 3 + [RunState.PLANNED] * 2
    assert by_lane[2] == [RunState.DONE] * 5
    (rests,) = [e for e in bench.events.after(0, study.id) if e.kind == "machine.rests"]
    assert "its disk is full" in rests.facts["reason"]


def test_machines_of_another_host_are_left_to_its_own_conductor(bench):
    far, near = (
        replace(install(name), rig="guest", machine=Machine(name, "virtual", host=name))
        for name in ("Far", "Near")
    )
    study = bench.studies.create(checked_plan("Q", [far, near], 2, seed=1))
    made = {
        name: Conductor(bench.studies, bench.queue, bench.events, {"guest": FakeRig()}, host=name)
        for name in ("Near", "Far", "Elsewhere")
    }
    with pytest.raises(ConflictError, match="its machines are on Far, Near; run it there"):
        made["Elsewhere"].conduct(study.id)
    assert not made["Near"].conduct(study.id)
    assert bench.studies.get(study.id).state is StudyState.RUNNING
    assert made["Far"].conduct(study.id)


def test_a_procedure_that_a_rig_cannot_do_is_refused_beforehand(bench):
    plan = checked_plan(
        "Q", [install("A"), install("B")], 2, procedures=["boot", "launch:Coppicer"]
    )
    study = bench.studies.create(plan)
    rig = FakeRig()
    rig.procedures = frozenset({"boot"})
    with pytest.raises(ConflictError, match="A: what operates its machine does boot, not launch"):
        conductor(bench, rig).conduct(study.id)
    rig.procedures = FakeRig.procedures
    assert conductor(bench, rig).conduct(study.id)
    assert {(o.procedure, o.conditions.get("app")) for o in rig.orders} == {
        ("boot", None),
        ("launch", "Coppicer"),
    }
    assert len(rig.orders) == 8


def test_what_a_rig_brings_that_cannot_be_kept_is_no_result_and_leaves_its_evidence(bench, study):
    def twice(asked):
        capture = capture_for(asked)
        capture.readings.append(capture.readings[0])
        capture.evidence.append(Evidence("serial", "the last it said"))
        return capture

    assert conductor(bench, FakeRig([twice])).conduct(study.id)
    first = bench.studies.runs(study.id)[0]
    assert first.state is RunState.VOID
    assert "boot.total by host-marker stands 2 times" in first.reason
    capture = load_capture(bench.readings.capture_of_run(first.id).body)
    assert capture.text_of("serial") == "the last it said"


def test_a_time_limit_that_is_none_fails_its_run_and_not_the_study(bench):
    odd = replace(install("A"), recipe={"truth": "A", "limit_s": "soon"})
    study = bench.studies.create(checked_plan("Q", [odd, install("B")], 1, seed=1))
    assert conductor(bench, FakeRig()).conduct(study.id)
    by_lane = {run.lane_no: run for run in bench.studies.runs(study.id)}
    assert by_lane[1].reason == "could not measure: limit_s is in seconds, not soon"
    assert by_lane[2].state is RunState.DONE
