from dataclasses import replace

import pytest

from haremile.core.simulation.machine import LaneTruth, MetricTruth
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


def test_each_procedure_gives_its_own_readings_under_what_the_plan_states():
    lane = LaneTruth(
        {
            "boot.userspace": MetricTruth(5.0, 0.1),
            "memory.used": MetricTruth(4e8, 1e6),
            "disk.used": MetricTruth(4e9, 0.0),
        },
        launches={"Coppicer": MetricTruth(0.8, 0.01)},
    )
    made, _ = rig(A=lane)

    def keys(procedure, **conditions):
        asked = replace(order(install("A")), procedure=procedure, conditions=conditions)
        capture = made.run(asked, lambda name, at: None)
        assert capture.conditions == conditions
        return {reading.metric for reading in capture.readings}

    assert keys("idle") == {"memory.used"}
    assert keys("footprint") == {"disk.used"}
    assert keys("launch", app="Coppicer", start="warm") == {"launch.settled"}
    with pytest.raises(BadInputError, match="no truth is known for a launch of Inkwarren"):
        keys("launch", app="Inkwarren")
