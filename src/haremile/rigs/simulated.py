"""A simulated machine: the truth of a made-up world, drawn anew for each run."""

import time
from collections.abc import Callable, Mapping
from datetime import UTC, datetime

from uuid_utils.compat import uuid7

from haremile.bench.ports import Mark, RunOrder
from haremile.core.metrics import metric
from haremile.core.simulation import LaneTruth, simulate_run
from haremile.errors import BadInputError, RunFailedError
from haremile_probe import VERSION
from haremile_probe.wire import Capture, CaptureReading, Ticket

METHODS = {"boot": "host-marker", "memory": "probe", "process": "probe", "disk": "statvfs"}


class SimulatedRig:
    """Gives the readings that `truths` hold for an install's recipe.

    Parameters
    ----------
    truths : mapping of truth name to what is true of that contender
    speed : float
        Simulated seconds that pass in one real second.
    sleep : callable
        Passes the time; a test hands in its own.
    """

    def __init__(
        self,
        truths: Mapping[str, LaneTruth],
        speed: float = 30.0,
        sleep: Callable[[float], None] = time.sleep,
    ):
        self._truths = truths
        self._speed = speed
        self._sleep = sleep

    def run(self, order: RunOrder, mark: Mark) -> Capture:
        """Draw one run and let its time pass."""
        name = order.install.recipe.get("truth", "")
        if name not in self._truths:
            raise BadInputError(f"no truth is known for the simulated install {name}")
        truth = self._truths[name]
        drawn = simulate_run(truth, order.seed, order.lane_no, order.block)
        mark("power-on", 0.0)
        typical = truth.metrics["boot.total"].typical
        total = drawn.values.get("boot.total", typical)
        kernel = drawn.values.get("boot.kernel", total / 3.0)
        self._sleep(kernel / self._speed)
        mark("userspace", kernel)
        self._sleep((total - kernel) / self._speed)
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

    def _reading(self, key: str, value: float) -> CaptureReading:
        method = METHODS[key.partition(".")[0]]
        return CaptureReading(key, value, metric(key).unit, method)
