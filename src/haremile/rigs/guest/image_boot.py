"""One boot of a system from a disk: from power-on to ready, what is asked inside, and off again."""

import os
import re
import shlex
import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from pathlib import Path

from uuid_utils.compat import uuid7

from haremile.core.records.study import Install, split_procedure
from haremile.errors import (
    BadInputError,
    GuestHungError,
    NotMeasuredError,
    RunFailedError,
)
from haremile.rigs.answers import answer_to
from haremile.rigs.guest.boot import (
    HOST_RESOLUTION_S,
    UPTIME_RESOLUTION_S,
    Boot,
    base_conditions,
    firmware_end_s,
    records_of,
)
from haremile.rigs.guest.channel import Channel, StampedLine
from haremile.rigs.guest.film import METHOD, Film, held_in, readings_of, settled_in
from haremile.rigs.guest.host_watch import HostWatch
from haremile.rigs.guest.machine import GuestMachine
from haremile.rigs.guest.ready import ByProbe, Ready, ReadyWay
from haremile.rigs.guest.recipe import image_spec, medium_of, ready_of, whole
from haremile.rigs.guest.spec import GuestSpec
from haremile.rigs.probe_words import probe_words
from haremile.usecases.ports import ReportPhase, RunOrder
from haremile_probe import VERSION
from haremile_probe.jobs import DESKTOP_QUIET_S
from haremile_probe.wire import (
    Capture,
    CaptureReading,
    Evidence,
    Fault,
    WireError,
    load_capture,
)

KERNEL_BEGIN = re.compile(r"\[\s*0\.0+\]|Linux version \d|EFI stub:")
"""What a kernel says first, where it speaks on the serial line."""

RESOLUTIONS_S = {
    "host-marker": HOST_RESOLUTION_S,
    "serial": HOST_RESOLUTION_S,
    "port": 0.1,
    "screen": 0.5,
}
"""How finely each way tells the instant of *ready*."""

ASKED_LIMIT_S = 1200.0
OF_A_FRESH_SYSTEM = frozenset({"background"})
"""What runs in a machine that was just booted is the system itself, no load beside it."""

FROM_OUTSIDE = "outside"
"""How a launch is asked to be seen that is filmed here."""

UNTIL_SETTLED = "--until-settled"
QUIET_WINDOW = "--quiet-window"
"""How a boot is asked to wait for a settled desktop, and for how long it keeps still then."""

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


class ImageBoots:
    """Makes boots of systems on disks; those built from Debian's packages lie below `root`."""

    def __init__(self, root: Path):
        self._root = root

    def needs_tools(self) -> bool:
        """The agent inside fetches the present probe from a disk."""
        return True

    def check(self, install: Install) -> None:
        """Raises BadInputError where its recipe names no valid way to be ready."""
        ready_of(install.recipe)

    def spec(self, order: RunOrder, accelerator: str, clock: str, tools: Path | None) -> GuestSpec:
        """The virtual machine that an order asks for."""
        return image_spec(order.install.recipe, self._root, accelerator, clock, tools)

    def boot(self, guest: GuestMachine, order: RunOrder, report_phase: ReportPhase) -> Boot:
        """One boot of that machine."""
        recipe = order.install.recipe
        ready = ready_of(recipe, self._root / "ready")
        if order.procedure != "boot" and not isinstance(ready, ByProbe):
            raise BadInputError(f"nothing inside this system can do {order.procedure}")
        plan = ImageBootPlan(
            ready,
            medium_of(recipe),
            asked_words(order, ready),
            float(whole(recipe, "ready_limit_s", 600)),
            float(whole(recipe, "off_limit_s", 120)),
        )
        return ImageBoot(guest, order, report_phase, plan)


