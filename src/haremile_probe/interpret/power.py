"""How long the battery lasts in a stated use, what it lost since it was new, and what went on."""

import math
from typing import Dict, List, NamedTuple, Optional, Sequence, Tuple

from haremile_probe.interpret.account import Account
from haremile_probe.parsers.path_values import parse_path_values
from haremile_probe.parsers.power import Battery, fan_turns, parse_batteries, parse_storage

USES = ("idle", "pages", "clip")
BLOCKS = 10
LEAST_SAMPLES = 3
STUDENT_95 = {2: 4.303, 3: 3.182, 4: 2.776, 5: 2.571, 6: 2.447, 7: 2.365, 8: 2.306, 9: 2.262}
"""Two-sided, by degrees of freedom."""


class Spent(NamedTuple):
    """Mean watts, and how far the true mean may lie on each side (95 %); None where too few blocks
    tell."""

    watts: float
    error: Optional[float]


def mean_power(samples: Sequence[Tuple[float, Battery]]) -> Optional[Spent]:
    """From power readings where all samples have them, else from the energy that is gone.

    The error is that of the means of up to ten stretches, so that neighbours may resemble each
    other. None where nothing was spent.
    """
    powers = [one.power for _, one in samples if one.power is not None]
    if len(powers) == len(samples):
        count = min(BLOCKS, len(powers))
        size = len(powers) / count
        parts = [powers[int(n * size) : int((n + 1) * size)] for n in range(count)]
        means = [sum(part) / len(part) for part in parts]
        watts = sum(powers) / len(powers)
        middle = sum(means) / count
        spread = math.sqrt(sum((one - middle) ** 2 for one in means) / (count - 1))
        error = STUDENT_95.get(count - 1)
        known = None if error is None else error * spread / math.sqrt(count)
        return Spent(watts, known) if watts > 0.0 else None
    (first_at, first), (last_at, last) = samples[0], samples[-1]
    spent = first.energy - last.energy
    return Spent(spent / (last_at - first_at), None) if spent > 0.0 else None


def tell(account: Account) -> None:
    """Battery life in seconds by use, its wear, the share of looks at which a fan turned, and how
    much storage was read and written."""
    use = (account.text("power-use") or "").strip()
    samples: List[Tuple[float, Battery]] = []
    fans: List[bool] = []
    for record in account.all("power"):
        values = account.parsed("power", parse_path_values, record.text) or {}
        battery, turns = parse_batteries(values), fan_turns(values)
        if battery is not None and battery.is_discharging:
            samples.append((record.uptime_s, battery))
        if turns is not None:
            fans.append(turns)
    if len(samples) >= LEAST_SAMPLES and use in USES:
        _battery(account, use, samples)
    if fans and samples:
        account.add("power.fan", sum(fans) / len(fans), "share", "probe", 1.0 / len(fans))
    _storage(account)


def _battery(account: Account, use: str, samples: Sequence[Tuple[float, Battery]]) -> None:
    spent, newest = mean_power(samples), samples[-1][1]
    facts: Dict[str, object] = {"samples": len(samples), "full_j": newest.full}
    if spent is not None:
        account.add("power." + use, newest.full / spent.watts, "s", "probe")
        facts["watts"] = spent.watts
        if spent.error is not None and spent.error < spent.watts:
            facts["lasts_s"] = [
                newest.full / (spent.watts + spent.error),
                newest.full / (spent.watts - spent.error),
            ]
    if newest.design:
        account.add("power.wear", max(1.0 - newest.full / newest.design, 0.0), "share", "probe")
    account.facts["power"] = facts


def _storage(account: Account) -> None:
    looks = account.all("storage")
    totals = [account.parsed("storage", parse_storage, one.text) for one in looks]
    if len(looks) < 2 or totals[0] is None or totals[-1] is None:
        return
    lasted = looks[-1].uptime_s - looks[0].uptime_s
    if lasted > 0.0 and totals[-1] >= totals[0]:
        account.add("power.storage", (totals[-1] - totals[0]) / lasted, "B/s", "probe")
