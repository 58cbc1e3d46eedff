"""``/proc/PID/stat`` of all processes, one line each."""

from typing import List, NamedTuple

from haremile_probe.parsers import UnreadableError

KERNEL_THREAD_FLAG = 0x00200000


class Process(NamedTuple):
    """One process as the kernel states it; `cpu_ticks` and `start_ticks` in clock ticks."""

    pid: int
    name: str
    state: str
    threads: int
    is_kernel: bool
    parent: int
    cpu_ticks: int
    start_ticks: int


def parse_process_stats(text: str) -> List[Process]:
    """Read one process per line; the name may hold blanks and brackets.

    Raises UnreadableError on a line of another shape.
    """
    return [parse_process(line.strip()) for line in text.splitlines() if line.strip()]


def parse_process(line: str) -> Process:
    """Read one process."""
    head, bracket, tail = line.rpartition(")")
    pid, opening, name = head.partition("(")
    fields = tail.split()
    try:
        if not bracket or not opening:
            raise ValueError
        flags, threads = int(fields[6]), int(fields[17])
        is_kernel = bool(flags & KERNEL_THREAD_FLAG)
        ticks = int(fields[11]) + int(fields[12])
        return Process(
            int(pid), name, fields[0], threads, is_kernel, int(fields[1]), ticks, int(fields[19])
        )
    except (IndexError, ValueError):
        raise UnreadableError("not a line of process stat: %r" % line[:80]) from None
