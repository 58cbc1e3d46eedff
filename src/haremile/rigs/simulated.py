"""A simulated machine: the truth of a made-up world, drawn anew for each run."""

import threading
from collections.abc import Callable, Mapping
from uuid import UUID

from haremile.core.records.metrics import metric
from haremile.core.records.procedures import COMMAND, MEASURE, ON_ANY_MACHINE, procedure_of
from haremile.core.simulation.machine import (
    LaneTruth,
    simulate_launch,
    simulate_own,
    simulate_run,
    simulated_method,
)
from haremile.errors import BadInputError, RunFailedError
from haremile.rigs.answers import fresh_capture
from haremile.usecases.ports import ReportPhase, RunOrder
from haremile_probe.wire import Capture, CaptureReading

ON_REAL_MACHINES = {"ramp", "response", "frames", "power", "sleep", "rate"}
"""What has no truth here."""


class SimulatedRig:
    """Gives the readings that `truths` hold for an install's recipe.

    Parameters
    ----------
    truths : mapping of truth name to what is true of that contender
    speed : float
        Simulated seconds that pass in one real second.
    sleep : callable, optional
        Passes the time; a test hands in its own.
    """

    def __init__(
        self,
        truths: Mapping[str, LaneTruth],
        speed: float = 30.0,
        sleep: Callable[[float], object] | None = None,
    ):
        self._truths = truths
        self._speed = speed
        self._given_sleep = sleep
        self._all_ended = threading.Event()
        self._ended: dict[UUID, threading.Event] = {}

    @property
    def procedures(self) -> frozenset[str]:
        """What this rig can do."""
        return ON_ANY_MACHINE - ON_REAL_MACHINES

    def run(self, order: RunOrder, report_phase: ReportPhase) -> Capture:
        """Draw one run and let its time pass."""
        name = order.install.recipe.get("truth", "")
        if name not in self._truths:
            raise BadInputError(f"no truth is known for the simulated install {name}")
        truth = self._truths[name]
        ended = self._ended.setdefault(order.run_id, threading.Event())
        if self._all_ended.is_set():
            ended.set()
        try:
            return self._drawn(order, truth, report_phase, self._given_sleep or ended.wait)
        finally:
            del self._ended[order.run_id]

    def _drawn(
        self,
        order: RunOrder,
        truth: LaneTruth,
        report_phase: ReportPhase,
        sleep: Callable[[float], object],
    ) -> Capture:
        if order.procedure != "boot":
            return self._after_boot(order, truth, report_phase, sleep)
        drawn = simulate_run(truth, order.seed, order.lane_no, order.block)
        report_phase("power-on", 0.0)
        total = drawn.values.get("boot.total", truth.typical_total)
        userspace = total - drawn.values.get("boot.userspace", total / 2.0)
        sleep(userspace / self._speed)
        report_phase("userspace", userspace)
        sleep((total - userspace) / self._speed)
        if drawn.failure is not None:
            raise RunFailedError(drawn.failure)
        report_phase("ready", total)
        return _capture(order, truth, drawn.values)

    def _after_boot(
        self,
        order: RunOrder,
        truth: LaneTruth,
        report_phase: ReportPhase,
        sleep: Callable[[float], object],
    ) -> Capture:
        """What is measured on a machine that is up; a launch has a truth for each application."""
        application, own = order.conditions.get("app", ""), order.conditions.get(MEASURE, "")
        if order.procedure == "launch" and application not in truth.launches:
            raise BadInputError(f"no truth is known for a launch of {application}")
        if order.procedure == COMMAND and own not in truth.own:
            raise BadInputError(f"no truth is known for {own}")
        report_phase("begun", 0.0)
        sleep(procedure_of(order.procedure).nominal_s / self._speed)
        if order.procedure == "launch":
            taken = simulate_launch(truth, application, *_drawn_by(order))
            return _capture(order, truth, {"launch.settled": taken})
        if order.procedure == COMMAND:
            return _capture(order, truth, {own: simulate_own(truth, own, *_drawn_by(order))})
        drawn = simulate_run(truth, order.seed, order.lane_no, order.block)
        if drawn.failure is not None:
            raise RunFailedError(drawn.failure)
        wanted = {
            key: value
            for key, value in drawn.values.items()
            if order.procedure in metric(key).procedures
        }
        return _capture(order, truth, wanted)

    def interrupt(self, run_id: UUID | None = None) -> None:
        """End the waiting of this run; without one that of all, also of those to come."""
        if run_id is None:
            self._all_ended.set()
        for key, ended in list(self._ended.items()):
            if run_id in (None, key):
                ended.set()


def _drawn_by(order: RunOrder) -> tuple[int, int, int]:
    """What makes a draw its own: seed, lane and block."""
    return order.seed, order.lane_no, order.block


def _capture(order: RunOrder, truth: LaneTruth, values: Mapping[str, float]) -> Capture:
    conditions = {**truth.conditions_in(order.block), **order.conditions}
    readings = [
        CaptureReading(key, value, metric(key).unit, simulated_method(key))
        for key, value in values.items()
    ]
    return fresh_capture(order, conditions, readings)
