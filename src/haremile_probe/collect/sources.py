"""Reading a machine's own texts. What cannot be read is a fault of one of four kinds."""

import errno
import glob
import os
import shutil
import subprocess
import time
from typing import Callable, Iterable, List, Optional, Sequence

from haremile_probe.wire import Fault, Record

MOST_BYTES = 16 * 2**20
"""No text of a machine is read beyond this."""

CHUNK = 65536

Progress = Callable[[str], None]
"""Told how far a reading is."""


def uptime_s() -> float:
    """Seconds since boot, time asleep included."""
    return time.clock_gettime(getattr(time, "CLOCK_BOOTTIME", time.CLOCK_MONOTONIC))


def fault_of(error: OSError, what: str) -> Fault:
    """The fault that a refused or failed reading is."""
    if error.errno in (errno.ENOENT, errno.ENOTDIR, errno.ENODEV, errno.ENXIO, errno.ESRCH):
        return Fault("absent", what)
    if error.errno in (errno.EACCES, errno.EPERM):
        return Fault("denied", what)
    return Fault("unreadable", "%s: %s" % (what, os.strerror(error.errno or 0)))


class Sources:
    """Collects records and faults; `root` stands for ``/`` (another folder in tests)."""

    def __init__(self, root: str = "/", clock: Callable[[], float] = uptime_s):
        self.root = root.rstrip("/")
        self.clock = clock
        self.records: List[Record] = []
        self.faults: List[Fault] = []

    def path(self, path: str) -> str:
        """Where a path of the machine lies."""
        return self.root + path

    def add(self, name: str, text: str) -> str:
        """Keep a text under its name; bytes that are no text stand in it escaped."""
        text = text.encode("utf-8", "surrogateescape").decode("utf-8", "backslashreplace")
        self.records.append(Record(name, self.clock(), text))
        return text

    def file(self, name: str, *paths: str) -> Optional[str]:
        """The first of these files that is there, kept; None and a fault where none can be read."""
        fault = Fault("absent", "%s: %s" % (name, " or ".join(paths)))
        for path in paths:
            try:
                return self.add(name, self.text_of(path))
            except OSError as error:
                met = fault_of(error, "%s: %s" % (name, path))
                fault = fault if met.kind == "absent" else met
        self.faults.append(fault)
        return None

    def text_of(self, path: str) -> str:
        """A file's text, not kept; raises OSError."""
        parts, size = [], 0
        with open(self.path(path), "rb", buffering=0) as file:
            while size < MOST_BYTES:
                part = file.read(CHUNK)  # kernel settings refuse to be read by the megabyte
                if not part:
                    break
                parts.append(part)
                size += len(part)
        return b"".join(parts).decode("utf-8", "replace")

    def values(self, name: str, patterns: Iterable[str]) -> str:
        """Small files as ``PATH: VALUE`` lines; those that are not there are simply not listed."""
        lines = []
        for pattern in patterns:
            whole = self.path(pattern)
            for found in sorted(glob.glob(whole)) if "*" in pattern else [whole]:
                path = found[len(self.root) :]
                try:
                    value = self.text_of(path).strip().replace("\n", " ")
                except OSError as error:
                    fault = fault_of(error, "%s: %s" % (name, path))
                    if fault.kind == "denied":
                        self.faults.append(fault)
                    continue
                lines.append("%s: %s" % (path, value))
        return self.add(name, "\n".join(lines) + "\n")

    def command(
        self,
        name: str,
        arguments: Sequence[str],
        timeout_s: float = 20.0,
        good_codes: Sequence[int] = (0,),
    ) -> Optional[str]:
        """What a program prints, kept; None with a fault where it is absent, fails or hangs.

        It is given its arguments as they are, never through a shell.
        """
        text = self.output_of(name, arguments, timeout_s, good_codes)
        return None if text is None else self.add(name, text)

    def output_of(
        self,
        name: str,
        arguments: Sequence[str],
        timeout_s: float = 20.0,
        good_codes: Sequence[int] = (0,),
    ) -> Optional[str]:
        """As `command`, but not kept."""
        what = "%s: %s" % (name, " ".join(arguments))
        if shutil.which(arguments[0]) is None:
            # asked first: where a folder of PATH may not be looked into, starting it says "denied"
            self.faults.append(Fault("absent", what))
            return None
        try:
            done = subprocess.run(
                list(arguments),
                stdin=subprocess.DEVNULL,
                stdout=subprocess.PIPE,
                stderr=subprocess.PIPE,
                timeout=timeout_s,
                check=False,
                env={**os.environ, "LC_ALL": "C", "LANG": "C"},
            )
        except subprocess.TimeoutExpired:
            self.faults.append(Fault("timed-out", "%s, after %g s" % (what, timeout_s)))
            return None
        except OSError as error:
            self.faults.append(fault_of(error, what))
            return None
        if done.returncode not in good_codes:
            said = done.stderr.decode("utf-8", "replace").strip().splitlines()[-1:]
            reason = ": ".join(["ended with %d" % done.returncode, *said])[:200]
            kind = "denied" if "ermission denied" in reason else "unreadable"
            self.faults.append(Fault(kind, "%s: %s" % (what, reason)))
            return None
        return done.stdout[:MOST_BYTES].decode("utf-8", "replace")

    def processes(self) -> str:
        """All processes' ``stat`` lines; those that end meanwhile are not listed."""
        lines = []
        for name in os.listdir(self.path("/proc")):
            if name.isdigit():
                try:
                    lines.append(self.text_of("/proc/%s/stat" % name).strip())
                except OSError:
                    continue  # it ended between listing and reading
        return self.add("processes", "\n".join(lines) + "\n")
