import pytest

from haremile.errors import BadInputError, RunFailedError
from haremile.rigs.simulated import SimulatedRig
from helpers import install, order, truth


def rig(**truths):
    slept = []
    return SimulatedRig(truths, speed=10.0, sleep=slept.append), slept


def test_a_run_gives_the_drawn_readings_and_lets_their_time_pass():
    made, slept = rig(A=truth(9.0))
    marks = []
    capture = made.run(order(install("A")), lambda name, at: marks.append(name))
    values = {reading.metric: reading.value for reading in capture.readings}
    assert sum(slept) == pytest.approx(values["boot.total"] / 10.0)
    assert marks == ["power-on", "userspace", "ready"]


def test_another_try_at_the_same_run_gives_the_same_readings():
    made, _ = rig(A=truth(9.0))
    first, second = (
        made.run(order(install("A"), attempt=n), lambda name, at: None) for n in (1, 2)
    )
    assert first.readings == second.readings
    assert first.id != second.id


def test_a_failure_keeps_the_truths_reason():
    made, _ = rig(A=truth(9.0, failure_share=1.0))
    with pytest.raises(RunFailedError, match="hung"):
        made.run(order(install("A")), lambda name, at: None)


def test_an_unknown_truth_is_named():
    made, _ = rig()
    with pytest.raises(BadInputError, match="A"):
        made.run(order(install("A")), lambda name, at: None)
