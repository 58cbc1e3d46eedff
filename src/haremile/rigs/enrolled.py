"""An enrolled machine: it asks for its steps, and this rig waits for what it brings."""

import hashlib
import json
import threading
from collections.abc import Callable, Mapping
from dataclasses import replace
from uuid import UUID

from uuid_utils.compat import uuid7

from haremile.errors import MissingHereError
from haremile.rigs.answers import answer_to
from haremile.rigs.probe_words import PROCEDURES, probe_job
from haremile.rigs.queued import QueuedAnswers
from haremile.usecases.ports import MachineJob, MachineQueue, ReportPhase, RunOrder
from haremile_probe.wire import REFUSED, Capture, CaptureReading, Evidence, load_capture

SERVER_STEP_S = 0.1
"""A machine asks every second or so, and its answers cross a network: no finer is claimed."""

MARKS = ("ordered", "first_sign", "begun")


class EnrolledRig:
    """Puts a job on a machine's queue and waits until it is answered.

    Parameters
    ----------
    queue : MachineQueue
    wait : callable
        Waits for an event, for so many seconds at most; a test hands in its own.
    """

    def __init__(
        self,
        queue: MachineQueue,
        wait: Callable[[threading.Event, float], object] = threading.Event.wait,
    ):
        self._answers = QueuedAnswers(queue, wait)

    @property
    def procedures(self) -> frozenset[str]:
        """What this rig can do."""
        return PROCEDURES

    def run(self, order: RunOrder, report_phase: ReportPhase) -> Capture:
        """Ask the machine, or go on waiting for what was asked before."""
        probe_job(order.procedure, order.conditions, order.install.recipe)  # or it is not valid
        told: set[str] = set()

        def seen(job: MachineJob) -> None:
            told.update(_tell(job, told, report_phase))

        job, body = self._answers.answer(order, seen)
        return _answer(order, job, body)

    def interrupt(self, run_id: UUID | None = None) -> None:
        """Wait no longer for this run, or for all; the machine is told when it next asks."""
        self._answers.interrupt(run_id)


def _tell(job: MachineJob, told: set[str], report_phase: ReportPhase) -> set[str]:
    begin = _at(job.stamps, "ordered") or _at(job.stamps, "begun")
    for name in MARKS:
        at = _at(job.stamps, name)
        if at is not None and name not in told:
            told = told | {name}
            report_phase(name, None if begin is None else at - begin)
    return told


def _at(stamps: Mapping[str, float | str], name: str) -> float | None:
    found = stamps.get(name)
    return None if found is None else float(found)


def _answer(order: RunOrder, job: MachineJob, body: bytes) -> Capture:
    """What the machine brought, under a name of its own: it holds more than was handed in."""
    capture = load_capture(body)
    if capture.outcome != "done" and (capture.reason or "").startswith(f"{REFUSED}: "):
        said = (capture.reason or "").removeprefix(f"{REFUSED}: ")
        raise MissingHereError(f"{order.install.machine.name}: {said}")
    handed_in = {"id": capture.id, "sha256": hashlib.sha256(body).hexdigest()}
    evidence = [
        Evidence("handed-in", json.dumps(handed_in)),
        Evidence("outside", json.dumps(dict(job.stamps), indent=1, sort_keys=True)),
    ]
    conditions = {"switching": order.install.recipe.get("switching", "none")}
    made = answer_to(order, capture, conditions, _seen_outside(job, capture), evidence)
    return replace(made, id=str(uuid7()))


def _seen_outside(job: MachineJob, capture: Capture) -> list[CaptureReading]:
    """From the machine's last sign to its first, on the server's clock."""
    last, first = (_at(job.stamps, name) for name in ("last_sign", "first_sign"))
    if any(reading.metric == "boot.total" for reading in capture.readings):
        return []  # its own records tell it, which begin with the power
    if job.procedure != "boot" or last is None or first is None:
        return []
    return [CaptureReading("boot.total", first - last, "s", "host-marker", SERVER_STEP_S)]
