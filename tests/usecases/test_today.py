from datetime import UTC, datetime

import pytest

from haremile.core.records.study import StudyState
from haremile.errors import RigRestsError, RunFailedError
from haremile.usecases.conduct import Conductor
from haremile.usecases.plan import checked_plan
from haremile.usecases.today import today
from helpers import FakeRig, install


def planned(bench, title, machine="Bench", rig="simulated", blocks=2):
    installs = [install(system, machine, rig) for system in ("A", "B")]
    return bench.studies.create(checked_plan(title, installs, blocks, seed=4))


def seen(bench):
    return today(bench.studies, bench.events)


def test_each_machine_tells_what_is_under_way_and_what_comes_next(bench):
    first = planned(bench, "First?")
    planned(bench, "Second?", "Laptop")
    lease = bench.queue.lease_next(first.id)
    bench.queue.begin(lease)
    board, laptop = seen(bench).machines
    assert (board.name, board.left, board.done, board.left_s) == ("Bench", 4, 0, None)
    assert board.now.run.id == lease.run.id
    assert board.now.question == "First?"
    assert [one.run.block for one in board.next] == [1, 2, 2]
    assert laptop.now is None
    assert laptop.left == 4


def test_a_machine_whose_sheet_is_done_is_not_shown_and_how_long_is_left_is_calculated(bench):
    done = planned(bench, "Done?")
    half = planned(bench, "Half?", "Laptop")
    conductor = Conductor(bench.studies, bench.queue, bench.events, {"simulated": FakeRig()})
    conductor.conduct(done.id)
    stops = iter([False, False, True])
    conductor.conduct(half.id, lambda: next(stops))
    (laptop,) = seen(bench).machines
    assert (laptop.name, laptop.left, laptop.done, laptop.is_moving) == ("Laptop", 2, 2, False)
    assert laptop.left_s > 0


def test_what_waits_for_a_person_says_what_to_do(bench):
    planned(bench, "Planned?")
    by_hand = planned(bench, "By hand?", "Laptop", rig=None)
    resting = planned(bench, "Resting?", "Board", blocks=3)
    rig = FakeRig([RunFailedError("no card")] * 9)
    conductor = Conductor(bench.studies, bench.queue, bench.events, {"simulated": rig})
    with pytest.raises(RigRestsError, match="Board rests after 3 failed runs in a row") as rests:
        conductor.conduct(resting.id)
    bench.events.add("study.stopped", resting.id, reason=str(rests.value))
    actions_needed = {hand.question: hand for hand in seen(bench).actions_needed}
    assert "no card" in actions_needed["Resting?"].what
    assert actions_needed["Resting?"].since <= datetime.now(UTC)
    assert "take the files in" in actions_needed["By hand?"].what
    assert "start it" in actions_needed["Planned?"].what
    assert bench.studies.get(by_hand.id).state is StudyState.PLANNED


def test_a_study_that_goes_on_needs_no_hand_any_more(bench):
    study = planned(bench, "Which?")
    bench.events.add("study.stopped", study.id, reason="no power")
    bench.studies.set_state(study.id, StudyState.RUNNING)
    assert seen(bench).actions_needed == ()
    bench.studies.set_state(study.id, StudyState.PAUSED)
    assert [hand.what.partition(" ")[0] for hand in seen(bench).actions_needed] == ["paused"]
