"""Firmware's and kernel's records of a boot, and what the journal tells of the last shutdown."""

import re
from typing import Dict, NamedTuple, Optional, Tuple

from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.path_values import whole_number

FPDT = "/sys/firmware/acpi/fpdt/boot/"
_KMSG = re.compile(r"^(?:<\d+>)?\d+,\d+,(\d+),[^;]*;(.*)$")
_DMESG = re.compile(r"^(?:<\d+>)?\[ *(\d+)[.,](\d+)\] ?(.*)$")
_INIT = re.compile(r"Run (/\S+) as init process")
_LEAVING = re.compile(
    r"The system will (?:power off|reboot|halt|kexec) now"
    r"|System is (?:powering down|rebooting|going down|halting)"
)
_SHORT_MONOTONIC = re.compile(r"^\[ *(\d+)[.,](\d+)\] (.*)$")


class FirmwareTimes(NamedTuple):
    """Lengths in seconds, None where the record does not say; `menu_s` lies within `loader_s`."""

    firmware_s: Optional[float]
    loader_s: Optional[float]
    menu_s: Optional[float] = None


def parse_firmware_table(values: Dict[str, str]) -> Optional[FirmwareTimes]:
    """Read the boot record of the firmware's performance table (ACPI FPDT), ns since reset.

    None where the machine has none. Raises UnreadableError where times run backwards.
    """
    stated = {
        path[len(FPDT) :]: whole_number(value, path) * 1e-9
        for path, value in values.items()
        if path.startswith(FPDT) and path.endswith("_ns")
    }
    launch = stated.get("bootloader_launch_ns") or None
    leave = stated.get("exitbootservice_end_ns") or None
    if launch is None:
        return None
    if leave is not None and leave < launch:
        raise UnreadableError("the firmware table's times run backwards")
    return FirmwareTimes(launch, None if leave is None else leave - launch)


def parse_efi_times(text: str) -> FirmwareTimes:
    """Read the loader's own variables, ``NAME MICROSECONDS`` a line, µs since reset.

    Names are LoaderTimeInitUSec, LoaderTimeMenuUSec and LoaderTimeExecUSec (systemd's boot loader
    interface). Raises UnreadableError where one is no number or times run backwards.
    """
    stated: Dict[str, float] = {}
    for line in text.splitlines():
        words = line.split()
        if len(words) != 2:
            raise UnreadableError("not a loader's time: %r" % line[:80])
        stated[words[0]] = whole_number(words[1], words[0]) * 1e-6
    begun, left = stated.get("LoaderTimeInitUSec"), stated.get("LoaderTimeExecUSec")
    shown = stated.get("LoaderTimeMenuUSec")
    if begun is None or left is None:
        return FirmwareTimes(begun, None)
    if not begun <= (shown or begun) <= left:
        raise UnreadableError("the loader's times run backwards: %r" % text[:80])
    return FirmwareTimes(begun, left - begun, None if shown is None else left - shown)


def parse_kernel_log(text: str) -> Optional[float]:
    """Seconds from the kernel's start to its first program, from ``/dev/kmsg`` or ``dmesg``.

    None where the line is no longer in the log. Raises UnreadableError if no line is a log line.
    """
    understood, found = 0, None
    for line in text.splitlines():
        at, said = log_line(line)
        if at is None:
            continue
        understood += 1
        if found is None and _INIT.search(said):
            found = at
    if text.strip() and not understood:
        raise UnreadableError("no line of a kernel log: %r" % text[:80])
    return found


def log_line(line: str) -> Tuple[Optional[float], str]:
    """A log line's seconds since the kernel's start (None if it is none) and its text."""
    match = _KMSG.match(line)
    if match:
        return int(match.group(1)) * 1e-6, match.group(2)
    match = _DMESG.match(line)
    if match:
        return float("%s.%s" % match.group(1, 2)), match.group(3)
    return None, line


def parse_last_shutdown(text: str) -> Optional[float]:
    """Seconds from the order to shut down to the journal's last line of the boot before.

    From ``journalctl -b -1 -o short-monotonic``; None where the order is not among the lines
    (a crash, or a power cut). Raises UnreadableError if lines are there and none is of that form.
    """
    order: Optional[float] = None
    last: Optional[float] = None
    lines = [line for line in text.splitlines() if line and not line.startswith("-- ")]
    for line in lines:
        match = _SHORT_MONOTONIC.match(line)
        if match is None:
            continue
        last = float("%s.%s" % match.group(1, 2))
        if order is None and _LEAVING.search(match.group(3)):
            order = last
    if lines and last is None:
        raise UnreadableError("no line of a journal: %r" % lines[0][:80])
    return None if order is None or last is None else last - order
