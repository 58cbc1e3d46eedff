"""What every boot of a guest shares, whatever it boots from."""

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Protocol

from haremile.core.records.study import Install
from haremile.rigs.guest.channel import Channel
from haremile.rigs.guest.machine import GuestMachine
from haremile.rigs.guest.spec import GuestSpec
from haremile.usecases.ports import ReportPhase, RunOrder
from haremile_probe.wire import Capture, Evidence, Record, RecordReader

FIRMWARE_END = ("Booting from", "starting Boot")
"""What the firmware says last: on its own port by BIOS, on the serial line by UEFI."""

HOST_RESOLUTION_S = 0.001
"""How finely the host stamps a line."""

UPTIME_RESOLUTION_S = 0.01
"""How finely a guest's kernel tells its uptime."""


class Boot(Protocol):
    """One boot in progress."""

    def run(self) -> Capture:
        """From power-on to off. Raises RunFailedError."""

    def evidence(self) -> list[Evidence]:
        """Everything that was seen so far."""


class BootMaker(Protocol):
    """One kind of guest: the machine that it needs, and its boots."""

    def needs_tools(self) -> bool:
        """Whether a disk with the probe belongs to its machine."""

    def check(self, install: Install) -> None:
        """Raises BadInputError where its recipe is not valid."""

    def spec(self, order: RunOrder, accelerator: str, clock: str, tools: Path | None) -> GuestSpec:
        """The virtual machine that an order asks for."""

    def boot(self, guest: GuestMachine, order: RunOrder, report_phase: ReportPhase) -> Boot:
        """One boot of that machine."""


def firmware_end_s(channels: Sequence[Channel], power_on: float) -> float | None:
    """When the firmware said its last word, seconds since power-on; None where it did not."""
    for channel in channels:
        for line in channel.lines:
            if any(text in line.text for text in FIRMWARE_END):
                return line.at - power_on
    return None


def base_conditions(spec: GuestSpec, host_load: str) -> dict[str, str]:
    """The conditions that the virtual machine itself states."""
    return {
        "accelerator": spec.accelerator,
        "clock": spec.clock,
        "cores": str(spec.cores),
        "memory": f"{spec.memory_mib} MiB",
        "firmware": spec.firmware,
        "switching": "none",
        "host_load": host_load,
    }


def records_of(port: Channel, deadline: float, begin: int = 0) -> Iterator[Record]:
    """The framed records of a port from a line on, as they come; ends with the port.

    Raises GuestHungError when `deadline` (monotonic seconds) has passed.
    """
    reader = RecordReader()
    for place, line in enumerate(port.follow(deadline)):
        record = reader.feed(line.text) if place >= begin else None
        if record is not None:
            yield record
