"""What systemd states of a boot: the manager's own timestamps, and each unit's.

Monotonic timestamps are microseconds; those of firmware and loader are distances *before* the
kernel's start (systemd's D-Bus interface, org.freedesktop.systemd1).
"""

from typing import List, NamedTuple, Optional

from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.key_values import parse_blocks, parse_environment
from haremile_probe.parsers.path_values import whole_number

MANAGER_PROPERTIES = (
    "Version",
    "FirmwareTimestampMonotonic",
    "LoaderTimestampMonotonic",
    "InitRDTimestampMonotonic",
    "UserspaceTimestampMonotonic",
    "FinishTimestampMonotonic",
)
UNIT_PROPERTIES = (
    "Id",
    "InactiveExitTimestampMonotonic",
    "ActiveEnterTimestampMonotonic",
    "MainPID",
)
MICRO = 1e-6


class BootTimes(NamedTuple):
    """Seconds; None where the manager does not know, 0 never standing for it.

    `firmware_s` and `loader_s` are lengths; `kernel_s` ends where the initial RAM disk begins, or
    userspace without one; `finish_s` is seconds from the kernel's start, None while it is not done.
    """

    firmware_s: Optional[float]
    loader_s: Optional[float]
    kernel_s: Optional[float]
    initrd_s: Optional[float]
    userspace_s: Optional[float]
    finish_s: Optional[float]


class Unit(NamedTuple):
    """When a unit began and was ready (None if never), seconds from the kernel's start."""

    name: str
    start_s: float
    ready_s: Optional[float]
    main_pid: Optional[int]


def parse_boot_times(text: str) -> BootTimes:
    """Read the manager's properties; raises UnreadableError where they contradict one another."""
    stated = parse_environment(text)

    def at(name: str) -> Optional[float]:
        key = name + "TimestampMonotonic"
        if key not in stated:
            raise UnreadableError("the service manager states no %s" % key)
        return _seconds(stated[key], key)

    firmware, loader = at("Firmware"), at("Loader")
    initrd, userspace, finish = at("InitRD"), at("Userspace"), at("Finish")
    if firmware is not None and loader is not None and firmware < loader:
        raise UnreadableError("the firmware began after the loader")
    if userspace is not None and finish is not None and finish < userspace:
        raise UnreadableError("the boot finished before userspace began")
    return BootTimes(
        firmware_s=None if firmware is None else firmware - (loader or 0.0),
        loader_s=loader,
        kernel_s=initrd if initrd is not None else userspace,
        initrd_s=userspace - initrd if initrd is not None and userspace is not None else None,
        userspace_s=finish - userspace if finish is not None and userspace is not None else None,
        finish_s=finish,
    )


def parse_units(text: str) -> List[Unit]:
    """Read every unit that was started, in order of start; raises UnreadableError as above."""
    found = []
    for block in parse_blocks(text):
        missing = [key for key in UNIT_PROPERTIES[:3] if key not in block]
        if missing:  # as where the text was cut short
            raise UnreadableError("a unit states no %s" % missing[0])
        start, ready = (_seconds(block[key], key) for key in UNIT_PROPERTIES[1:3])
        if start is None:
            continue
        pid = whole_number(block.get("MainPID") or "0", "MainPID")
        found.append(
            Unit(block["Id"], start, ready if ready and ready >= start else None, pid or None)
        )
    return sorted(found, key=lambda unit: (unit.start_s, unit.name))


def _seconds(text: str, what: str) -> Optional[float]:
    number = whole_number(text or "0", what)
    if number < 0:
        raise UnreadableError("%s is negative: %s" % (what, text))
    return number * MICRO if number else None
