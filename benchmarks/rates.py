"""Rates of this machine: how much they scatter over ten runs, and whether known changes are seen:
half the processors, a control group that gets half a processor, memory instead of the disk.

Needs the native programs: ./haremile probe build --native.
"""

import os
import statistics
import sys
from collections.abc import Callable
from pathlib import Path

from haremile_probe.collect.rates import RatesPlan, read_rates, usual_folder
from haremile_probe.collect.sources import Sources
from haremile_probe.interpret.rate import parse_rates
from haremile_probe.native import Native

REPEATS = 10
SHARE = 0.5
"""Of a processor, in the throttled group."""


def rates(plan: RatesPlan) -> dict[str, float]:
    """Every rate once, by phase; pinned ones apart."""
    sources, program = Sources(), Native()
    try:
        read_rates(sources, program, plan, lambda text: None)
    finally:
        program.close()
    for fault in sources.faults:
        print(f"  {fault.kind}: {fault.what}", file=sys.stderr)
    text = next(one.text for one in sources.records if one.name == "rates")
    return {
        f"{one.phase}{' pinned' if one.is_pinned else ''}": one.amount / one.seconds
        for one in parse_rates(text)
    }


def within(change: Callable[[], None], plan: RatesPlan) -> dict[str, float]:
    """The same in a child that is changed first."""
    out, into = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(out)
        change()
        with os.fdopen(into, "w") as file:
            for name, value in rates(plan).items():
                file.write(f"{name}={value}\n")
        os._exit(0)
    os.close(into)
    with os.fdopen(out) as file:
        found = dict(line.strip().split("=") for line in file)
    os.waitpid(child, 0)
    return {name: float(value) for name, value in found.items()}


def half_the_processors() -> None:
    able = sorted(os.sched_getaffinity(0))
    os.sched_setaffinity(0, able[: max(len(able) // 2, 1)])


def throttled() -> None:
    """Into a control group with a share of one processor; of version 1 or 2, as there is."""
    first = Path("/sys/fs/cgroup/cpu")
    group = (first if first.is_dir() else Path("/sys/fs/cgroup")) / "haremile-rates"
    group.mkdir(exist_ok=True)
    if first.is_dir():
        (group / "cpu.cfs_period_us").write_text("100000")
        (group / "cpu.cfs_quota_us").write_text(str(int(100_000 * SHARE)))
    else:
        (group / "cpu.max").write_text(f"{int(100_000 * SHARE)} 100000")
    (group / "cgroup.procs").write_text(str(os.getpid()))


def main() -> None:
    plan = RatesPlan(least_s=1.0, folder=usual_folder())
    every = [rates(plan) for _ in range(REPEATS)]
    middle = {}
    for name in every[0]:
        values = sorted(one[name] for one in every)
        middle[name] = statistics.median(values)
        scatter = (values[-1] - values[0]) / middle[name]
        spread = statistics.stdev(values) / middle[name]
        print(
            f"{name:18} median {middle[name]:14.4g} /s   standard deviation {spread:6.1%}, "
            f"all within {scatter:.1%}"
        )
    for what, found in (
        ("half the processors", within(half_the_processors, plan._replace(folder=""))),
        (f"{SHARE:g} of a processor", _throttled(plan._replace(folder=""))),
        ("a file in memory", rates(plan._replace(folder="/dev/shm"))),
    ):
        shown = (f"{name} {value / middle[name]:.2f}" for name, value in found.items())
        print(f"{what}, times as fast: {', '.join(shown)}")


def _throttled(plan: RatesPlan) -> dict[str, float]:
    try:
        return within(throttled, plan)
    finally:
        for place in ("/sys/fs/cgroup/cpu", "/sys/fs/cgroup"):
            group = Path(place) / "haremile-rates"
            if group.is_dir():
                group.rmdir()


if __name__ == "__main__":
    main()
