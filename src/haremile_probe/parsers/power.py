"""Batteries, fans and storage, from the kernel's small files."""

import re
from typing import Dict, Mapping, NamedTuple, Optional

from haremile_probe.parsers import UnreadableError

SUPPLY = re.compile(r"/sys/class/power_supply/([^/]+)/(\w+)$")
FAN = re.compile(r"/sys/class/hwmon/[^/]+/fan[0-9]+_input$")
MICRO = 1e-6
HOUR_S = 3600.0
SECTOR = 512.0
DISK = re.compile(r"(sd[a-z]+|hd[a-z]+|vd[a-z]+|xvd[a-z]+|nvme[0-9]+n[0-9]+|mmcblk[0-9]+)$")


class Battery(NamedTuple):
    """A battery, or all of them together: joules held now, held when full, held when it was new;
    watts that it gives now. None where the kernel does not tell."""

    energy: float
    full: float
    design: Optional[float]
    power: Optional[float]
    is_discharging: bool


def _number(values: Mapping[str, str], name: str) -> Optional[float]:
    text = values.get(name, "")
    return float(text) if re.match(r"^-?[0-9]{1,15}$", text) else None


def _in_joules(values: Mapping[str, str], what: str, volts: Optional[float]) -> Optional[float]:
    """Energy as the kernel states it, or charge by the voltage."""
    energy = _number(values, "energy_" + what)
    if energy is not None:
        return energy * MICRO * HOUR_S
    charge = _number(values, "charge_" + what)
    return None if charge is None or volts is None else charge * MICRO * HOUR_S * volts


def _battery(values: Mapping[str, str]) -> Optional[Battery]:
    now_volts = _number(values, "voltage_now")
    design_volts = _number(values, "voltage_min_design") or now_volts
    volts = None if design_volts is None else design_volts * MICRO
    energy, full = _in_joules(values, "now", volts), _in_joules(values, "full", volts)
    if energy is None or not full or energy < 0.0:
        return None
    power, current = _number(values, "power_now"), _number(values, "current_now")
    watts = None if power is None else abs(power) * MICRO
    if watts is None and current is not None and now_volts is not None:
        watts = abs(current) * MICRO * now_volts * MICRO
    design = _in_joules(values, "full_design", volts)
    is_discharging = values.get("status") == "Discharging"
    return Battery(energy, full, design, watts, is_discharging)


def parse_batteries(values: Mapping[str, str]) -> Optional[Battery]:
    """The batteries of the machine, added up, from ``PATH: VALUE`` pairs; those of mice and phones
    are left out. None where there is none that tells what it holds."""
    supplies: Dict[str, Dict[str, str]] = {}
    for path, value in values.items():
        match = SUPPLY.match(path)
        if match:
            supplies.setdefault(match[1], {})[match[2]] = value
    found = [
        one
        for supply in supplies.values()
        if supply.get("type") == "Battery" and supply.get("scope") != "Device"
        for one in [_battery(supply)]
        if one is not None
    ]
    if not found:
        return None
    powers = [one.power for one in found if one.power is not None]
    designs = [one.design for one in found if one.design is not None]
    return Battery(
        sum(one.energy for one in found),
        sum(one.full for one in found),
        sum(designs) if len(designs) == len(found) else None,
        sum(powers) if len(powers) == len(found) else None,
        any(one.is_discharging for one in found),
    )


def fan_turns(values: Mapping[str, str]) -> Optional[bool]:
    """Whether any fan turns; None where none tells."""
    speeds = [value for path, value in values.items() if FAN.match(path)]
    known = [int(one) for one in speeds if re.match(r"^[0-9]{1,6}$", one)]
    return None if not known else any(known)


def parse_storage(text: str) -> float:
    """Bytes read and written since boot, of whole disks, from ``/proc/diskstats``.

    Raises UnreadableError for what is none.
    """
    total = 0.0
    for line in text.splitlines():
        words = line.split()
        if len(words) < 10 or not (words[5].isdigit() and words[9].isdigit()):
            raise UnreadableError("not a line of disk statistics: %s" % line[:60])
        if DISK.match(words[2]):
            total += (float(words[5]) + float(words[9])) * SECTOR
    return total
