"""The guest rig: boots a real system in a fresh QEMU process and measures it."""

import json
import os
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from uuid import UUID

from uuid_utils.compat import uuid7

from haremile.core.records.procedures import PROCEDURES
from haremile.core.records.study import Install
from haremile.errors import BadInputError, GuestHungError, MissingHereError, RunFailedError
from haremile.rigs.guest.build import NAMES, GuestImages
from haremile.rigs.guest.channel import Channel
from haremile.rigs.guest.image_boot import ImageBoot, ImageBootPlan, asked_words
from haremile.rigs.guest.machine import GuestMachine
from haremile.rigs.guest.ready import ByProbe
from haremile.rigs.guest.recipe import image_spec, medium_of, ready_of, tools_disk, whole
from haremile.rigs.guest.spec import GuestSpec
from haremile.usecases.ports import Mark, RunOrder, SettleWatch
from haremile_probe import VERSION
from haremile_probe.wire import (
    Capture,
    CaptureReading,
    Evidence,
    Fault,
    Record,
    RecordReader,
    Ticket,
)

BOOT_LIMIT_S = 90.0
TAKE_LIMIT_S = 30.0
OFF_LIMIT_S = 20.0
LOG_TAIL_LINES = 40
FIRMWARE_END = "Booting from"
HOST_STEP_S = 0.001
UPTIME_STEP_S = 0.01


@dataclass(frozen=True)
class BootMark:
    """A mark of the boot on both clocks, seconds since power-on and guest uptime."""

    name: str
    host_s: float
    uptime_s: float


@dataclass(frozen=True)
class BootLimits:
    """How long is waited for each stage, seconds on the host's clock."""

    boot_s: float = BOOT_LIMIT_S
    take_s: float = TAKE_LIMIT_S
    off_s: float = OFF_LIMIT_S


class GuestRig:
    """Boots systems in fresh QEMU processes and measures them.

    Parameters
    ----------
    images : GuestImages
        The tiny systems; those built from Debian's packages lie beside them.
    accelerator : callable
        Tells which accelerator was proved to work here.
    new_watch : callable
        Makes a fresh settle watch for each boot of a tiny system.
    clock : str
        ``host``, or ``counted``: the guest's clock counts instructions, and only work is reported.
    archive : callable, optional
        Gives the path of the probe's archive, for systems with the agent inside.
    """

    def __init__(
        self,
        images: GuestImages,
        accelerator: Callable[[], str],
        new_watch: Callable[[], SettleWatch],
        clock: str = "host",
        limits: BootLimits | None = None,
        archive: Callable[[], Path] | None = None,
    ):
        self._images = images
        self._accelerator = accelerator
        self._new_watch = new_watch
        self._clock = clock
        self._limits = limits or BootLimits()
        self._archive = archive
        self._at_work: dict[UUID, GuestMachine] = {}

    @property
    def procedures(self) -> frozenset[str]:
        """What this rig can do; other than boots only with the agent inside."""
        return frozenset(PROCEDURES)

    def check(self, install: Install) -> None:
        """Raises BadInputError or MissingHereError where its recipe is not valid here."""
        is_tiny = install.recipe.get("image", "") in NAMES
        with tools_disk(None if is_tiny else self._archive) as tools:
            self.spec(RunOrder(UUID(int=0), 1, "boot", install, 0, 1, 1), tools)
        ready_of(install.recipe)

    def spec(self, order: RunOrder, tools: Path | None = None) -> GuestSpec:
        """The virtual machine that an order asks for."""
        recipe = order.install.recipe
        clock = recipe.get("clock", self._clock)
        accelerator = "tcg" if clock == "counted" else self._accelerator()
        if recipe.get("image", "") not in NAMES:
            return image_spec(recipe, self._images.root, accelerator, clock, tools)
        if order.procedure != "boot":
            raise BadInputError(f"the tiny guests boot only; they cannot do {order.procedure}")
        if not self._images.are_built:
            raise MissingHereError("the guest systems are not built; run: ./haremile guest build")
        return GuestSpec(
            self._images.kernel, self._images.initrd(recipe["image"]), accelerator, clock,
            memory_mib=whole(recipe, "memory_mib", 256), append=recipe.get("append", ""),
        )  # fmt: skip

    def run(self, order: RunOrder, mark: Mark) -> Capture:
        """Boot once, from power-on to powered off."""
        is_tiny = order.install.recipe.get("image", "") in NAMES
        with (
            tools_disk(None if is_tiny else self._archive) as tools,
            GuestMachine(self.spec(order, tools)) as guest,
        ):
            self._at_work[order.run_id] = guest
            boot = self._boot(guest, order, mark)
            try:
                return boot.run()
            except RunFailedError as error:
                error.log_tail = "\n".join(guest.serial.text().splitlines()[-LOG_TAIL_LINES:])
                error.evidence = tuple(boot.evidence())
                raise
            finally:
                self._at_work.pop(order.run_id, None)

    def _boot(self, guest: GuestMachine, order: RunOrder, mark: Mark) -> "_Boot | ImageBoot":
        recipe = order.install.recipe
        if recipe.get("image", "") in NAMES:
            return _Boot(guest, order, mark, self._new_watch(), self._limits)
        ready = ready_of(recipe)
        if order.procedure != "boot" and not isinstance(ready, ByProbe):
            raise BadInputError(f"nothing inside this system can do {order.procedure}")
        limit_s = float(whole(recipe, "ready_limit_s", 600))
        plan = ImageBootPlan(
            ready, medium_of(recipe), asked_words(order, ready), limit_s,
            float(whole(recipe, "off_limit_s", 120)),
        )  # fmt: skip
        return ImageBoot(guest, order, mark, plan)

    def interrupt(self, run_id: UUID | None = None) -> None:
        """End the guest of this run, or all that run now."""
        for key, guest in list(self._at_work.items()):
            if run_id in (None, key):
                guest.kill()


