"""Sleep: the machine is sent to sleep with its clock set to wake it, and what it says then."""

import json
from typing import Any, Callable, Dict, Optional

from haremile_probe.collect.boot import read_kernel_log
from haremile_probe.collect.power import PATTERNS
from haremile_probe.collect.privileged import ask_for_denied
from haremile_probe.collect.sources import Progress, Sources
from haremile_probe.wire import Fault

Suspend = Callable[[int], Dict[str, Any]]
Answered = Callable[[float], Optional[float]]
"""When a page gave a sign of life after this instant of the monotonic clock; None for never."""


def read_sleep(
    sources: Sources,
    seconds: int,
    suspend: Suspend,
    progress: Progress,
    answered: Optional[Answered] = None,
) -> None:
    """Sleep once, and keep the clocks before and after, what the battery held, and the kernel's
    words; a fault where it cannot sleep."""
    sources.values("power", PATTERNS)
    progress("asleep for %d s" % seconds)
    try:
        told = suspend(seconds)
    except OSError as error:
        kind = "denied" if isinstance(error, PermissionError) else "absent"
        sources.faults.append(Fault(kind, "sleep: %s" % error))
        return
    if answered is not None:
        told = {**told, "answered": answered(float(told["after"]["monotonic"]))}
    sources.add("sleep", json.dumps(told, indent=1, sort_keys=True))
    sources.values("power", PATTERNS)
    read_kernel_log(sources)
    ask_for_denied(sources, "kernel-log", "kernel-log")