@dataclass
class ImageBoot:
    """One boot in progress."""

    guest: GuestMachine
    order: RunOrder
    report_phase: ReportPhase
    plan: ImageBootPlan
    power_on: float = 0.0
    found: list[Capture] = field(default_factory=list)
    kept: list[Evidence] = field(default_factory=list)
    faults: list[Fault] = field(default_factory=list)
    host_load: str = ""
    host_watch: HostWatch = field(default_factory=HostWatch)

    def run(self) -> Capture:
        """From power-on to off."""
        self.host_load = f"{os.getloadavg()[0]:.2f}"
        self.host_watch = HostWatch()
        self.power_on = self.guest.power_on()
        self.report_phase("power-on", 0.0)
        try:
            ready = self.plan.ready.wait(self.guest, self.power_on + self.plan.ready_s)
        except GuestHungError:
            self.guest.check_room()
            raise
        self.kept += ready.evidence
        self.report_phase("ready", ready.at - self.power_on)
        for words in self.plan.then:
            self.report_phase(f"asked: {words[0]}", time.monotonic() - self.power_on)
            if FROM_OUTSIDE in words:
                self._film(words, ready)
            elif UNTIL_SETTLED in words:
                self._film_desktop(words, ready)
            else:
                self._ask(words)
        off_s = self._end()
        return self._capture(ready, off_s)

    def _ask(self, words: Sequence[str]) -> None:
        """Have the agent run the probe; what it could not is a fault, unless it was all asked."""
        begin = len(self.guest.port.lines)
        asked = [words[0], "--quiet", *self._names(), *words[1:]]
        self.guest.port.send(f"probe {shlex.join(asked)}")
        texts = _answer(self.guest.port, begin, time.monotonic() + ASKED_LIMIT_S)
        text, said = texts["capture"], texts["said"].strip()
        try:
            capture = load_capture(text.encode())
        except WireError:
            self.faults.append(Fault("unreadable", f"{words[0]}: {said[-300:] or 'no answer'}"))
            return
        self.found.append(capture)

    def _film(self, words: Sequence[str], ready: Ready) -> None:
        """Have launches held inside, and see on the screen when it changes and comes to rest."""
        if ready.uptime_s is None:
            self.faults.append(Fault("absent", f"{words[0]}: the guest's clock is not known"))
            return
        before = len(self.found)
        with Film(self.guest) as film:
            self._ask(words)
        if film.fault is not None:
            self.faults.append(Fault("unreadable", film.fault))
        for capture in self.found[before:]:
            seen, lost = readings_of(held_in(capture, ready.at - ready.uptime_s), film.changes)
            capture.readings += seen
            capture.faults += lost
            if seen:
                capture.outcome, capture.reason = "done", None

    def _film_desktop(self, words: Sequence[str], ready: Ready) -> None:
        """See on the screen when the desktop comes to rest, from the moment that the session is up:
        the probe inside, whose start takes seconds where it is emulated, may look too late."""
        before = len(self.found)
        with Film(self.guest) as film:
            self._ask(words)
        if film.fault is not None or ready.uptime_s is None:
            self.faults.append(Fault("unreadable", film.fault or "the guest's clock is not known"))
            return
        offset = ready.at - ready.uptime_s
        self.kept.append(Evidence("film", film.told(offset)))
        quiet_s = DESKTOP_QUIET_S
        if QUIET_WINDOW in words:
            quiet_s = float(words[words.index(QUIET_WINDOW) + 1])
        seen = settled_in(film.changes, ready.at, quiet_s)
        for capture in self.found[before:]:
            for place, reading in enumerate(capture.readings):
                if (reading.metric, reading.method) == ("boot.desktop", METHOD):
                    fine = max(seen.at - seen.after, UPTIME_RESOLUTION_S)
                    value = seen.at - offset
                    capture.readings[place] = replace(reading, value=value, resolution=fine)

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
        self.report_phase("off", time.monotonic() - self.power_on)
        return took_s

    def _capture(self, ready: Ready, off_s: float | None) -> Capture:
        """One capture of all that was found: conditions that only a part met stand with it."""
        if not self.found and self.order.procedure != "boot":
            said = self.faults[0].what if self.faults else "it was not asked"
            raise NotMeasuredError(f"the probe inside gave nothing: {said}")
        readings = self._outside(ready, off_s)
        if not self.found:
            base = Capture(
                id=str(uuid7()),
                made_at=datetime.now(UTC).isoformat(),
                probe=VERSION,
                asked=self.order.procedure,
                machine="",
                system="",
                outcome="done",
            )
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
                if reading.metric == "boot.total":
                    continue  # seen from outside, where it begins with the power
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
            base,
            id=str(uuid7()),
            readings=readings,
            outcome="done",
            reason=None,
            conditions=shared,
            traces=[trace for capture in self.found for trace in capture.traces],
            evidence=evidence,
            faults=[*self.faults, *(fault for capture in self.found for fault in capture.faults)],
        )
        return answer_to(self.order, made, self._conditions(), (), self.evidence())

    def _outside(self, ready: Ready, off_s: float | None) -> list[CaptureReading]:
        step = RESOLUTIONS_S[ready.method]
        spans = [("boot.total", ready.at - self.power_on, ready.method, step)]
        firmware_s = firmware_end_s([self.guest.firmware, self.guest.serial], self.power_on)
        if firmware_s is None:
            self.faults.append(Fault("absent", "firmware: its last line did not come"))
        else:
            spans.append(("boot.firmware", firmware_s, "host-marker", HOST_RESOLUTION_S))
            kernel_s = self._kernel_began_s(ready)
            if kernel_s is not None and kernel_s >= firmware_s:
                spans.append(
                    ("boot.loader", kernel_s - firmware_s, "host-marker", UPTIME_RESOLUTION_S)
                )
        after_s = self._after_s(ready)
        if after_s is not None:
            spans.append(("boot.after", after_s, "host-marker", UPTIME_RESOLUTION_S))
        if off_s is not None:
            spans.append(("boot.shutdown", off_s, "host-marker", HOST_RESOLUTION_S))
        return [CaptureReading(key, span, "s", how, fine) for key, span, how, fine in spans]

    def _kernel_began_s(self, ready: Ready) -> float | None:
        """When the kernel began, seconds since power-on: by the guest's own clock at the instant it
        was ready, else by the kernel's first word on the serial line."""
        if ready.uptime_s is not None:
            return ready.at - self.power_on - ready.uptime_s
        return kernel_begin_s(self.guest.serial.lines, self.power_on)

    def _after_s(self, ready: Ready) -> float | None:
        """From the last unit of the service manager to the instant it was ready, None where one of
        the two is not known."""
        inside = {
            reading.metric: reading.value
            for capture in self.found
            for reading in capture.readings
            if reading.method == "systemd"
        }
        if ready.uptime_s is None or not {"boot.kernel", "boot.userspace"} <= inside.keys():
            return None
        named = ("boot.kernel", "boot.initrd", "boot.userspace")
        after_s = ready.uptime_s - sum(inside.get(key, 0.0) for key in named)
        return after_s if after_s >= 0.0 else None

    def _conditions(self) -> dict[str, str]:
        settled = (
            {}
            if isinstance(self.plan.ready, ByProbe)
            else {"settle_rule": self.plan.ready.rule_text}
        )
        base = base_conditions(self.guest.spec, self.host_load)
        base.update(self.host_watch.conditions())
        return {**base, "medium": self.plan.medium, **settled}

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


def _answer(port: Channel, begin: int, deadline: float) -> dict[str, str]:
    """Texts of the records from a line on, up to and with the one named *said*."""
    texts = {}
    for record in records_of(port, deadline, begin):
        texts[record.name] = record.text
        if record.name == "said":
            return texts
    raise RunFailedError("the guest's port ended before it had answered")


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
