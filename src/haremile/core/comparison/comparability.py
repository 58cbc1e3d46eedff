"""Whether contenders started alike: each condition, graded by a table of rules."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from haremile.core.records.conditions import KEYS, OF_THE_RUN, Conditions
from haremile.errors import BadInputError


class Grade(StrEnum):
    """What a condition does to a comparison; the gravest first."""

    BREAKS = "breaks"
    WEAKENS = "weakens"
    NOTE = "note"
    SAME = "same"


@dataclass(frozen=True)
class Rule:
    """One line of the table.

    `different` is the grade of two stated values, `unknown` that of a value stated for one
    contender and not for another; `remedy` says what to do.
    """

    different: Grade
    unknown: Grade
    remedy: str


_B, _W, _N = Grade.BREAKS, Grade.WEAKENS, Grade.NOTE

RULES: dict[str, Rule] = {
    "medium": Rule(_B, _W, "measure all from the same medium: all live, or all installed"),
    "start": Rule(_B, _W, "compare cold with cold and warm with warm"),
    "boot_no": Rule(_N, _N, "leave the first boots after a change out of the plan"),
    "updates_pending": Rule(_W, _W, "bring all up to date and reboot, then measure"),
    "session": Rule(_N, _N, "part of the edition; name it where the finding is quoted"),
    "autologin": Rule(_W, _W, "set autologin alike; otherwise a person's time is in the boot"),
    "autostart": Rule(_N, _N, "take out what was added; the rest is part of the edition"),
    "waits": Rule(_B, _W, "turn the menu and passphrase off, or subtract them for all"),
    "power": Rule(_W, _W, "run all on mains, or all on battery"),
    "governor": Rule(_W, _W, "set the same governor, or say that the default is compared"),
    "throttled": Rule(_B, _W, "let the machine cool down and repeat the throttled runs"),
    "accelerator": Rule(_B, _W, "run all guests with the same accelerator"),
    "clock": Rule(_B, _W, "take all readings with the same clock"),
    "cores": Rule(_B, _W, "give every contender the same cores"),
    "memory": Rule(_B, _W, "give every contender the same memory"),
    "firmware": Rule(_N, _N, "use the same firmware settings where the machine allows it"),
    "kernel": Rule(_N, _N, "part of the system; name it where the finding is quoted"),
    "memory_steps": Rule(_W, _W, "try the same sizes of memory on all"),
    "boots_each": Rule(_B, _W, "ask as many boots of the answer on all"),
    "app": Rule(_B, _W, "launch the same application on all"),
    "app_version": Rule(_B, _W, "install the same version of the application on all"),
    "app_packaging": Rule(_W, _W, "install the application from the same kind of package"),
    "page_set": Rule(_B, _B, "ramp all of them with one version of the probe's pages"),
    "measure": Rule(_N, _N, "compare one measure with itself"),
    "rate_work": Rule(_B, _W, "work on as much memory and as large a file on all"),
    "measure_step": Rule(_W, _N, "measure with one and the same command on all"),
    "opens": Rule(_B, _W, "open the same pages and documents on all"),
    "own_addresses": Rule(
        _W, _W, "ramp all of them with the probe's own pages, which never change"
    ),
    "pages_open": Rule(_B, _W, "read the application's memory with as many pages open"),
    "stop_rules": Rule(_B, _B, "ramp all of them under the same limits"),
    "opened_before": Rule(_W, _W, "reboot, and open nothing before the reading"),
    "background": Rule(_W, _W, "stop what runs beside the measurement, on all alike"),
    "recorder": Rule(_B, _W, "record the screen on all, or on none"),
    "settle_rule": Rule(_B, _W, "read idle memory of all by the same rule"),
    "since_boot": Rule(_N, _N, "read at the same time since boot"),
    "switching": Rule(_W, _W, "hold all contenders at once; else return to the first at the end"),
    "probe_version": Rule(_N, _W, "measure all with one version of the probe"),
    "person": Rule(_W, _N, "let one person measure all: their habits then cancel"),
    "reaction": Rule(_N, _N, "do the drill on the day on which it is timed"),
    "host_load": Rule(_N, _N, "keep the host quiet while guests are measured"),
    "host_wait": Rule(_W, _N, "plan the disturbed runs again while the host is quiet"),
    "pressure": Rule(_W, _N, "plan the disturbed runs again while the machine is quiet"),
    "host_steal": Rule(_W, _N, "plan the disturbed runs again while the host's host is quiet"),
}


WHEREVER_STATED = frozenset({"own_addresses"})
"""Conditions that make less of a comparison also where they are alike for all."""


@dataclass(frozen=True)
class Difference:
    """One condition over all contenders of a row.

    Attributes
    ----------
    key, label : str
    grade : Grade
        ``same`` where it is stated for all, alike.
    values : tuple of str or None
        The distinct values in order; None stands for *not stated*.
    remedy : str
        What to do about it.
    overridden : str or None
        The reason for which a person compares nevertheless.
    """

    key: str
    label: str
    grade: Grade
    values: tuple[str | None, ...]
    remedy: str = ""
    overridden: str | None = None

    @property
    def sentence(self) -> str:
        """The difference in words."""
        stated = ", ".join("not stated" if value is None else value for value in self.values)
        text = f"{self.label}: {stated}"
        return text if self.overridden is None else f"{text} (overridden: {self.overridden})"

    @property
    def forbids(self) -> bool:
        """Whether nothing may be compared because of it."""
        return self.grade is Grade.BREAKS and self.overridden is None


Lanes = Mapping[int, Sequence[Conditions]]


def grade_of(key: str) -> Grade:
    """The grade of two different stated values of `key`."""
    return RULES[key].different


def graded_conditions(
    lanes: Lanes, overrides: Mapping[str, str] | None = None
) -> tuple[Difference, ...]:
    """Grade every condition that is stated for any lane of one row.

    Parameters
    ----------
    lanes : mapping of lane number to the distinct conditions that its readings were taken under
        Several entries for one lane mean that its conditions changed on the way.
    overrides : mapping of condition key to the reason why its difference is accepted

    Returns
    -------
    tuple of Difference
        The gravest first. A condition stated for one and unknown for another is a difference
        too: unknown is not the same as equal.

    Raises
    ------
    BadInputError
        If an override names no condition, or gives no reason.
    """
    reasons = checked_overrides(overrides or {})
    every = [conditions for group in lanes.values() for conditions in group]
    keys = {key for conditions in every for key in conditions} - OF_THE_RUN
    found = [
        _graded(key, [conditions.get(key) for conditions in every], reasons.get(key))
        for key in sorted(keys)
    ]
    return tuple(sorted(found, key=lambda item: (list(Grade).index(item.grade), item.label)))


def fair_start(lanes: Lanes, overrides: Mapping[str, str] | None = None) -> tuple[Difference, ...]:
    """What differs between the lanes of one row: `graded_conditions` without those that are the
    same."""
    every = graded_conditions(lanes, overrides)
    return tuple(found for found in every if found.grade is not Grade.SAME)


OF_THE_HOST = ("host_wait", "host_steal", "pressure")
"""Shares by which it is told that host or machine had other work, or was given less."""

LEAST_DISTURBED = 0.10
TIMES_CALM = 3.0


def disturbed_runs(key: str, waits: Mapping[int, Sequence[float]]) -> Difference | None:
    """Runs beside which the host had other work, None where there are none.

    Parameters
    ----------
    key : str
        One of `OF_THE_HOST`.
    waits : mapping of lane number to that share of each run
        A run is disturbed whose share is more than a tenth, and more than three times that of the
        calmest lane in the median.
    """
    known = {lane: sorted(shares) for lane, shares in waits.items() if shares}
    if not known:
        return None
    calm = min(shares[len(shares) // 2] for shares in known.values())
    most = max(LEAST_DISTURBED, TIMES_CALM * calm)
    every = [share for shares in known.values() for share in shares]
    beyond = [share for share in every if share > most]
    if not beyond:
        return None
    rule = RULES[key]
    usual = f"usually {calm:.0%}".replace("%", " %")
    share = f"{min(beyond):.0%}".replace("%", " %")
    values = (usual, f"{share} or more in {len(beyond)} of {len(every)} runs")
    return Difference(key, KEYS[key], rule.different, values, rule.remedy)


_ONLY_OF = {
    "start": ("launch",),
    "app": ("launch", "ramp", "app", "response", "frame"),
    "app_version": ("launch", "ramp", "app", "response", "frame"),
    "settle_rule": ("memory", "process", "thread", "cpu"),
    "waits": ("boot", "launch"),
    "page_set": ("ramp",),
    "opens": ("ramp",),
    "rate_work": ("rate",),
    "measure": ("own",),
    "measure_step": ("own",),
    "pages_open": ("app",),
    "stop_rules": ("ramp",),
}
"""Metric families that a condition bears on; others bear on all."""


def bears_on(key: str, metric_key: str) -> bool:
    """Whether a condition has to do with a metric at all."""
    family = metric_key.partition(".")[0]
    return family in _ONLY_OF.get(key, (family,))


def unstated_keys(lanes: Lanes, metric_key: str) -> tuple[str, ...]:
    """Conditions whose difference would break a comparison of the metric, and nobody states."""
    stated = {key for group in lanes.values() for conditions in group for key in conditions}
    return tuple(
        key
        for key, rule in RULES.items()
        if rule.different is Grade.BREAKS and key not in stated and bears_on(key, metric_key)
    )


def checked_overrides(overrides: Mapping[str, str]) -> Mapping[str, str]:
    """The same; raises BadInputError where one names no condition, or gives no reason."""
    for key, reason in overrides.items():
        if key not in KEYS:
            raise BadInputError(
                f"unknown condition: {key}; expected one of {', '.join(sorted(KEYS))}"
            )
        if not reason.strip():
            raise BadInputError(f"an override needs a reason: {key}")
    return overrides


def _graded(key: str, values: Sequence[str | None], reason: str | None) -> Difference:
    distinct, rule = tuple(dict.fromkeys(values)), RULES[key]
    if len(distinct) == 1 and key in WHEREVER_STATED:
        return Difference(key, KEYS[key], rule.different, distinct, rule.remedy, reason)
    if len(distinct) == 1:
        return Difference(key, KEYS[key], Grade.SAME, distinct)
    stated = [value for value in distinct if value is not None]
    grade = rule.different if len(stated) > 1 else rule.unknown
    found = Difference(key, KEYS[key], grade, distinct, rule.remedy)
    return found if reason is None else replace(found, overridden=reason)
