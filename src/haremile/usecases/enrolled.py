"""What an enrolled machine is told when it asks, and what becomes of what it brings."""

import hashlib
import time
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from uuid import UUID

from haremile.core.records.rigs import ENROLLED
from haremile.core.records.study import Install
from haremile.errors import (
    BadInputError,
    CaptureConflictError,
    DeletedError,
    NotAllowedError,
    NotFoundError,
)
from haremile.formats.captures import parse_capture
from haremile.usecases.ports import EventLog, MachineJob, MachineQueue
from haremile_probe import jobs
from haremile_probe.wire import Capture

ToProbe = Callable[[MachineJob], jobs.Job]

SWITCHINGS = ("next-entry", "disk-swap", "reinstall", "none")
NEXT_ENTRY = "next-entry"


def switched(install: Install, way: str, entry: str | None) -> Install:
    """An enrolled install that is come into in this way.

    Raises
    ------
    BadInputError
        If the way is none, or goes with no such entry; if the install is not enrolled.
    """
    if install.rig != ENROLLED:
        where = f"{install.system.name} on {install.machine.name}"
        raise BadInputError(f"{where} is not enrolled: nothing switches to it by itself")
    if way not in SWITCHINGS:
        raise BadInputError(f"unknown way: {way}; expected one of {', '.join(SWITCHINGS)}")
    if entry is not None and not jobs.ENTRY.match(entry):
        raise BadInputError(f"{entry} is no name of a boot entry")
    if (way == NEXT_ENTRY) != (entry is not None):
        raise BadInputError(f"{NEXT_ENTRY} needs the name of a boot entry, and only it does")
    recipe = {key: value for key, value in install.recipe.items() if key != "entry"}
    recipe |= {"switching": way, **({"entry": entry} if entry else {})}
    return replace(install, recipe=recipe)


IDLE_S = 2.0
"""How long a machine waits before it asks again."""


@dataclass(frozen=True)
class Sign:
    """What a machine says of itself with every question."""

    identity: UUID
    boot_id: str
    busy: UUID | None = None
    is_leaving: bool = False


@dataclass(frozen=True)
class Instruction:
    """What it is to do next: ``run``, ``restart``, ``wait``, ``end`` or ``go on``."""

    do: str
    job: MachineJob | None = None
    asked: jobs.Job | None = None
    entry: str | None = None
    says: str | None = None
    seconds: float = field(default_factory=lambda: IDLE_S)


class EnrolledMachines:
    """The server's side of enrolled machines.

    Parameters
    ----------
    queue, events : the store
    to_probe : callable
        What the probe is asked for a job.
    clock : callable
        Seconds since the epoch.
    read : callable
        Reads and checks a capture.
    """

    def __init__(
        self,
        queue: MachineQueue,
        events: EventLog,
        to_probe: ToProbe,
        clock: Callable[[], float] = time.time,
        read: Callable[[bytes], Capture] = parse_capture,
    ):
        self._queue, self._events, self._to_probe, self._clock = queue, events, to_probe, clock
        self._read = read

    def instruct(self, machine: str, sign: Sign) -> Instruction:
        """What the machine is to do next; its sign is kept.

        Raises
        ------
        NotFoundError
            If the install that asks is not one of this machine.
        """
        self._queue.note_sign(machine, sign.identity, sign.boot_id, sign.is_leaving)
        job = self._queue.next_job(machine)
        if sign.busy is not None:
            is_wanted = job is not None and job.run_id == sign.busy
            return Instruction("go on") if is_wanted else Instruction("end")
        if job is None:
            return Instruction("wait")
        if "ordered" in job.stamps:
            return self._after_order(job, sign)
        if job.identity != sign.identity:
            return self._switch(job, sign)
        if job.procedure == "boot":
            return self._order_restart(job, sign, None)
        return self._begin(job)

    def _after_order(self, job: MachineJob, sign: Sign) -> Instruction:
        if job.stamps.get("boot_id") == sign.boot_id:  # it has not gone down yet
            self._queue.stamp(job.id, {"last_sign": self._clock()})
            return Instruction("wait", job, says="waiting for the restart")
        if job.identity != sign.identity:
            return self._come_up_wrong(job)
        self._queue.stamp(job.id, {"first_sign": self._clock()})
        return self._begin(job)

    def _order_restart(self, job: MachineJob, sign: Sign, entry: str | None) -> Instruction:
        if sign.is_leaving:
            return Instruction("wait")
        at = self._clock()
        self._queue.stamp(job.id, {"ordered": at, "last_sign": at, "boot_id": sign.boot_id})
        return Instruction("restart", job, entry=entry)

    def _begin(self, job: MachineJob) -> Instruction:
        self._queue.stamp(job.id, {"begun": self._clock()})
        return Instruction("run", job, self._to_probe(job))

    def _switch(self, job: MachineJob, sign: Sign) -> Instruction:
        """Another of the machine's installs is wanted than the one that asks."""
        recipe = job.install.recipe
        way, name = recipe.get("switching", "none"), job.install.system.name
        if way == "next-entry":
            entry = recipe.get("entry")
            if entry:
                return self._order_restart(job, sign, entry)
        what = {
            "disk-swap": f"put in the disk with {name}, and start it",
            "reinstall": f"wipe the machine, install {name}, and enrol it",
        }.get(way, f"start {name}; its recipe names no way to switch to it")
        if "waits" not in job.stamps:
            self._queue.stamp(job.id, {"waits": what})
            self._tell(job, what)
        return Instruction("wait", job, says=what)

    def _come_up_wrong(self, job: MachineJob) -> Instruction:
        what = f"the machine did not come up in {job.install.system.name}"
        if "waits" not in job.stamps:
            self._queue.stamp(job.id, {"waits": what})
            self._tell(job, what)
        return Instruction("wait", job, says=what)

    def _tell(self, job: MachineJob, what: str) -> None:
        machine = job.install.machine.name
        self._events.add("machine.waits", job.study_id, job.run_id, machine=machine, what=what)

    def take(self, machine: str, body: bytes) -> str:
        """Take a capture that a machine hands in; tell what became of it.

        Returns
        -------
        str
            ``taken``, ``known already``, or ``came too late`` (kept as evidence, gives no reading).

        Raises
        ------
        BadInputError
            If it is no capture, or answers no run.
        CaptureConflictError
            If it is known with other bytes, or the attempt has another answer already.
        NotFoundError
            If there was no such attempt.
        DeletedError
            If its study was deleted for good.
        """
        capture = self._read(body)
        if capture.ticket is None:
            raise BadInputError("this capture answers no run; drop it on a study's page instead")
        run_id, attempt = UUID(capture.ticket.run), capture.ticket.attempt
        job = self._queue.job(run_id, attempt)
        if job is None:
            if self._queue.was_deleted(run_id):
                raise DeletedError("run", run_id)
            raise NotFoundError("attempt", f"{attempt} at run {run_id} of {machine}")
        if job.install.machine.name != machine:
            raise NotAllowedError(f"this run is not one of {machine}")
        digest = hashlib.sha256(body).hexdigest()
        if "answer" in job.stamps:
            if job.stamps["answer"] == digest:
                return "known already"
        elif job.stage == "asked":
            self._queue.answer(job.id, body)
            return "taken"
        else:
            return self._late(run_id, attempt, capture, body)
        raise CaptureConflictError(f"this attempt at run {run_id} has another answer already")

    def _late(self, run_id: UUID, attempt: int, capture: Capture, body: bytes) -> str:
        is_new = self._queue.keep_late(run_id, attempt, capture, body)
        return "came too late" if is_new else "known already"
