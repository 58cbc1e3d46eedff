"""One boot of a system from a disk: from power-on to ready, what is asked inside, and off again."""

import itertools
import os
import re
import shlex
import time
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime

from uuid_utils.compat import uuid7

from haremile.core.records.study import split_procedure
from haremile.errors import GuestHungError, RunFailedError
from haremile.rigs.answers import answer_to
from haremile.rigs.guest.channel import StampedLine
from haremile.rigs.guest.machine import GuestMachine
from haremile.rigs.guest.ready import ByProbe, Ready, ReadyWay
from haremile.rigs.probe_words import probe_words
from haremile.usecases.ports import Mark, RunOrder
from haremile_probe import VERSION
from haremile_probe.wire import (
    Capture,
    CaptureReading,
    Evidence,
    Fault,
    Record,
    RecordReader,
    WireError,
    load_capture,
)

FIRMWARE_END = ("Booting from", "starting Boot")
"""What the firmware says last: on its own port by BIOS, on the serial line by UEFI."""

KERNEL_BEGIN = re.compile(r"\[\s*0\.0+\]|Linux version \d|EFI stub:")
"""What a kernel says first, where it speaks on the serial line."""

HOST_STEP_S = 0.001
STEPS_S = {"host-marker": HOST_STEP_S, "serial": HOST_STEP_S, "port": 0.1, "screen": 0.5}
"""How finely each way tells the instant of *ready*."""

ASKED_LIMIT_S = 1200.0
OF_A_FRESH_SYSTEM = frozenset({"background"})
"""What runs in a machine that was just booted is the system itself, no load beside it."""

OF_A_LAUNCH = frozenset({"app", "app_version", "app_packaging", "start", "session"})
"""These say nothing of a boot or of memory, though only the launch states them."""


@dataclass(frozen=True)
class ImageBootPlan:
    """What a boot of an image does besides booting.

    Attributes
    ----------
    ready : ReadyWay
    medium : str
        ``installed`` or ``live``.
    then : sequence of probe arguments
        Asked one after the other once it is ready; needs the agent inside.
    ready_s, off_s : float
        How long is waited for *ready*, and for the end.
    """

    ready: ReadyWay
    medium: str
    then: Sequence[Sequence[str]] = ()
    ready_s: float = 600.0
    off_s: float = 120.0


