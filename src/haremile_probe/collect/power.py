"""Power: the kernel's files are read again and again while the machine is used in a stated way."""

import time
from typing import Callable, NamedTuple

from haremile_probe.collect.sources import Progress, Sources
from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.path_values import parse_path_values
from haremile_probe.parsers.power import parse_batteries
from haremile_probe.wire import Fault

PATTERNS = (
    "/sys/class/power_supply/*/type",
    "/sys/class/power_supply/*/scope",
    "/sys/class/power_supply/*/status",
    "/sys/class/power_supply/*/energy_now",
    "/sys/class/power_supply/*/energy_full",
    "/sys/class/power_supply/*/energy_full_design",
    "/sys/class/power_supply/*/charge_now",
    "/sys/class/power_supply/*/charge_full",
    "/sys/class/power_supply/*/charge_full_design",
    "/sys/class/power_supply/*/voltage_now",
    "/sys/class/power_supply/*/voltage_min_design",
    "/sys/class/power_supply/*/power_now",
    "/sys/class/power_supply/*/current_now",
    "/sys/class/power_supply/*/cycle_count",
    "/sys/class/hwmon/*/fan*_input",
    "/sys/class/thermal/thermal_zone*/temp",
    "/sys/devices/system/cpu/cpu0/cpufreq/scaling_cur_freq",
    "/sys/devices/system/cpu/cpu*/thermal_throttle/core_throttle_count",
    "/sys/class/powercap/intel-rapl:0/energy_uj",
)
"""What is read each time, as ``PATH: VALUE``."""

Sleep = Callable[[float], None]


class PowerPlan(NamedTuple):
    """How long the machine is watched, and how often it is looked at."""

    seconds: float = 1800.0
    every_s: float = 10.0


def read_power(
    sources: Sources,
    plan: PowerPlan,
    use: str,
    progress: Progress,
    sleep: Sleep = time.sleep,
    turn: Callable[[float], None] = lambda at: None,
) -> None:
    """Keep what the kernel tells, again and again; `turn` is told how long it went on already, and
    turns a page where it is time. Ends early, with its reason, where there is no battery or it does
    not give power."""
    sources.add("power-use", use)
    begun = sources.clock()
    while True:
        at = sources.clock() - begun
        text = sources.values("power", PATTERNS)
        sources.file("storage", "/proc/diskstats")
        why = _no_use(text)
        if why is not None:
            sources.faults.append(Fault("absent", "power: %s" % why))
            return
        progress("%.0f of %.0f s" % (at, plan.seconds))
        if at >= plan.seconds:
            return
        turn(at)
        sleep(plan.every_s)


def _no_use(text: str) -> "str | None":
    try:
        found = parse_batteries(parse_path_values(text))
    except UnreadableError as error:
        return str(error)
    if found is None:
        return "this machine has no battery that tells what it holds"
    return None if found.is_discharging else "the battery gives no power: unplug the machine"
