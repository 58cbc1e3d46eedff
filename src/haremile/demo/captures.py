"""Sample studies as the probe would bring them: a capture for each boot, with curve and units."""

import json
from collections.abc import Sequence
from datetime import datetime
from uuid import NAMESPACE_OID, uuid5

import numpy as np

from haremile.core.planning.run_sheet import SheetLine
from haremile.core.records.metrics import metric
from haremile.core.simulation.machine import SimulatedRun, simulated_method
from haremile.demo.world import StudyTruth, UnitTruth

METHODS = {
    "boot.firmware": "firmware-table",
    "boot.menu": "firmware-table",
    "boot.kernel": "systemd",
    "boot.userspace": "systemd",
}
STEP_S = 5.0
"""Seconds between readings of memory while it settles."""
FALLS_S = 22.0
MOST_ABOVE = 0.2


def capture_file(
    truth: StudyTruth, name: str, line: SheetLine, drawn: SimulatedRun, at: datetime
) -> tuple[str, bytes]:
    """The capture of one boot as a file that a user might have."""
    seat = truth.seat(name)
    readings = [
        {
            "metric": key,
            "value": value,
            "unit": metric(key).unit,
            "method": METHODS.get(key, simulated_method(key)),
        }
        for key, value in sorted(drawn.values.items())
    ]
    body = {
        "format": "haremile-capture/1",
        "id": str(uuid5(NAMESPACE_OID, f"{truth.title} {line}")),
        "made_at": at.isoformat(),
        "probe": "1",
        "asked": "boot",
        "ticket": None,
        "machine": seat.machine,
        "system": seat.system,
        "outcome": "done",
        "reason": None,
        "conditions": dict(truth.lanes[name].conditions),
        "readings": readings,
        "traces": [
            _curve(drawn, [truth.seed, line.lane_no, line.block]),
            *_machine_state([truth.seed, line.lane_no, line.block]),
        ],
        "evidence": [{"name": "boot-units", "text": _units(truth.units[seat.machine], drawn)}],
        "faults": [],
    }
    return f"boot {line.position}.json", json.dumps(body).encode()


def _curve(drawn: SimulatedRun, seed: Sequence[int]) -> dict[str, object]:
    """Memory after the boot, falling to what was read."""
    settled = drawn.values["memory.used"]
    generator = np.random.default_rng([*seed, 1])
    begins, lasts = generator.uniform(8.0, 14.0), 70.0 + generator.gamma(3.0, 8.0)
    times = np.arange(begins, begins + lasts, STEP_S).round(1)
    above = MOST_ABOVE * generator.uniform(0.7, 1.2) * np.exp(-(times - begins) / FALLS_S)
    bumps = generator.normal(0.0, 0.012, times.size) * (times < times[-1] - 4 * STEP_S)
    values = settled * (1.0 + above + bumps * above / MOST_ABOVE)
    return {
        "metric": "memory.used",
        "unit": "B",
        "times_s": times.tolist(),
        "values": values.round().tolist(),
    }


def _machine_state(seed: Sequence[int]) -> list[dict[str, object]]:
    """Heat that rises with the work of a boot and falls again, and the frequency with it."""
    generator = np.random.default_rng([*seed, 2])
    times = np.arange(0.0, generator.uniform(70.0, 110.0), 2.0)
    work = np.exp(-times / generator.uniform(14.0, 24.0))
    rises = 1.0 - np.exp(-times / 6.0)
    heat = generator.uniform(41.0, 46.0) + 22.0 * work * rises
    frequency = 1.2e9 + 1.6e9 * work * generator.uniform(0.85, 1.0, times.size)
    return [
        {"metric": metric, "unit": unit, "times_s": times.tolist(), "values": values.tolist()}
        for metric, unit, values in (
            ("machine.temperature", "°C", heat.round(1)),
            ("machine.frequency", "Hz", frequency.round(-6)),
        )
    ]


def _units(units: Sequence[UnitTruth], drawn: SimulatedRun) -> str:
    """As the service manager states its units, microseconds since the kernel began."""
    kernel, userspace = drawn.values["boot.kernel"], drawn.values["boot.userspace"]
    return "\n".join(
        f"Id={unit.name}\n"
        f"InactiveExitTimestampMonotonic={_micro(kernel + unit.start * userspace)}\n"
        f"ActiveEnterTimestampMonotonic={_micro(kernel + unit.ready * userspace)}\nMainPID=0\n"
        for unit in units
    )


def _micro(seconds: float) -> int:
    return round(seconds * 1e6)
