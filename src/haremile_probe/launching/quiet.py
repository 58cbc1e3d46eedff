"""The quiet gate: no launch is begun while something else keeps the machine busy."""

import time
from typing import Callable

from haremile_probe.parsers.cpu import busy_share, parse_cpu_time

LOOK_S = 0.5


def _cpu_text() -> str:
    with open("/proc/stat", encoding="ascii") as file:
        return file.readline()


def wait_for_quiet(
    most_share: float,
    limit_s: float,
    read: Callable[[], str] = _cpu_text,
    sleep: Callable[[float], None] = time.sleep,
) -> "tuple[bool, float]":
    """Wait until the processor's busy share over half a second is at most `most_share`.

    Returns whether it came to that within the limit, and the last share.
    """
    looks = max(int(limit_s / LOOK_S), 1)
    share = 1.0
    last = parse_cpu_time(read())
    for _ in range(looks):
        sleep(LOOK_S)
        now = parse_cpu_time(read())
        share, last = busy_share(last, now), now
        if share <= most_share:
            return True, share
    return False, share
