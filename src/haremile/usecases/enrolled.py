"""What an enrolled machine is told when it asks, and what becomes of what it brings."""

import hashlib
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from uuid import UUID

from haremile.errors import BadInputError, CaptureConflictError, NotAllowedError, NotFoundError
from haremile.formats.captures import parse_capture
from haremile.usecases.ports import Errand, EventLog, MachineDesk
from haremile_probe.jobs import Job
from haremile_probe.wire import Capture

Jobs = Callable[[Errand], Job]

SWITCHINGS = ("next-entry", "disk-swap", "reinstall", "none")
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
class Step:
    """What it is to do next: ``run``, ``restart``, ``wait``, ``end`` or ``go on``."""

    do: str
    errand: Errand | None = None
    job: Job | None = None
    entry: str | None = None
    says: str | None = None
    seconds: float = field(default_factory=lambda: IDLE_S)


class EnrolledMachines:
    """The server's side of enrolled machines.

    Parameters
    ----------
    desk, events : the bench book
    jobs : callable
        What the probe is asked for an errand.
    clock : callable
        Seconds since the epoch.
    read : callable
        Reads and checks a capture.
    """

    def __init__(
        self,
        desk: MachineDesk,
        events: EventLog,
        jobs: Jobs,
        clock: Callable[[], float] = time.time,
        read: Callable[[bytes], Capture] = parse_capture,
    ):
        self._desk, self._events, self._jobs, self._clock = desk, events, jobs, clock
        self._read = read

    def step(self, machine: str, sign: Sign) -> Step:
        """What the machine is to do next; its sign is kept.

        Raises
        ------
        NotFoundError
            If the install that asks is not one of this machine.
        """
        self._desk.note_sign(machine, sign.identity, sign.boot_id, sign.is_leaving)
        errand = self._desk.next_errand(machine)
        if sign.busy is not None:
            is_wanted = errand is not None and errand.run_id == sign.busy
            return Step("go on") if is_wanted else Step("end")
        if errand is None:
            return Step("wait")
        if "ordered" in errand.stamps:
            return self._after_order(errand, sign)
        if errand.identity != sign.identity:
            return self._switch(errand, sign)
        if errand.procedure == "boot":
            return self._order_restart(errand, sign, None)
        return self._begin(errand)

    def _after_order(self, errand: Errand, sign: Sign) -> Step:
        if errand.stamps.get("boot_id") == sign.boot_id:  # it has not gone down yet
            self._desk.stamp(errand.id, {"last_sign": self._clock()})
            return Step("wait", errand, says="waiting for the restart")
        if errand.identity != sign.identity:
            return self._come_up_wrong(errand)
        self._desk.stamp(errand.id, {"first_sign": self._clock()})
        return self._begin(errand)

    def _order_restart(self, errand: Errand, sign: Sign, entry: str | None) -> Step:
        if sign.is_leaving:
            return Step("wait")
        at = self._clock()
        self._desk.stamp(errand.id, {"ordered": at, "last_sign": at, "boot_id": sign.boot_id})
        return Step("restart", errand, entry=entry)

    def _begin(self, errand: Errand) -> Step:
        self._desk.stamp(errand.id, {"begun": self._clock()})
        return Step("run", errand, self._jobs(errand))

    def _switch(self, errand: Errand, sign: Sign) -> Step:
        """Another of the machine's installs is wanted than the one that asks."""
        recipe = errand.install.recipe
        way, name = recipe.get("switching", "none"), errand.install.system.name
        if way == "next-entry":
            entry = recipe.get("entry")
            if entry:
                return self._order_restart(errand, sign, entry)
        what = {
            "disk-swap": f"put in the disk with {name}, and start it",
            "reinstall": f"wipe the machine, install {name}, and enrol it",
        }.get(way, f"start {name}; its recipe names no way to switch to it")
        if "waits" not in errand.stamps:
            self._desk.stamp(errand.id, {"waits": what})
            self._tell(errand, what)
        return Step("wait", errand, says=what)

    def _come_up_wrong(self, errand: Errand) -> Step:
        what = f"the machine did not come up in {errand.install.system.name}"
        if "waits" not in errand.stamps:
            self._desk.stamp(errand.id, {"waits": what})
            self._tell(errand, what)
        return Step("wait", errand, says=what)

    def _tell(self, errand: Errand, what: str) -> None:
        machine = errand.install.machine.name
        self._events.add(
            "machine.waits", errand.study_id, errand.run_id, machine=machine, what=what
        )

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
        """
        capture = self._read(body)
        if capture.ticket is None:
            raise BadInputError("this capture answers no run; drop it on a study's page instead")
        run_id, attempt = UUID(capture.ticket.run), capture.ticket.attempt
        errand = self._desk.errand(run_id, attempt)
        if errand is None:
            raise NotFoundError("attempt", f"{attempt} at run {run_id} of {machine}")
        if errand.install.machine.name != machine:
            raise NotAllowedError(f"this run is not one of {machine}")
        digest = hashlib.sha256(body).hexdigest()
        if "answer" in errand.stamps:
            if errand.stamps["answer"] == digest:
                return "known already"
        elif errand.stage == "asked":
            self._desk.answer(errand.id, body)
            return "taken"
        else:
            return self._late(run_id, attempt, capture, body)
        raise CaptureConflictError(f"this attempt at run {run_id} has another answer already")

    def _late(self, run_id: UUID, attempt: int, capture: Capture, body: bytes) -> str:
        is_new = self._desk.keep_late(run_id, attempt, capture, body)
        return "came too late" if is_new else "known already"
