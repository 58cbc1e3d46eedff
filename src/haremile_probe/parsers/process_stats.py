"""``/proc/PID/stat`` of all processes, one line each."""

from typing import List, NamedTuple

from haremile_probe.parsers import UnreadableError

KERNEL_THREAD_FLAG = 0x00200000


class Process(NamedTuple):
    """One process as the kernel states it."""

    pid: int
    name: str
    state: str
    threads: int
    is_kernel: bool


def parse_process_stats(text: str) -> List[Process]:
    """Read one process per line; the name may hold blanks and brackets.

    Raises UnreadableError on a line of another shape.
    """
    found = []
    for line in text.splitlines():
        if line.strip():
            found.append(_process(line.strip()))
    return found


def _process(line: str) -> Process:
    head, bracket, tail = line.rpartition(")")
    pid, opening, name = head.partition("(")
    fields = tail.split()
    try:
        if not bracket or not opening:
            raise ValueError
        flags, threads = int(fields[6]), int(fields[17])
        is_kernel = bool(flags & KERNEL_THREAD_FLAG)
        return Process(int(pid), name, fields[0], threads, is_kernel)
    except (IndexError, ValueError):
        raise UnreadableError("not a line of process stat: %r" % line[:80]) from None
