"""A whole bench book with a known truth: studies that share systems, each with its own level."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from uuid import UUID

import numpy as np

from haremile.core.statistics.validation import FloatArray

FIRST = datetime(2024, 1, 8, tzinfo=UTC)


@dataclass(frozen=True)
class BookTruth:
    """How a bench book comes about; spreads are standard deviations of logarithms.

    Attributes
    ----------
    effects : sequence of float
        Logarithm of each system's figure.
    studies, contenders, repeats, machines : int
        Studies, systems in each, readings of each, machines from which each study takes one.
    noise : float
        Of a reading; a third as much again is one-sided.
    level, deviation, by_machine : float
        Of a study's level; of a system from study to study; and from machine to machine.
    drift : float
        Added to a machine's level from each study to the next.
    """

    effects: Sequence[float]
    studies: int = 12
    contenders: int = 4
    repeats: int = 10
    machines: int = 1
    noise: float = 0.03
    level: float = 0.05
    deviation: float = 0.02
    by_machine: float = 0.0
    drift: float = 0.0


@dataclass(frozen=True)
class BookLane:
    """The readings of a system in a study on a machine; `values` has shape (repeats,)."""

    study: UUID
    machine: str
    system: str
    values: FloatArray
    at: datetime


def system_name(number: int) -> str:
    """Name of a system by its place in the truth."""
    return f"system {number:02}"


def simulated_book(truth: BookTruth, seed: int) -> list[BookLane]:
    """Draw a bench book; the same seed gives the same book."""
    generator = np.random.default_rng(seed)
    own = generator.normal(0.0, truth.by_machine, (len(truth.effects), truth.machines))
    lanes = []
    for number in range(truth.studies):
        machine = int(generator.integers(truth.machines))
        base = 3.0 + machine + number * truth.drift + generator.normal(0.0, truth.level)
        for system in generator.choice(len(truth.effects), truth.contenders, replace=False):
            middle = base + truth.effects[system] + own[system, machine]
            middle += generator.normal(0.0, truth.deviation)
            bell = generator.normal(size=truth.repeats)
            tail = generator.exponential(size=truth.repeats) - np.log(2.0)
            lanes.append(
                BookLane(
                    UUID(int=number + 1),
                    f"machine {machine}",
                    system_name(int(system)),
                    np.exp(middle + truth.noise * (bell + tail / 3.0)),
                    FIRST + timedelta(days=30 * number),
                )
            )
    return lanes