class _Boot:
    """One boot in progress."""

    def __init__(
        self,
        guest: GuestMachine,
        order: RunOrder,
        mark: Mark,
        watch: SettleWatch,
        limits: BootLimits,
    ):
        self.guest, self.order, self.mark, self.watch = guest, order, mark, watch
        self.limits = limits
        self.marks: list[BootMark] = []
        self.records: dict[str, str] = {}
        self.faults: list[Fault] = []
        self.host_load = f"{os.getloadavg()[0]:.2f}"

    def run(self) -> Capture:
        self.power_on = self.guest.power_on()
        self.mark("power-on", 0.0)
        self._await_ready()
        self._settle()
        self.guest.port.send("off")
        off_s = self.guest.wait_off(self.limits.off_s)
        self.mark("off", off_s)
        return self._capture()

    def _await_ready(self) -> None:
        for line in self.guest.serial.follow(self.power_on + self.limits.boot_s):
            if not line.text.startswith("HM-MARK "):
                continue
            _, name, uptime = line.text.split()
            self.marks.append(BootMark(name, line.at - self.power_on, float(uptime)))
            self.mark(name, line.at - self.power_on)
            if name == "ready":
                return

    def _settle(self) -> None:
        records = _records(self.guest.port, time.monotonic() + self.watch.timeout_s)
        self.mark("settling", None)
        try:
            for record in records:
                if record.name == "meminfo" and self.watch.add(record.uptime_s, record.text):
                    break
        except GuestHungError:
            self.faults.append(Fault("timed-out", "meminfo: memory did not settle"))
        picked = self.watch.picked()
        if picked is not None:
            self.records["meminfo"] = picked
        self.guest.port.send("take")
        for record in _records(self.guest.port, time.monotonic() + self.limits.take_s):
            if record.name != "meminfo":
                self.records[record.name] = record.text
            if record.name == "about":
                return

    def _firmware_end_s(self) -> float | None:
        for line in self.guest.firmware.lines:
            if line.text.startswith(FIRMWARE_END):
                return line.at - self.power_on
        return None

    def _boot_readings(self) -> list[CaptureReading]:
        at = {mark.name: mark for mark in self.marks}
        ready, userspace = at["ready"], at.get("userspace")
        if self.guest.spec.clock == "counted":
            return [
                CaptureReading(
                    "boot.counted", ready.uptime_s, "counted_s", "counted-clock", UPTIME_STEP_S
                )
            ]
        spans = {"boot.total": ready.host_s}
        firmware_s = self._firmware_end_s()
        if firmware_s is None:
            self.faults.append(Fault("absent", "firmware: its last line did not come"))
        else:
            spans["boot.firmware"] = firmware_s
            if userspace:
                spans["boot.kernel"] = userspace.host_s - firmware_s
        if userspace:
            spans["boot.userspace"] = ready.host_s - userspace.host_s
        return [
            CaptureReading(metric, span, "s", "host-marker", HOST_STEP_S)
            for metric, span in spans.items()
        ]

    def _conditions(self) -> dict[str, str]:
        spec = self.guest.spec
        version = self.records.get("about", "").split()
        conditions = {
            "medium": "initial RAM disk",
            "autologin": "no login",
            "accelerator": spec.accelerator,
            "clock": spec.clock,
            "cores": str(spec.cores),
            "memory": f"{spec.memory_mib} MiB",
            "firmware": "bios",
            "settle_rule": self.watch.rule_text,
            "switching": "none",
            "probe_version": VERSION,
            "host_load": self.host_load,
        }
        if len(version) > 2:
            conditions["kernel"] = version[2]
        return conditions

    def evidence(self) -> list[Evidence]:
        """Everything the guest said so far."""
        marks = [[m.name, round(m.host_s, 6), m.uptime_s] for m in self.marks]
        texts = {
            "marks": json.dumps({"columns": ["mark", "host_s", "uptime_s"], "rows": marks}),
            **self.records,
            "serial": self.guest.serial.text(),
            "firmware": self.guest.firmware.text(),
        }
        return [Evidence(name, text) for name, text in texts.items()]

    def _capture(self) -> Capture:
        order = self.order
        readings = self._boot_readings()
        return Capture(
            id=str(uuid7()), made_at=datetime.now(UTC).isoformat(), probe=VERSION,
            asked=order.procedure, machine=order.install.machine.name,
            system=order.install.system.name, outcome="done",
            ticket=Ticket(str(order.run_id), order.attempt), conditions=self._conditions(),
            readings=readings, traces=[self.watch.trace()], evidence=self.evidence(),
            faults=self.faults,
        )  # fmt: skip


def _records(port: Channel, deadline: float) -> Iterator[Record]:
    reader = RecordReader()
    for line in port.follow(deadline):
        record = reader.feed(line.text)
        if record is not None:
            yield record
