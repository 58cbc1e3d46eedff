"""Work that keeps the machine busy beside a measurement: so many processes that calculate, and one
that writes. Bounded: it ends with us, and its file has a size and no name."""

import os
import subprocess
import sys
from typing import List

FILE_MIB = 64
MOST_PROCESSES = 256

_WITH_US = """
import ctypes, os, sys
ctypes.CDLL(None).prctl(1, 9)
if os.getppid() != int(sys.argv[1]): sys.exit()
"""
CALCULATE = (
    _WITH_US
    + """
while True:
    sum(number * number for number in range(100000))
"""
)
WRITE = (
    _WITH_US
    + """
import tempfile
block = os.urandom(1048576)
with tempfile.TemporaryFile(dir=sys.argv[2], buffering=0) as file:
    while True:
        file.seek(0)
        for _ in range(int(sys.argv[3])):
            file.write(block)
            os.fsync(file.fileno())
"""
)


class Busy:
    """Keeps the machine busy from its making until it is closed.

    Parameters
    ----------
    processes : int
        How many calculate.
    folder : str
        Where the file is written to.
    """

    def __init__(self, processes: int, folder: str):
        self.said = "%d busy processes, one that writes to the disk" % processes
        self._children: List["subprocess.Popen[bytes]"] = []
        try:
            for _ in range(processes):
                self._begin(CALCULATE)
            self._begin(WRITE, folder, str(FILE_MIB))
        except OSError:
            self.close()
            raise

    def _begin(self, script: str, *more: str) -> None:
        self._children.append(
            subprocess.Popen(
                [sys.executable, "-I", "-c", script, str(os.getpid()), *more],
                stdin=subprocess.DEVNULL,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
            )
        )

    def lacking(self) -> int:
        """How many of its processes ended by themselves, which they never should."""
        return sum(child.poll() is not None for child in self._children)

    def close(self) -> None:
        """End all of it."""
        for child in self._children:
            child.kill()
        for child in self._children:
            child.wait()
