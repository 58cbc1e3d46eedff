"""Booting anew, and into which system: the firmware's or the boot loader's one-time choice."""

import os
import re
import shutil
import struct
import subprocess
from typing import List, Optional

from haremile_probe.jobs import ENTRY
from haremile_probe.runtime import MissingHere

VARIABLES = "/sys/firmware/efi/efivars"
BOOT_NEXT = "BootNext-8be4df61-93ca-11d2-aa0d-00e098032b8c"
ATTRIBUTES = 7
"""Kept over a restart, seen by boot services and by the running system (UEFI 2.10, 8.2)."""

LOADERS = (
    ["grub-reboot"],
    ["grub2-reboot"],
    ["bootctl", "set-oneshot"],
)
"""Commands that choose the boot loader's next entry, once."""


def choose_next(entry: str, variables: str = VARIABLES) -> str:
    """Choose the entry that the next boot takes, once; return by which way.

    Parameters
    ----------
    entry : str
        ``Boot0003`` for the firmware, otherwise the boot loader's name of the entry.
    variables : str
        Where the firmware's variables are shown.

    Raises
    ------
    MissingHere
        If this machine has no such way, or refuses it.
    """
    if not ENTRY.match(entry):
        raise MissingHere("%s is no name of a boot entry" % entry[:40])
    number = re.match(r"^Boot([0-9A-Fa-f]{4})$", entry)
    if number:
        return _boot_next(int(number.group(1), 16), variables)
    for words in LOADERS:
        if shutil.which(words[0]):
            _run([*words, entry])
            return words[0]
    raise MissingHere("no boot loader here takes a one-time entry; %s cannot be chosen" % entry)


def _boot_next(number: int, variables: str) -> str:
    if not os.path.isdir(variables):
        raise MissingHere("this machine did not boot by UEFI: Boot%04X cannot be chosen" % number)
    entry = os.path.join(variables, "Boot%04X-%s" % (number, BOOT_NEXT.partition("-")[2]))
    if not os.path.exists(entry):
        raise MissingHere("the firmware has no entry Boot%04X" % number)
    try:
        with open(os.path.join(variables, BOOT_NEXT), "wb", buffering=0) as file:
            file.write(struct.pack("<IH", ATTRIBUTES, number))  # in one write, as it must be
    except OSError as error:
        raise MissingHere("the firmware refused the next entry: %s" % error) from None
    return "firmware"


def restart(command: List[str]) -> None:
    """Boot anew; raises MissingHere where the command fails."""
    _run(command)


def _run(words: List[str]) -> None:
    said: Optional[str] = None
    try:
        done = subprocess.run(words, capture_output=True, text=True, check=False)
        said = done.stderr.strip() if done.returncode else None
    except OSError as error:
        said = str(error)
    if said is not None:
        raise MissingHere("%s failed: %s" % (" ".join(words), said))
