"""Ramps of the sample world: how many pages each system carries in one gigabyte.

As in `world`, what is true stands here; nothing is real.
"""

import json
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from uuid import UUID, uuid5

import numpy as np

from haremile_probe.interpret import account_of, capture_of
from haremile_probe.load.kinds import KINDS
from haremile_probe.load.page_set import VERSION
from haremile_probe.load.rules import MIB, StopRules
from haremile_probe.wire import Record, dump_capture

BEGUN = datetime(2026, 10, 4, 9, 0, tzinfo=UTC)
BETWEEN = timedelta(minutes=9)
NAMES = UUID("0b6b4b0e-2a53-4a1e-9a3c-5d0f6f1a7e22")
APP = "wayfarrow"


@dataclass(frozen=True)
class PageTruth:
    """What is true of a system under load, MiB: with the browser open and no page, and for each
    page."""

    base: float
    page: float


OWN = PageTruth(142.0, 0.0)
SHARED = 21.0
"""Of the application alone with no page, and what of that it shares with others, MiB."""


@dataclass(frozen=True)
class RampTruth:
    """A study of ramps; `memory` of the machine and `floor` in MiB."""

    title: str
    machine: str
    ramps: int
    seed: int
    memory: float
    floor: float
    systems: Mapping[str, PageTruth]

    def carried(self, system: str) -> int:
        """Pages that fit above the floor."""
        truth = self.systems[system]
        return int((self.memory - self.floor - truth.base) / truth.page)


GIGABYTE = RampTruth(
    title="How many pages does one gigabyte carry?",
    machine="One-gig terminal",
    ramps=6,
    seed=87,
    memory=960.0,
    floor=48.0,
    systems={
        "Varrow 12 Tarnwick": PageTruth(466.0, 46.0),
        "Quillfern 9-rc Tarnwick": PageTruth(311.0, 44.0),
        "Marlstone 26.1 Mossgate": PageTruth(702.0, 51.0),
    },
)


def ramp_files() -> list[tuple[str, bytes]]:
    """A capture for each ramp, as the probe writes it."""
    rng = np.random.default_rng(GIGABYTE.seed)
    return [
        (f"ramp {number + 1}, {system}.json", _capture(number, system, rng))
        for number in range(GIGABYTE.ramps)
        for system in GIGABYTE.systems
    ]


def _capture(number: int, system: str, rng: np.random.Generator) -> bytes:
    told = json.dumps(_ramp(system, rng))
    at = BEGUN + number * BETWEEN
    environment = "version=0.1.0\n"
    records = [Record("ramp", 0.0, told), Record("environment", 0.0, environment)]
    account = account_of("ramp", records)
    account.conditions.update(
        {"medium": "installed", "power": "mains", "memory": "1 GiB", "probe_version": "0.1.0"}
    )
    account.conditions["app_version"] = "41"
    account.records = records[:1]
    made = capture_of(
        account,
        "ramp",
        str(uuid5(NAMES, f"{number} {system}")),
        at.isoformat(),
        GIGABYTE.machine,
        system,
    )
    made.faults = []
    return dump_capture(made)


def _ramp(system: str, rng: np.random.Generator) -> dict[str, object]:
    truth = GIGABYTE.systems[system]
    carried = GIGABYTE.carried(system)
    base = truth.base + rng.normal(0.0, 4.0)
    page = truth.page * (1.0 + rng.normal(0.0, 0.01))
    used = [base + page * step + rng.normal(0.0, 2.5) for step in range(1, carried + 1)]
    before = _sample(truth.base - 180.0)
    steps = [
        {
            "number": step,
            "kind": KINDS[(step - 1) % len(KINDS)],
            "at_once": _sample(value, OWN.base + page * (step - 0.4)),
            "painted_s": round(float(rng.gamma(9.0, 0.09)), 3),
            "sample": _sample(value, OWN.base + page * step),
            "worst_delay_s": round(float(rng.gamma(2.0, 0.1)), 3),
        }
        for step, value in enumerate(used, start=1)
    ]
    rules = StopRules(steps=40, floor=int(GIGABYTE.floor) * MIB)
    return {
        "command": [APP],
        "page_set": VERSION,
        "before": before,
        "mix": list(KINDS),
        "limit": None,
        "peak": None,
        "steps": steps,
        "carried": carried,
        "ended": "memory floor",
        "rules": rules._asdict(),
    }


def _sample(used: float, own: float | None = None) -> dict[str, object]:
    tree = None if own is None else round(own * MIB)
    shared = None if own is None else round(SHARED * MIB)
    return {"used": round(used * MIB), "tree": tree, "shared": shared, "own": None, "swap_used": 0}
