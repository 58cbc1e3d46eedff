"""Our own small program, where the archive holds one for this machine's processor."""

import os
import pkgutil
import subprocess
from typing import List, NamedTuple, Optional

BUILT = "built"
TARGETS = {
    "x86_64": "x86_64-linux-musl",
    "x86": "x86-linux-musl",
    "aarch64": "aarch64-linux-musl",
    "arm": "arm-linux-musleabihf",
}
"""Processors that it is built for, and what the compiler calls each."""

NAMES = {"amd64": "x86_64", "arm64": "aarch64"}


class Said(NamedTuple):
    """What the program printed on each stream, and its exit code; None where it was ended."""

    code: Optional[int]
    out: str
    errors: str


def processor() -> Optional[str]:
    """Which of the programs this machine's kernel runs; None for none."""
    machine = os.uname().machine.lower()
    if len(machine) == 4 and machine[0] == "i" and machine.endswith("86"):
        return "x86"
    if machine.startswith("armv"):
        return "arm"
    name = NAMES.get(machine, machine)
    return name if name in TARGETS else None


def program_name(target: str) -> str:
    """The file of a program, beside this module."""
    return "%s/rates.%s" % (BUILT, target)


class Native:
    """The program, held in memory alone, so that no file system has to allow it to be run.

    Raises
    ------
    OSError
        If there is none for this machine here, or the kernel holds no programs in memory.
    """

    def __init__(self) -> None:
        machine = os.uname().machine
        target = processor()
        if target is None:
            raise OSError("there is no native program for %s" % machine)
        try:
            body = pkgutil.get_data(__name__, program_name(target))
        except OSError:
            raise OSError(
                "this archive was built without native programs: haremile probe build --native"
            ) from None
        if not body or not hasattr(os, "memfd_create"):
            raise OSError("this kernel or Python holds no program in memory")
        self._file = os.memfd_create("haremile-rates", 0)
        with os.fdopen(os.dup(self._file), "wb") as file:
            file.write(body)

    def run(self, words: List[str], limit_s: float) -> Said:
        """Run it once. Raises OSError where it cannot be begun."""
        try:
            done = subprocess.run(
                ["/proc/self/fd/%d" % self._file, *words],
                stdin=subprocess.DEVNULL,
                stdout=subprocess.PIPE,
                stderr=subprocess.PIPE,
                pass_fds=(self._file,),
                timeout=limit_s,
                check=False,
            )
        except subprocess.TimeoutExpired:
            return Said(None, "", "still at it after %g s" % limit_s)
        said = [part.decode("utf-8", "replace")[:2000] for part in (done.stdout, done.stderr)]
        return Said(done.returncode, *said)

    def close(self) -> None:
        """Give the memory back."""
        os.close(self._file)
