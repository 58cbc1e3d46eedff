"""How it is told that a guest is ready: from inside, by its serial line, a port, or its screen."""

import base64
import math
import socket
import time
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

from haremile.errors import BadInputError, GuestDiedError, GuestHungError
from haremile.rigs.guest.boot import firmware_end_s
from haremile.rigs.guest.machine import GuestMachine
from haremile.rigs.guest.screen import Frame, ScreenRule, await_quiet, parse_ppm
from haremile_probe.wire import Evidence, Record, RecordReader

AGAIN_S = 0.1
FIRMWARE_SHOWN_S = 1.0
"""So long after its last word at most the firmware's text is seen to appear."""

HOLDS_S = 0.7
"""A port that stays open for so long, or says something, answers."""


@dataclass(frozen=True)
class Ready:
    """The instant a guest was ready (monotonic seconds), by which method, and what shows it;
    `uptime_s` is that instant on the guest's own clock, where the guest said so."""

    at: float
    method: str
    evidence: tuple[Evidence, ...] = ()
    uptime_s: float | None = None


class ReadyWay(Protocol):
    """A way of telling that a guest is ready."""

    @property
    def rule_text(self) -> str:
        """The rule as a condition value."""

    def wait(self, guest: GuestMachine, deadline: float) -> Ready:
        """Raises GuestHungError at the deadline, GuestDiedError where the guest ends."""


class ByProbe:
    """The agent inside says so on its port."""

    rule_text = "said by the system"

    def wait(self, guest: GuestMachine, deadline: float) -> Ready:
        """Its record *ready* has arrived: stamped when its first line came."""
        reader, begun = RecordReader(), 0.0
        for line in guest.port.follow(deadline):
            begun = line.at if not reader.is_open else begun
            record = reader.feed(line.text)
            if record is not None and record.name == "ready":
                evidence = (Evidence("ready", _text(record)),)
                return Ready(begun, "host-marker", evidence, record.uptime_s)
        raise GuestDiedError("the guest's port ended")


@dataclass(frozen=True)
class BySerial:
    """A text appears on its serial line."""

    text: str

    @property
    def rule_text(self) -> str:
        """The rule as a condition value."""
        return f"serial line: {self.text}"

    def wait(self, guest: GuestMachine, deadline: float) -> Ready:
        """The line that holds the text has arrived."""
        for line in guest.serial.follow(deadline, prompts=self.text):
            if self.text in line.text:
                return Ready(line.at, "serial")
        raise GuestDiedError("the guest's serial line ended")


@dataclass(frozen=True)
class ByPort:
    """A port answers: it says something, or stays open."""

    port: int

    @property
    def rule_text(self) -> str:
        """The rule as a condition value."""
        return f"port {self.port} answers"

    def wait(self, guest: GuestMachine, deadline: float) -> Ready:
        """Ask again and again; the instant is that of the asking that was answered."""
        while time.monotonic() < deadline:
            if not guest.is_running:
                raise GuestDiedError("the guest ended while its port was awaited")
            at = time.monotonic()
            if _answers(guest.forwarded):
                return Ready(at, "port")
            time.sleep(AGAIN_S)
        raise GuestHungError(f"port {self.port} did not answer in time")


@dataclass(frozen=True)
class ByScreen:
    """Nothing changes on its screen any more, or it looks like a reference picture. Less sure than
    a sign from inside. The picture that it was ready with is left at `keep`, to be one."""

    rule: ScreenRule
    keep: Path | None = None

    @property
    def rule_text(self) -> str:
        """The rule as a condition value."""
        return self.rule.text

    def wait(self, guest: GuestMachine, deadline: float) -> Ready:
        """The last picture that changed; it is kept, for a person to look at."""

        def is_over() -> bool:
            if not guest.is_running:
                raise GuestDiedError("the guest ended while its screen was watched")
            return time.monotonic() > deadline

        def own_from() -> float:
            """What the firmware wrote stands still for as long as a quiet kernel takes to start."""
            end_s = firmware_end_s([guest.firmware, guest.serial], guest.power_on_at)
            return -math.inf if end_s is None else guest.power_on_at + end_s + FIRMWARE_SHOWN_S

        found = await_quiet(guest, self.rule, is_over, own_from=own_from)
        if found is None:
            raise GuestHungError("its screen never was lit and quiet long enough")
        if self.keep is not None and self.rule.reference is None:
            self.keep.parent.mkdir(parents=True, exist_ok=True)
            self.keep.write_bytes(found.newest)
        way = [
            Evidence(
                f"screen-{small.at - guest.power_on_at:.1f}.png;base64",
                base64.b64encode(small.png).decode(),
            )
            for small in found.way
        ]
        return Ready(
            found.at, "screen", (Evidence("ready-picture.png;base64", found.picture), *way)
        )


def ready_way(text: str, quiet_s: float, keep: Path | None = None) -> ReadyWay:
    """The way that a recipe states: ``probe``, ``serial:TEXT``, ``port:22``, ``screen``, or
    ``screen:FILE`` with the reference picture (PPM) that it has to look like.

    Raises
    ------
    BadInputError
    """
    kind, _, rest = text.partition(":")
    if kind == "probe" and not rest:
        return ByProbe()
    if kind == "serial" and rest:
        return BySerial(rest)
    if kind == "port" and rest.isdecimal() and 0 < int(rest) < 65536:
        return ByPort(int(rest))
    if kind == "screen":
        reference = _reference(Path(rest)) if rest else None
        return ByScreen(ScreenRule(quiet_s, reference=reference), keep)
    raise BadInputError(
        f"ready is told by probe, serial:TEXT, port:NUMBER, screen or screen:FILE; not {text}"
    )


def _reference(path: Path) -> Frame:
    """The picture that a screen has to look like. Raises BadInputError."""
    try:
        return parse_ppm(path.read_bytes())
    except (OSError, ValueError) as error:
        raise BadInputError(f"no reference picture {path}: {error}") from None


def _text(record: Record) -> str:
    return record.text


def _answers(port: int) -> bool:
    try:
        with socket.create_connection(("127.0.0.1", port), timeout=HOLDS_S) as link:
            return bool(link.recv(1))
    except TimeoutError:
        return True  # it holds the line, as a server does that waits to be spoken to
    except OSError:
        return False
