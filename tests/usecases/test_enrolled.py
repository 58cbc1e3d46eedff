import json
from dataclasses import replace
from uuid import uuid4

import pytest

from haremile.core.records.study import Install, Machine, RunState, StudyState, System
from haremile.errors import (
    BadInputError,
    CaptureConflictError,
    ConflictError,
    NotAllowedError,
    NotFoundError,
)
from haremile.rigs.enrolled import EnrolledRig
from haremile.usecases.conduct import Conductor
from haremile.usecases.enrolled import EnrolledMachines, Sign
from haremile.usecases.plan import checked_plan
from haremile.usecases.ports import RunOrder
from haremile_probe.jobs import Job
from haremile_probe.signing import name_of, secret_of
from haremile_probe.wire import CaptureReading, Evidence, Ticket, dump_capture, load_capture
from helpers import capture_for, order_of

LAPTOP = Machine("Laptop")


class Clock:
    def __init__(self):
        self.now = 1000.0

    def __call__(self):
        self.now += 1.0
        return self.now


@pytest.fixture
def made(bench):
    """Two installs of one laptop, which is switched by the firmware's next entry."""
    identities = {}
    for name, entry in (("Varrow 12", "Boot0001"), ("Quillfern 8", "Boot0002")):
        recipe = {"switching": "next-entry", "entry": entry}
        bench.library.ensure(Install(System(name), LAPTOP, rig="enrolled", recipe=recipe))
        identities[name] = uuid4()
        bench.machines.enrol("Laptop", name, identities[name])
    installs = [i for i in bench.library.installs() if i.machine.name == "Laptop"]
    study = bench.studies.create(checked_plan("Which?", installs, 1, seed=3))
    server = EnrolledMachines(bench.machines, bench.events, lambda e: Job(e.procedure), Clock())
    return study, identities, server


def asked(bench, study):
    """The next run, as the conductor hands it to the rig, and its job."""
    lease = bench.queue.lease_next(study.id)
    bench.queue.begin(lease)
    return lease, bench.machines.put(order_of(lease))


def brought(job, **changes):
    capture = capture_for(RunOrder(job.run_id, job.attempt, "boot", job.install, 1, 1, 1))
    return replace(capture, **changes)


def test_a_boot_is_ordered_in_the_wanted_install_and_begun_when_it_came_up(bench, made):
    study, identities, server = made
    _, job = asked(bench, study)
    wanted = job.install.system.name
    other = next(name for name in identities if name != wanted)
    step = server.instruct("Laptop", Sign(identities[other], "boot 1"))
    assert (step.do, step.entry) == ("restart", job.install.recipe["entry"])
    assert (
        server.instruct("Laptop", Sign(identities[other], "boot 1", is_leaving=True)).do == "wait"
    )
    step = server.instruct("Laptop", Sign(identities[wanted], "boot 2"))
    assert (step.do, step.asked) == ("run", Job("boot"))
    stamps = bench.machines.job(job.run_id, job.attempt).stamps
    assert stamps["ordered"] < stamps["last_sign"] < stamps["first_sign"] < stamps["begun"]
    assert server.instruct("Laptop", Sign(identities[wanted], "boot 2", busy=job.run_id)).do == (
        "go on"
    )


def test_a_machine_that_came_up_in_another_install_waits_and_says_so(bench, made):
    study, identities, server = made
    _, job = asked(bench, study)
    other = next(name for name in identities if name != job.install.system.name)
    server.instruct("Laptop", Sign(identities[other], "boot 1"))
    for _ in range(2):
        step = server.instruct("Laptop", Sign(identities[other], "boot 2"))
        assert step.do == "wait"
        assert "did not come up in" in step.says
    told = [e for e in bench.events.after(0) if e.kind == "machine.waits"]
    assert len(told) == 1


@pytest.mark.parametrize(
    ("way", "says"),
    [
        ("disk-swap", "put in the disk with"),
        ("reinstall", "wipe the machine"),
        ("none", "no way to switch"),
    ],
)
def test_where_a_person_switches_the_sheet_says_what_to_do(bench, made, way, says):
    study, identities, server = made
    for install in bench.library.installs():
        bench.library.ensure(replace(install, recipe={"switching": way}))
    _, job = asked(bench, study)
    other = next(name for name in identities if name != job.install.system.name)
    step = server.instruct("Laptop", Sign(identities[other], "boot 1"))
    assert step.do == "wait"
    assert says in step.says
    assert job.install.system.name in step.says


def test_a_capture_may_come_twice_but_not_with_other_bytes(bench, made):
    study, _, server = made
    lease, job = asked(bench, study)
    body = dump_capture(brought(job))
    assert server.take("Laptop", body) == "taken"
    assert server.take("Laptop", body) == "known already"
    rig = EnrolledRig(bench.machines)
    capture = rig.run(order_of(lease), lambda name, at: None)
    assert json.loads(capture.text_of("handed-in"))["id"] == load_capture(body).id
    bench.queue.finish(lease, capture, dump_capture(capture))
    assert server.take("Laptop", body) == "known already"
    with pytest.raises(CaptureConflictError, match="another answer already"):
        server.take("Laptop", dump_capture(brought(job, probe="other")))
    assert len(bench.readings.readings(study.id)) == 1


