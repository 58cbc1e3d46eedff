"""Small makers that several test modules share."""

import signal
import struct
import subprocess
import tempfile
import threading
from contextlib import contextmanager
from pathlib import Path
from uuid import uuid4

import uvicorn

from haremile.api.application import create_app
from haremile.api.connections import server_settings
from haremile.config import ROOT
from haremile.core.comparison.findings import find
from haremile.core.comparison.records import Findings
from haremile.core.records.study import Install, Machine, System
from haremile.core.simulation.machine import LaneTruth, MetricTruth
from haremile.core.wording.findings import in_words
from haremile.processes import child_command
from haremile.usecases.access import OWNER, Role
from haremile.usecases.ports import RunOrder
from haremile_probe.wire import Capture, CaptureReading, Ticket

DATA = Path(__file__).parent / "data"
AXE = ROOT / "web/node_modules/axe-core/axe.min.js"


def serious_faults(page):
    """What axe, which the page has loaded, finds serious or worse."""
    found = page.evaluate("axe.run({resultTypes: ['violations']})")
    return [
        (fault["id"], [node["html"][:160] for node in fault["nodes"]][:3])
        for fault in found["violations"]
        if fault["impact"] in ("serious", "critical")
    ]


def worded(names, observations, runs, plan) -> Findings:
    """Findings with their sentences."""
    return in_words(find(names, observations, runs, plan), names)


def truth(typical: float, noise: float = 0.1, failure_share: float = 0.0) -> LaneTruth:
    return LaneTruth(
        {
            "boot.kernel": MetricTruth(typical / 3, noise),
            "boot.userspace": MetricTruth(2 * typical / 3, noise),
            "memory.used": MetricTruth(typical * 1e7, 1e5),
        },
        failure_share,
    )


def install(system: str, machine: str = "Bench", rig: str | None = "simulated") -> Install:
    return Install(System(system), Machine(machine, "simulated"), rig=rig, recipe={"truth": system})


def order(made: Install, attempt: int = 1, block: int = 1, lane_no: int = 1) -> RunOrder:
    return RunOrder(uuid4(), attempt, "boot", made, seed=7, lane_no=lane_no, block=block)


def order_of(lease) -> RunOrder:
    run = lease.run
    return RunOrder(
        run.id,
        run.attempt,
        run.procedure,
        lease.install,
        lease.seed,
        run.lane_no,
        run.block,
        run.conditions,
    )


def capture_for(asked: RunOrder, value: float = 3.0, outcome: str = "done") -> Capture:
    return Capture(
        id=str(uuid4()),
        made_at="2026-10-05T08:00:00+00:00",
        probe="0",
        asked="boot",
        machine="Bench",
        system="S",
        outcome=outcome,
        ticket=Ticket(str(asked.run_id), asked.attempt),
        conditions={"accelerator": "tcg"},
        readings=[CaptureReading("boot.total", value, "s", "host-marker")],
    )


class FakeRig:
    """A rig that gives what it is told to: a value, or an error to raise."""

    def __init__(self, outcomes=None):
        self.outcomes = list(outcomes or [])
        self.orders = []

    procedures = frozenset({"boot", "idle", "footprint", "launch"})

    def run(self, asked, mark):
        self.orders.append(asked)
        mark("power-on", 0.0)
        outcome = self.outcomes.pop(0) if self.outcomes else 3.0
        if isinstance(outcome, BaseException):
            raise outcome
        if callable(outcome):
            return outcome(asked)
        return capture_for(asked, outcome)

    def interrupt(self, run_id=None):
        self.outcomes = []


def qcow2_head(version=3, backing=0, features=0, extensions=()):
    """The first bytes of an image, as the format's description lays them out."""
    made = struct.pack(">4sIQ", b"QFI\xfb", version, backing).ljust(72, b"\0")
    if version == 3:
        made = (made + struct.pack(">Q", features)).ljust(100, b"\0") + struct.pack(">I", 104)
    for kind, body in extensions:
        made += struct.pack(">II", kind, len(body)) + body.ljust((len(body) + 7) // 8 * 8, b"\0")
    return made + bytes(16)


@contextmanager
def readable_folder():
    """A folder that other users may look into, as pytest's own are not."""
    with tempfile.TemporaryDirectory(prefix="hm-test-", dir="/tmp") as made:
        Path(made).chmod(0o755)
        yield Path(made)


def entry_path(bench):
    """Where a browser signs in, once."""
    bench.access.ensure_person(OWNER, Role.OWN)
    return f"/enter?token={bench.access.new_entry(OWNER)}"


@contextmanager
def served(bench, url, web=None, port=0, host="127.0.0.1", access=None, secured=None):
    """The bench served over HTTP while the block runs; gives the address."""
    settings = {**server_settings(), "timeout_graceful_shutdown": 1, **(secured or {})}
    config = uvicorn.Config(create_app(bench, url, web, access), host=host, port=port, **settings)
    server = uvicorn.Server(config)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    try:
        while not server.started:
            assert thread.is_alive()
        scheme = "https" if secured else "http"
        yield f"{scheme}://{host}:{server.servers[0].sockets[0].getsockname()[1]}"
    finally:
        server.should_exit = True
        thread.join(10)


@contextmanager
def running(command, environment):
    """A program that ends with the block, and with this process."""
    child = subprocess.Popen(
        child_command(command),
        env=environment,
        stdin=subprocess.DEVNULL,
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
    )
    try:
        yield child
    finally:
        child.send_signal(signal.SIGTERM)
        child.wait()
        child.stdout.close()
