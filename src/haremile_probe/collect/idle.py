"""Idle: memory is watched until it settles, then everything is read from one instant."""

import os
import time
from typing import Callable, List, NamedTuple, Optional, Sequence

from haremile_probe.collect.sources import Progress, Sources, fault_of
from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.meminfo import memory_use, parse_meminfo
from haremile_probe.parsers.settling import SettleRule, settled
from haremile_probe.wire import Fault

INSTANTS_S = (60.0, 180.0, 300.0)
"""Seconds since boot at which memory is read whether settled or not."""


class IdlePlan(NamedTuple):
    """How idle memory is watched; `instants_s` that are past already are not read."""

    rule: SettleRule = SettleRule()
    instants_s: Sequence[float] = INSTANTS_S
    every_s: float = 1.0


def read_idle(
    sources: Sources,
    plan: IdlePlan,
    progress: Progress,
    sleep: Callable[[float], None] = time.sleep,
) -> None:
    """Sample ``/proc/meminfo`` until the rule holds (or its time-out), and at each instant."""
    sources.add("settle-rule", plan.rule.record)
    begun = sources.clock()
    instants = [at for at in sorted(plan.instants_s) if at > begun]
    times: List[float] = []
    levels: List[float] = []
    is_settled = False
    while True:
        is_watched = not is_settled and sources.clock() - begun <= plan.rule.timeout_s
        at, level = _sample(sources, instants, is_watched)
        if level is None:
            return
        if is_watched:
            times.append(at)
            levels.append(level)
            is_settled = settled(times, levels, plan.rule) is not None
            if is_settled:
                _instant(sources)
                progress("settled %.0f s after the first look" % (at - begun))
        is_over = is_settled or at - begun >= plan.rule.timeout_s
        if is_over and not instants:
            break
        if int(at - begun) % 10 == 0:
            progress("%.0f s: %.1f MiB in use" % (at - begun, level / 2**20))
        next_look = begun + plan.every_s * (int((at - begun) / plan.every_s) + 1)
        if is_over and instants:
            next_look = instants[0]
        elif instants:
            next_look = min(next_look, instants[0])
        sleep(max(next_look - sources.clock(), 0.001))
    if not is_settled:
        _instant(sources)
        limit = plan.rule.timeout_s
        sources.faults.append(Fault("timed-out", "memory did not settle within %g s" % limit))


def _sample(
    sources: Sources, instants: List[float], is_watched: bool
) -> "tuple[float, Optional[float]]":
    """One record; an instant that has come is kept under its own name.

    Only while memory is watched is it a sample of the curve: a few far apart would look settled.
    """
    text = sources.file("meminfo", "/proc/meminfo")
    at = sources.records[-1].uptime_s if text else sources.clock()
    if text is None:
        return at, None
    if not is_watched:
        sources.records.pop()
    while instants and at >= instants[0]:
        sources.add("meminfo-at-%g" % instants.pop(0), text)
    try:
        return at, float(memory_use(parse_meminfo(text)).used)
    except UnreadableError as error:
        sources.faults.append(Fault("unreadable", "meminfo: %s" % error))
        return at, None


def _instant(sources: Sources) -> None:
    """Every definition's source as close together as they can be read."""
    sources.file("instant-meminfo", "/proc/meminfo")
    sums, own = sum_of_processes(sources)
    if "denied 0\n" not in sums:  # other users' processes: the helper may read them
        sums = _from_helper(sums)
    sources.add("process-memory", sums)
    sources.add("probe-memory", own)
    sources.values("compressed-swap", ["/sys/block/zram*/mm_stat"])
    sources.processes()
    sources.file("stat", "/proc/stat")


def _from_helper(sums: str) -> str:
    """The sums over all processes as the helper reads them, else those that could be had."""
    from haremile_probe.helper.client import HelperRefused, ask

    try:
        return str(ask("process-memory")["sums"])
    except (OSError, HelperRefused, KeyError):
        return sums  # it states how many were denied, which is then told


def pss_of(rollup: str) -> Optional[int]:
    """Bytes of PSS that a ``smaps_rollup`` states, None where it states none."""
    line = next((line for line in rollup.splitlines() if line.startswith("Pss:")), None)
    return None if line is None else int(line.split()[1]) * 1024


def sum_of_processes(sources: Sources) -> "tuple[str, str]":
    """Sums over all processes as ``NAME VALUE`` lines, and the probe's own, bytes and counts.

    PSS comes from ``smaps_rollup``, which another user's process does not let be read: `denied`
    counts those, and the sum is then of the readable ones only. RSS comes from ``statm``.
    """
    page = os.sysconf("SC_PAGE_SIZE")
    pss, rss, read, denied = 0, 0, 0, 0
    own = ""
    for name in os.listdir(sources.path("/proc")):
        if not name.isdigit():
            continue
        try:
            resident = int(sources.text_of("/proc/%s/statm" % name).split()[1]) * page
        except (OSError, IndexError, ValueError):
            continue  # it ended meanwhile
        rss += resident
        try:
            rollup = sources.text_of("/proc/%s/smaps_rollup" % name)
        except OSError as error:
            if fault_of(error, name).kind == "denied":
                denied += 1
            continue  # a kernel thread has none, and a process that ended neither
        size = pss_of(rollup)
        if size is None:
            continue
        pss, read = pss + size, read + 1
        if int(name) == os.getpid():
            own = "pss %d\nrss %d\n" % (size, resident)
    return "pss %d\nrss %d\nread %d\ndenied %d\n" % (pss, rss, read, denied), own
