"""A simulated machine: the truth of a made-up world, drawn anew for each run."""

import threading
from collections.abc import Callable, Mapping
from datetime import UTC, datetime
from uuid import UUID

from uuid_utils.compat import uuid7

from haremile.bench.ports import Mark, RunOrder
from haremile.core.metrics import metric
from haremile.core.simulation import LaneTruth, simulate_run, simulated_method
from haremile.errors import BadInputError, RunFailedError
from haremile_probe import VERSION
from haremile_probe.wire import Capture, CaptureReading, Ticket


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
        return frozenset({"boot", "idle", "footprint", "launch"})

    def run(self, order: RunOrder, mark: Mark) -> Capture:
        """Draw one run and let its time pass."""
        name = order.install.recipe.get("truth", "")
        if name not in self._truths:
            raise BadInputError(f"no truth is known for the simulated install {name}")
        truth = self._truths[name]
        ended = self._ended.setdefault(order.run_id, threading.Event())
        if self._all_ended.is_set():
            ended.set()
        try:
            return self._drawn(order, truth, mark, self._given_sleep or ended.wait)
        finally:
            del self._ended[order.run_id]

    def _drawn(
        self, order: RunOrder, truth: LaneTruth, mark: Mark, sleep: Callable[[float], object]
    ) -> Capture:
        drawn = simulate_run(truth, order.seed, order.lane_no, order.block)
        mark("power-on", 0.0)
        total = drawn.values.get("boot.total", truth.typical_total)
        userspace = total - drawn.values.get("boot.userspace", total / 2.0)
        sleep(userspace / self._speed)
        mark("userspace", userspace)
        sleep((total - userspace) / self._speed)
        if drawn.failure is not None:
            raise RunFailedError(drawn.failure)
        mark("ready", total)
        return Capture(
            id=str(uuid7()), made_at=datetime.now(UTC).isoformat(), probe=VERSION,
            asked=order.procedure, machine=order.install.machine.name,
            system=order.install.system.name, outcome="done",
            ticket=Ticket(str(order.run_id), order.attempt), conditions=dict(truth.conditions),
            readings=[self._reading(key, value) for key, value in drawn.values.items()],
        )  # fmt: skip

    def interrupt(self, run_id: UUID | None = None) -> None:
        """End the waiting of this run; without one that of all, also of those to come."""
        if run_id is None:
            self._all_ended.set()
        for key, ended in list(self._ended.items()):
            if run_id in (None, key):
                ended.set()

    def _reading(self, key: str, value: float) -> CaptureReading:
        return CaptureReading(key, value, metric(key).unit, simulated_method(key))
