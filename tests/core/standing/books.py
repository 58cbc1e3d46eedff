"""Arms of made-up bench books."""

from collections.abc import Mapping
from datetime import UTC, datetime
from uuid import UUID

import numpy as np

from haremile.core.simulation.bench_book import BookTruth, simulated_book
from haremile.core.standing.arms import Arm

NOON = datetime(2026, 3, 1, 12, tzinfo=UTC)


def arm(study: int, system: str, middle: float, machine: str = "laptop", **more: object) -> Arm:
    """Eight readings around a figure, the same scatter for all."""
    steps = np.array([-0.02, -0.01, -0.005, -0.001, 0.001, 0.005, 0.01, 0.02])
    given: dict[str, object] = {
        "values": middle * np.exp(steps),
        "conditions": [{}],
        "newest": NOON,
        **more,
    }
    return Arm(UUID(int=study), f"study {study}", machine, system, **given)  # type: ignore[arg-type]


def drawn_arms(truth: BookTruth, seed: int) -> list[Arm]:
    """The arms of a simulated bench book."""
    return [
        Arm(lane.study, "drawn", lane.machine, lane.system, lane.values, [{}], lane.at)
        for lane in simulated_book(truth, seed)
    ]


def counts(arms: list[Arm]) -> Mapping[str, int]:
    """How often each system was measured."""
    found: dict[str, int] = {}
    for one in arms:
        found[one.name] = found.get(one.name, 0) + 1
    return found
