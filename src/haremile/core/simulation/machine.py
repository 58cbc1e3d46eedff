"""Truth and noise: what a simulated machine would measure."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np


@dataclass(frozen=True)
class MetricTruth:
    """The true typical value of a metric and how its readings scatter.

    Attributes
    ----------
    typical : float
        Median of the readings, canonical unit.
    noise : float
        Standard deviation of the main hump, same unit.
    skew : float
        0 for symmetric; else the share of the noise that is one-sided (exponential).
    first_run : float
        Added to the first reading of the lane.
    second_mode : float
        Distance of a second hump, 0 for none.
    second_share : float
        Share of the runs that fall into the second hump.
    step : float
        The instrument's step, to which readings are rounded; 0 for none.
    drift : float
        Added for each block that went before.
    """

    typical: float
    noise: float
    skew: float = 0.0
    first_run: float = 0.0
    second_mode: float = 0.0
    second_share: float = 0.0
    step: float = 0.0
    drift: float = 0.0


@dataclass(frozen=True)
class LaneTruth:
    """All that is true of one contender: its metrics, and how often its runs fail.

    ``boot.total`` is no truth of its own: it is the sum of the boot's parts.

    Attributes
    ----------
    stall_share, stall_s : float
        Share of the boots whose userspace stalls, and for how long.
    launches : mapping of application to the truth of ``launch.settled``
    own : mapping of key to the truth of a measure of the tester's own
    recorder_blocks : sequence of int
        Blocks in which a person left the screen recorder on.
    recorder_share : float
        By how much everything is then slower.
    """

    metrics: Mapping[str, MetricTruth]
    failure_share: float = 0.0
    failure_reason: str = "hung"
    conditions: Mapping[str, str] = field(default_factory=dict)
    stall_share: float = 0.0
    stall_s: float = 0.0
    launches: Mapping[str, MetricTruth] = field(default_factory=dict)
    own: Mapping[str, MetricTruth] = field(default_factory=dict)
    recorder_blocks: Sequence[int] = ()
    recorder_share: float = 0.0

    def conditions_in(self, block: int) -> dict[str, str]:
        """The conditions that a run of this block meets."""
        if block in self.recorder_blocks:
            return {**self.conditions, "recorder": "running"}
        return dict(self.conditions)

    @property
    def typical_total(self) -> float:
        """Sum of the boot's typical parts, seconds."""
        return sum(m.typical for key, m in self.metrics.items() if key.startswith("boot."))


@dataclass(frozen=True)
class SimulatedRun:
    """Readings by metric key in canonical units, or the reason why there are none."""

    values: Mapping[str, float]
    failure: str | None


def simulate_run(truth: LaneTruth, seed: int, lane_no: int, block: int) -> SimulatedRun:
    """Draw one run.

    The same seed, lane and block give the same run, whatever was drawn before and however often
    it was tried.
    """
    generator = np.random.default_rng([seed, lane_no, block])
    fails = bool(generator.random() < truth.failure_share)
    values = {key: _draw(metric, generator, block) for key, metric in sorted(truth.metrics.items())}
    if generator.random() < truth.stall_share:
        values["boot.userspace"] = values.get("boot.userspace", 0.0) + truth.stall_s
    if block in truth.recorder_blocks:
        values = {
            key: value * (1.0 + truth.recorder_share) if key.startswith("boot.") else value
            for key, value in values.items()
        }
    parts = [value for key, value in values.items() if key.startswith("boot.")]
    if parts:
        values["boot.total"] = math.fsum(parts)
    if fails:
        return SimulatedRun({}, truth.failure_reason)
    return SimulatedRun(values, None)


def simulate_launch(
    truth: LaneTruth, application: str, seed: int, lane_no: int, block: int
) -> float:
    """Draw one launch, seconds until it is settled. Raises KeyError for one without a truth."""
    return _draw_named(truth.launches[application], application, seed, lane_no, block)


def simulate_own(truth: LaneTruth, key: str, seed: int, lane_no: int, block: int) -> float:
    """Draw a measure of the tester's own. Raises KeyError for one without a truth."""
    return _draw_named(truth.own[key], key, seed, lane_no, block)


def _draw_named(truth: MetricTruth, name: str, seed: int, lane_no: int, block: int) -> float:
    generator = np.random.default_rng([seed, lane_no, block, sum(name.encode())])
    return _draw(truth, generator, block)


def _draw(truth: MetricTruth, generator: np.random.Generator, block: int) -> float:
    bell = float(generator.normal())
    tail = float(generator.exponential()) - math.log(2.0)  # median zero
    second = bool(generator.random() < truth.second_share)
    value = truth.typical + truth.noise * ((1.0 - truth.skew) * bell + truth.skew * tail)
    value += truth.second_mode * second + truth.first_run * (block == 1)
    value += truth.drift * (block - 1)
    if truth.step:
        value = round(value / truth.step) * truth.step
    return max(value, 0.0)


def simulated_method(key: str) -> str:
    """The method under which simulated readings of a metric are kept."""
    by_family = {
        "boot": "host-marker",
        "disk": "statvfs",
        "launch": "probe",
        "least": "host-marker",
        "own": "command",
        "rate": "native",
    }
    return by_family.get(key.partition(".")[0], "probe")
