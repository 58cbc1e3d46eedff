"""The tiny systems: their machine, and one boot of theirs with memory watched until it settles."""

import json
import math
import os
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from haremile.core.records.study import Install
from haremile.errors import BadInputError, GuestHungError, MissingHereError
from haremile.rigs.answers import fresh_capture
from haremile.rigs.guest.boot import (
    HOST_RESOLUTION_S,
    UPTIME_RESOLUTION_S,
    Boot,
    base_conditions,
    firmware_end_s,
    records_of,
)
from haremile.rigs.guest.build import GuestImages
from haremile.rigs.guest.host_watch import HostWatch
from haremile.rigs.guest.machine import GuestMachine
from haremile.rigs.guest.recipe import disk_size, whole
from haremile.rigs.guest.spec import GuestSpec
from haremile.usecases.ports import ReportPhase, RunOrder, SettleWatch
from haremile_probe import VERSION
from haremile_probe.wire import Capture, CaptureReading, Evidence, Fault

BOOT_LIMIT_S = 90.0
TAKE_LIMIT_S = 30.0
OFF_LIMIT_S = 20.0


@dataclass(frozen=True)
class BootPhase:
    """A phase of the boot on both clocks, seconds since power-on and guest uptime."""

    name: str
    host_s: float
    uptime_s: float


@dataclass(frozen=True)
class BootLimits:
    """How long is waited for each stage, seconds on the host's clock."""

    boot_s: float = BOOT_LIMIT_S
    take_s: float = TAKE_LIMIT_S
    off_s: float = OFF_LIMIT_S


class TinyBoots:
    """Makes boots of the tiny systems.

    Parameters
    ----------
    images : GuestImages
    new_watch : callable
        Makes a fresh settle watch for each boot.
    limits : BootLimits
    """

    def __init__(
        self, images: GuestImages, new_watch: Callable[[], SettleWatch], limits: BootLimits
    ):
        self._images, self._new_watch, self._limits = images, new_watch, limits

    def needs_tools(self) -> bool:
        """Their agent is built in."""
        return False

    def check(self, install: Install) -> None:
        """All that can be wrong is seen when the machine is made."""

    def spec(self, order: RunOrder, accelerator: str, clock: str, tools: Path | None) -> GuestSpec:
        """The virtual machine that an order asks for."""
        recipe = order.install.recipe
        if order.procedure != "boot":
            raise BadInputError(f"the tiny guests boot only; they cannot do {order.procedure}")
        if not self._images.are_built:
            raise MissingHereError("the guest systems are not built; run: ./haremile guest build")
        return GuestSpec(
            self._images.kernel,
            self._images.initrd(recipe["image"]),
            accelerator,
            clock,
            memory_mib=whole(recipe, "memory_mib", 256),
            cores=whole(recipe, "cores", 1),
            append=recipe.get("append", ""),
            bus=recipe.get("bus", "virtio"),
            disk_mib=disk_size(recipe),
        )

    def boot(self, guest: GuestMachine, order: RunOrder, report_phase: ReportPhase) -> Boot:
        """One boot of that machine."""
        usual_s = math.ceil(self._limits.boot_s)
        boot_s = float(whole(order.install.recipe, "ready_limit_s", usual_s))
        limits = replace(self._limits, boot_s=min(boot_s, self._limits.boot_s))
        return TinyBoot(guest, order, report_phase, self._new_watch(), limits)


class TinyBoot:
    """One boot of a tiny system in progress."""

    def __init__(
        self,
        guest: GuestMachine,
        order: RunOrder,
        report_phase: ReportPhase,
        watch: SettleWatch,
        limits: BootLimits,
    ):
        self.guest, self.order, self.report_phase, self.watch = guest, order, report_phase, watch
        self.limits = limits
        self.phases: list[BootPhase] = []
        self.records: dict[str, str] = {}
        self.faults: list[Fault] = []
        self.host_load = f"{os.getloadavg()[0]:.2f}"
        self.host_watch = HostWatch()

    def run(self) -> Capture:
        """From power-on to powered off."""
        self.host_watch = HostWatch()
        self.power_on = self.guest.power_on()
        self.report_phase("power-on", 0.0)
        self._await_ready()
        self._settle()
        self.guest.port.send("off")
        off_s = self.guest.wait_off(self.limits.off_s)
        self.report_phase("off", off_s)
        return self._capture()

    def _await_ready(self) -> None:
        for line in self.guest.serial.follow(self.power_on + self.limits.boot_s):
            if not line.text.startswith("HM-MARK "):
                continue
            _, name, uptime = line.text.split()
            self.phases.append(BootPhase(name, line.at - self.power_on, float(uptime)))
            self.report_phase(name, line.at - self.power_on)
            if name == "ready":
                return

    def _settle(self) -> None:
        records = records_of(self.guest.port, time.monotonic() + self.watch.timeout_s)
        self.report_phase("settling", None)
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
        for record in records_of(self.guest.port, time.monotonic() + self.limits.take_s):
            if record.name != "meminfo":
                self.records[record.name] = record.text
            if record.name == "about":
                return

    def _boot_readings(self) -> list[CaptureReading]:
        at = {phase.name: phase for phase in self.phases}
        ready, userspace = at["ready"], at.get("userspace")
        if self.guest.spec.clock == "counted":
            return [
                CaptureReading(
                    "boot.counted",
                    ready.uptime_s,
                    "counted_s",
                    "counted-clock",
                    UPTIME_RESOLUTION_S,
                )
            ]
        spans = {"boot.total": ready.host_s}
        firmware_s = firmware_end_s([self.guest.firmware], self.power_on)
        if firmware_s is None:
            self.faults.append(Fault("absent", "firmware: its last line did not come"))
        else:
            spans["boot.firmware"] = firmware_s
            if userspace:
                spans["boot.kernel"] = userspace.host_s - firmware_s
        if userspace:
            spans["boot.userspace"] = ready.host_s - userspace.host_s
        return [
            CaptureReading(metric, span, "s", "host-marker", HOST_RESOLUTION_S)
            for metric, span in spans.items()
        ]

    def _conditions(self) -> dict[str, str]:
        version = self.records.get("about", "").split()
        conditions = {
            **base_conditions(self.guest.spec, self.host_load),
            **self.host_watch.conditions(),
            "medium": "initial RAM disk",
            "autologin": "no login",
            "settle_rule": self.watch.rule_text,
            "probe_version": VERSION,
        }
        if len(version) > 2:
            conditions["kernel"] = version[2]
        return conditions

    def evidence(self) -> list[Evidence]:
        """Everything the guest said so far."""
        marks = [[m.name, round(m.host_s, 6), m.uptime_s] for m in self.phases]
        texts = {
            "marks": json.dumps({"columns": ["mark", "host_s", "uptime_s"], "rows": marks}),
            **self.records,
            "serial": self.guest.serial.text(),
            "firmware": self.guest.firmware.text(),
        }
        return [Evidence(name, text) for name, text in texts.items()]

    def _capture(self) -> Capture:
        return fresh_capture(
            self.order,
            self._conditions(),
            self._boot_readings(),
            traces=[self.watch.trace()],
            evidence=self.evidence(),
            faults=self.faults,
        )
