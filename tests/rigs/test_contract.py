"""What every rig keeps to, whatever it operates."""

import threading
from collections.abc import Callable
from dataclasses import dataclass, replace
from uuid import UUID

import pytest

from enrolled_machine import EnrolledMachine, alive
from haremile.bootstrap import probe_archive
from haremile.cli.session import present_settings
from haremile.core.records.study import Install, Machine, System
from haremile.errors import BadInputError, RunFailedError
from haremile.formats.captures import checked_capture
from haremile.formats.guest_records import MeminfoWatch
from haremile.rigs.enrolled import EnrolledRig
from haremile.rigs.guest.build import GuestImages
from haremile.rigs.guest.rig import GuestRig
from haremile.rigs.local import LocalRig
from haremile.rigs.simulated import SimulatedRig
from haremile.usecases.plan import checked_plan, guest_installs
from haremile.usecases.ports import Rig, RunOrder
from helpers import order, order_of, served, truth

WAIT_S = 60


@dataclass
class Case:
    """A rig with an order that it can carry out, and one that it cannot mean."""

    rig: Rig
    order: Callable[[], RunOrder]
    impossible: RunOrder


def simulated():
    made = Install(
        System("A"), Machine("Bench", "simulated"), rig="simulated", recipe={"truth": "A"}
    )
    unknown = order(replace(made, recipe={"truth": "nothing"}))
    return Case(SimulatedRig({"A": truth(9.0)}, speed=20.0), lambda: order(made), unknown)


def guest():
    images = GuestImages(present_settings().guests)
    made = guest_installs("here")[0]
    rig = GuestRig(images, lambda: "tcg", MeminfoWatch)
    unknown = order(replace(made, recipe={"image": "nothing"}))
    return Case(rig, lambda: order(made), unknown)


def here(tmp_path):
    made = Install(
        System("Osterfell Base"),
        Machine("Bench"),
        rig="here",
        recipe={"probe.idle": "--window 1 --limit 4"},
    )
    nameless = replace(order(made), procedure="launch")
    return Case(
        LocalRig(lambda: probe_archive(tmp_path)),
        lambda: replace(order(made), procedure="idle"),
        nameless,
    )


@pytest.fixture(params=["simulated", "guest", "here", "enrolled"])
def case(request, bench, throwaway_url, tmp_path, monkeypatch):
    if request.param == "here":
        yield here(tmp_path)
    elif request.param != "enrolled":
        yield {"simulated": simulated, "guest": guest}[request.param]()
    else:
        monkeypatch.setattr("haremile.usecases.enrolled.IDLE_S", 0.1)
        bench.library.ensure(Install(System("Varrow 12"), Machine("Laptop")))
        key = bench.machines.new_key("Laptop")
        with served(bench, throwaway_url) as address:
            machine = EnrolledMachine(tmp_path / "laptop", address, key, "Varrow 12")
            recipe = {"probe.idle": "--window 1 --limit 4"}
            install = bench.library.ensure(
                Install(System("Varrow 12"), Machine("Laptop"), rig="enrolled", recipe=recipe)
            )
            other = Install(System("Quillfern 8"), Machine("Aside", "simulated"))
            plan = checked_plan("Q", [install, other], 3, seed=1, procedures=["idle"])
            study = bench.studies.create(plan)
            with alive(machine):
                yield Case(
                    EnrolledRig(bench.machines),
                    lambda: leased(bench, study),
                    replace(leased(bench, study), procedure="dance"),
                )


def leased(bench, study):
    """The laptop's next run; an job needs one that stands in the book."""
    bench.queue.release(study.id)
    lease = bench.queue.lease_next(study.id, resting=["Aside"])
    bench.queue.begin(lease)
    return order_of(lease)


def test_a_rig_brings_what_was_asked_and_can_be_ended(case):
    asked = case.order()
    assert asked.procedure in case.rig.procedures
    marks = []
    capture = checked_capture(case.rig.run(asked, lambda name, at: marks.append((name, at))))
    assert capture.outcome == "done"
    assert (UUID(capture.ticket.run), capture.ticket.attempt) == (asked.run_id, asked.attempt)
    assert capture.asked == asked.procedure
    assert capture.system == asked.install.system.name
    assert capture.machine == asked.install.machine.name
    assert capture.readings or capture.text_of("meminfo"), "readings, or the records of them"
    times = [at for _, at in marks if at is not None]
    assert times == sorted(times)
    assert times[0] == 0.0

    asked, begun, failures = case.order(), threading.Event(), []

    def run():
        try:
            case.rig.run(asked, lambda name, at: begun.set())
        except RunFailedError as error:
            failures.append(error)

    worker = threading.Thread(target=run)
    worker.start()
    assert begun.wait(WAIT_S)
    case.rig.interrupt(UUID(int=0))
    assert worker.is_alive(), "another run's end is not this one's"
    case.rig.interrupt(asked.run_id)
    worker.join(WAIT_S)
    assert not worker.is_alive()
    assert len(failures) <= 1, "one that was about to end may end well"

    with pytest.raises(BadInputError):
        case.rig.run(case.impossible, lambda name, at: None)
