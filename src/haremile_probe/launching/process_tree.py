"""Processes that a launch brought about, and ending them."""

import ctypes
import os
import signal
import subprocess
import time
from typing import Dict, Iterable, Optional, Set

from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.process_stats import Process, parse_process

MARKER = "HAREMILE_LAUNCH"
PR_SET_CHILD_SUBREAPER = 36
TERM_GRACE_S = 1.5


def become_subreaper() -> bool:
    """Have orphans of our children become our children; whether the kernel let us."""
    try:
        return bool(ctypes.CDLL(None).prctl(PR_SET_CHILD_SUBREAPER, 1, 0, 0, 0) == 0)
    except (OSError, AttributeError):
        return False


def processes() -> Dict[int, Process]:
    """All processes that can be read now."""
    found = {}
    for name in os.listdir("/proc"):
        if name.isdigit():
            try:
                with open("/proc/%s/stat" % name, encoding="utf-8", errors="replace") as file:
                    process = parse_process(file.read().strip())
            except (OSError, UnreadableError):
                continue  # it ended meanwhile
            found[process.pid] = process
    return found


def descendants(roots: Iterable[int], every: Optional[Dict[int, Process]] = None) -> Set[int]:
    """These processes and all below them."""
    every = processes() if every is None else every
    found = {pid for pid in roots if pid in every}
    grew = True
    while grew:
        below = {p.pid for p in every.values() if p.parent in found}
        grew = not below <= found
        found |= below
    return found


def carries(pid: int, marker: str) -> bool:
    """Whether a process was started with our marker in its environment."""
    try:
        with open("/proc/%d/environ" % pid, "rb") as file:
            return ("%s=%s" % (MARKER, marker)).encode() in file.read().split(b"\0")
    except OSError:
        return False


def launched(child: int, marker: str, before: Set[int]) -> Set[int]:
    """Everything that a launch brought about and still lives, ourselves and what was there not."""
    every = processes()
    own = descendants({os.getpid()}, every)
    found = descendants({child}, every) | {pid for pid in own if pid not in before}
    found |= {pid for pid in every if pid not in before and carries(pid, marker)}
    return {pid for pid in found if pid != os.getpid() and every[pid].state != "Z"}


def end_launch(child: "subprocess.Popen[bytes]", marker: str, before: Set[int]) -> None:
    """End everything that a launch brought about: asked first, then killed."""
    for number in (signal.SIGTERM, signal.SIGKILL):
        for pid in launched(child.pid, marker, before):
            try:
                os.kill(pid, number)
            except ProcessLookupError:
                continue
        deadline = time.monotonic() + TERM_GRACE_S
        while time.monotonic() < deadline:
            child.poll()
            _reap(child.pid)
            if not launched(child.pid, marker, before):
                child.wait()
                return
            time.sleep(0.02)
    child.wait()


def _reap(child: int) -> None:
    """Take leave of orphans that became ours; the child itself is waited for by its own handle."""
    for pid in descendants({os.getpid()}):
        if pid not in (child, os.getpid()):
            try:
                os.waitpid(pid, os.WNOHANG)
            except ChildProcessError:
                continue  # a grandchild, or ended by itself