def test_a_late_capture_is_kept_as_evidence_and_gives_no_reading(bench, made):
    study, _, server = made
    _, job = asked(bench, study)
    capture = brought(job)
    bench.queue.release(study.id)
    assert server.instruct("Laptop", Sign(made[1]["Varrow 12"], "b", busy=job.run_id)).do == "end"
    body = dump_capture(capture)
    assert server.take("Laptop", body) == "came too late"
    assert server.take("Laptop", body) == "known already"
    with pytest.raises(CaptureConflictError):
        server.take("Laptop", dump_capture(replace(capture, probe="other")))
    assert bench.readings.readings(study.id) == []


def test_what_answers_no_run_of_the_machine_is_refused(bench, made):
    study, _, server = made
    _, job = asked(bench, study)
    stray = brought(job)
    with pytest.raises(BadInputError, match="answers no run"):
        server.take("Laptop", dump_capture(replace(stray, ticket=None)))
    with pytest.raises(NotFoundError):
        server.take("Laptop", dump_capture(replace(stray, ticket=Ticket(str(uuid4()), 1))))
    with pytest.raises(NotAllowedError):
        server.take("Desktop", dump_capture(stray))
    with pytest.raises(BadInputError):
        server.take("Laptop", b"{}")
    with pytest.raises(NotFoundError, match="identity"):
        server.instruct("Laptop", Sign(uuid4(), "boot 1"))


def test_an_answer_outlives_the_conductor_that_asked_for_it(bench, made):
    study, _, server = made
    bench.studies.set_state(study.id, StudyState.RUNNING)
    with bench.queue.hold(study.id) as hand:
        lease = bench.queue.lease_next(study.id, hand.id, "Laptop")
        bench.queue.begin(lease)
        job = bench.machines.put(order_of(lease))
    assert bench.queue.release_lost(study.id) == 0, "the machine still works on it"
    capture = brought(job, readings=[CaptureReading("boot.kernel", 2.0, "s", "systemd")])
    server.take("Laptop", dump_capture(capture))
    rigs = {"enrolled": EnrolledRig(bench.machines, wait=answering(bench, server))}
    assert Conductor(bench.studies, bench.queue, bench.events, rigs).conduct(study.id)
    runs = bench.studies.runs(study.id)
    assert [(run.state, run.attempt) for run in runs] == [(RunState.DONE, 1)] * 2
    kinds = [event.kind for event in bench.events.after(0, study.id)]
    assert kinds.count("run.adopted") == 1
    assert len(bench.readings.readings(study.id)) == 2


def answering(bench, server):
    """In place of waiting: the machine answers at once."""

    def wait(ended, seconds):
        job = bench.machines.next_job("Laptop")
        if job is not None:
            server.take("Laptop", dump_capture(brought(job)))

    return wait


def test_keys_are_of_one_machine_kept_hashed_and_can_be_revoked(bench, made, throwaway_url):
    first, second = (bench.machines.new_key("Laptop") for _ in range(2))
    assert first.isalnum()  # on a command line it is never taken for an option
    assert first != second
    secrets = [secret_of(key) for key in (first, second)]
    assert [bench.machines.key_named(name_of(one)) for one in secrets] == [
        (one, "Laptop", False) for one in secrets
    ]
    assert bench.machines.revoke_keys("Laptop") == 2
    assert all(bench.machines.key_named(name_of(one))[2] for one in secrets)
    assert bench.machines.key_named(name_of(secret_of("guessed"))) is None
    with pytest.raises(NotFoundError):
        bench.machines.new_key("Nothing")


def test_two_installs_never_share_a_name_on_a_machine(bench, made):
    with pytest.raises(ConflictError, match="as another install"):
        bench.machines.enrol("Laptop", "Varrow 12", uuid4())
    again = bench.machines.enrol("Laptop", "Varrow 12", made[1]["Varrow 12"])
    assert again.recipe["entry"] == "Boot0001"
    with pytest.raises(ConflictError, match="one of Laptop"):
        bench.machines.enrol("Desktop", "Varrow 12", made[1]["Varrow 12"])


def test_a_large_capture_is_read_within_bounds_and_taken_all_the_same(bench, made):
    study, _, _ = made
    _, job = asked(bench, study)
    capture = brought(job, evidence=[Evidence("journal", "a line\n" * 100_000)])
    assert bench.enrolled.take("Laptop", dump_capture(capture)) == "taken"
    lists = b'{"format": [' + b"[]," * 3_000_000 + b"[]]}"
    with pytest.raises(BadInputError):
        bench.enrolled.take("Laptop", lists)