@dataclass
class ImageBoot:
    """One boot in progress."""

    guest: GuestMachine
    order: RunOrder
    mark: Mark
    plan: ImageBootPlan
    power_on: float = 0.0
    found: list[Capture] = field(default_factory=list)
    kept: list[Evidence] = field(default_factory=list)
    faults: list[Fault] = field(default_factory=list)
    host_load: str = ""

    def run(self) -> Capture:
        """From power-on to off."""
        self.host_load = f"{os.getloadavg()[0]:.2f}"
        self.power_on = self.guest.power_on()
        self.mark("power-on", 0.0)
        try:
            ready = self.plan.ready.wait(self.guest, self.power_on + self.plan.ready_s)
        except GuestHungError:
            self.guest.check_room()
            raise
        self.kept += ready.evidence
        self.mark("ready", ready.at - self.power_on)
        for words in self.plan.then:
            self.mark(f"asked: {words[0]}", time.monotonic() - self.power_on)
            self._ask(words)
        off_s = self._end()
        return self._capture(ready, off_s)

    def _ask(self, words: Sequence[str]) -> None:
        """Have the agent run the probe; what it could not is a fault, unless it was all asked."""
        begin = len(self.guest.port.lines)
        asked = [words[0], "--quiet", *self._names(), *words[1:]]
        self.guest.port.send(f"probe {shlex.join(asked)}")
        records = _records(self.guest, begin, time.monotonic() + ASKED_LIMIT_S)
        text = next(record.text for record in records if record.name == "capture")
        said = next(record.text for record in records if record.name == "said").strip()
        try:
            capture = load_capture(text.encode())
        except WireError:
            self.faults.append(Fault("unreadable", f"{words[0]}: {said[-300:] or 'no answer'}"))
            return
        self.found.append(capture)

    def _names(self) -> list[str]:
        system = self.order.install.system.name.replace(" ", "_")  # the agent parts words at blanks
        return ["--system", system]

    def _end(self) -> float | None:
        """Shut down as a system does; how long that took, None where it had to be ended."""
        asked_at = time.monotonic()
        if isinstance(self.plan.ready, ByProbe):
            self.guest.port.send("off")
        else:
            self.guest.press_power()
        try:
            self.guest.wait_off(self.plan.off_s)
        except GuestHungError:
            self.faults.append(Fault("timed-out", "shutdown: it did not end when it was asked to"))
            return None
        took_s = time.monotonic() - asked_at
        self.mark("off", time.monotonic() - self.power_on)
        return took_s

    def _capture(self, ready: Ready, off_s: float | None) -> Capture:
        """One capture of all that was found: conditions that only a part met stand with it."""
        if not self.found and self.order.procedure != "boot":
            said = self.faults[0].what if self.faults else "it was not asked"
            raise RunFailedError(f"the probe inside gave nothing: {said}")
        readings = self._outside(ready, off_s)
        if not self.found:
            base = Capture(
                id=str(uuid7()), made_at=datetime.now(UTC).isoformat(), probe=VERSION,
                asked=self.order.procedure, machine="", system="", outcome="done",
            )  # fmt: skip
        else:
            base = self.found[0]
        if self.order.procedure != "boot":
            return answer_to(self.order, base, self._conditions(), (), self.evidence())
        shared = {**_agreed(self.found), **self._conditions()}
        steps: dict[tuple[str, str], int] = {}
        for capture in self.found:
            own = {
                key: value
                for key, value in capture.conditions.items()
                if key not in shared and key not in OF_A_FRESH_SYSTEM
            }
            for reading in capture.readings:
                key = (reading.metric, reading.method)
                steps[key] = steps.get(key, -1) + 1
                conditions = {**own, **reading.conditions}
                readings.append(replace(reading, conditions=conditions, step=steps[key]))
        evidence = [
            replace(item, name=item.name if place == 0 else f"{capture.asked}.{item.name}")
            for place, capture in enumerate(self.found)
            for item in capture.evidence
        ]
        made = replace(
            base, id=str(uuid7()), readings=readings, outcome="done", reason=None,
            conditions=shared,
            traces=[trace for capture in self.found for trace in capture.traces],
            evidence=evidence,
            faults=[*self.faults, *(fault for capture in self.found for fault in capture.faults)],
        )  # fmt: skip
        return answer_to(self.order, made, self._conditions(), (), self.evidence())

    def _outside(self, ready: Ready, off_s: float | None) -> list[CaptureReading]:
        step = STEPS_S[ready.method]
        spans = [("boot.total", ready.at - self.power_on, ready.method, step)]
        firmware_s = self._firmware_end_s()
        if firmware_s is None:
            self.faults.append(Fault("absent", "firmware: its last line did not come"))
        else:
            spans.append(("boot.firmware", firmware_s, "host-marker", HOST_STEP_S))
            kernel_s = kernel_begin_s(self.guest.serial.lines, self.power_on)
            if self.guest.spec.kernel is None and kernel_s is not None and kernel_s >= firmware_s:
                spans.append(("boot.loader", kernel_s - firmware_s, "host-marker", HOST_STEP_S))
        if off_s is not None:
            spans.append(("boot.shutdown", off_s, "host-marker", HOST_STEP_S))
        return [CaptureReading(key, span, "s", how, fine) for key, span, how, fine in spans]

    def _firmware_end_s(self) -> float | None:
        for channel in (self.guest.firmware, self.guest.serial):
            for line in channel.lines:
                if any(text in line.text for text in FIRMWARE_END):
                    return line.at - self.power_on
        return None

    def _conditions(self) -> dict[str, str]:
        spec = self.guest.spec
        settled = {} if isinstance(self.plan.ready, ByProbe) else {
            "settle_rule": self.plan.ready.rule_text
        }  # fmt: skip
        return {
            "medium": self.plan.medium, "accelerator": spec.accelerator, "clock": spec.clock,
            "cores": str(spec.cores), "memory": f"{spec.memory_mib} MiB",
            "firmware": spec.firmware, "switching": "none", "host_load": self.host_load, **settled,
        }  # fmt: skip

    def evidence(self) -> list[Evidence]:
        """Everything that was seen from outside so far."""
        return [
            *self.kept,
            Evidence("serial", self.guest.serial.text()),
            Evidence("firmware", self.guest.firmware.text()),
        ]


def kernel_begin_s(lines: Sequence[StampedLine], power_on: float) -> float | None:
    """When the kernel said its first word on the serial line, seconds since power-on; None where
    it says none there, as with a quiet one or another console."""
    for line in lines:
        if KERNEL_BEGIN.search(line.text):
            return line.at - power_on
    return None


def _agreed(captures: Sequence[Capture]) -> dict[str, str]:
    """Conditions on which all captures agree that state them at all."""
    values: dict[str, set[str]] = {}
    for capture in captures:
        for key, value in capture.conditions.items():
            values.setdefault(key, set()).add(value)
    return {
        key: next(iter(found))
        for key, found in values.items()
        if len(found) == 1 and key not in OF_A_FRESH_SYSTEM | OF_A_LAUNCH
    }


def _records(guest: GuestMachine, begin: int, deadline: float) -> list[Record]:
    """The records from a line on, up to and with the one named *said*."""
    found = []
    for record in _each(guest, begin, deadline):
        found.append(record)
        if record.name == "said":
            return found
    raise RunFailedError("the guest's port ended before it had answered")


def _each(guest: GuestMachine, begin: int, deadline: float) -> Iterator[Record]:
    reader = RecordReader()
    for line in itertools.islice(guest.port.follow(deadline), begin, None):
        record = reader.feed(line.text)
        if record is not None:
            yield record


def asked_words(order: RunOrder, ready: ReadyWay) -> list[list[str]]:
    """What is asked inside for an order: its procedure, and for a boot what its recipe adds.

    With nothing of ours inside, nothing can be asked.
    """
    if not isinstance(ready, ByProbe):
        return []
    recipe = order.install.recipe
    words = [probe_words(order.procedure, order.conditions, recipe)]
    if order.procedure == "boot":
        parts = [part.strip() for part in recipe.get("then", "").split(";")]
        words += [_then_words(part, recipe) for part in parts if part]
    return words


def _then_words(part: str, recipe: Mapping[str, str]) -> list[str]:
    """One part of ``then``: a procedure as a study names it, and its options."""
    asked, _, options = part.partition(" ")
    procedure, conditions = split_procedure(asked)
    own = {**recipe, f"probe.{procedure}": options or recipe.get(f"probe.{procedure}", "")}
    return probe_words(procedure, conditions, own)
