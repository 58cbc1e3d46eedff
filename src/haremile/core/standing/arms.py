"""What a standing is made from: the figure of one system, in one study, on one machine."""

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from functools import cached_property
from uuid import UUID

import numpy as np

from haremile.core.comparison.comparability import (
    RULES,
    Difference,
    Grade,
    Lanes,
    bears_on,
    graded_conditions,
)
from haremile.core.comparison.reliability import WHOLE_RUN
from haremile.core.records.conditions import KEYS, Conditions
from haremile.core.statistics.validation import FloatArray, as_ranked

OF_THE_MACHINE = frozenset({"accelerator", "clock", "cores", "memory"})
"""Conditions that make a machine what it is: between machines they may differ."""

DECIDING = frozenset(key for key, rule in RULES.items() if rule.different is Grade.BREAKS) - {
    *OF_THE_MACHINE,
    "start",
    "app",
    "pages_open",
}
"""Conditions that all studies of one list have to share; start and application are asked for."""

PRIOR_DEGREES = 4.0
"""Weight of the usual scatter against a system's own, in degrees of freedom."""


@dataclass(frozen=True)
class Question:
    """What a list of standings answers; `studies` and `systems` count what there is to it.

    `start` is cold or warm, `facet` the application and the like, "" where none is stated.
    """

    metric: str
    method: str
    start: str
    facet: str
    studies: int = 0
    systems: int = 0

    @property
    def is_whole_run(self) -> bool:
        """Whether a run that was slower than its time limit counts as slower than all others."""
        return self.metric in WHOLE_RUN


@dataclass(frozen=True)
class Arm:
    """The readings of one system in one study on one machine, for one metric and method.

    Attributes
    ----------
    system, install : str
        Installs of one system that bear names stand apart.
    values : FloatArray
        Shape (n,), canonical unit; +infinity for a run that was slower than its time limit.
    conditions : sequence of Conditions
        Those that its readings were taken under, each once.
    newest : datetime
        When the last of its runs ended.
    failed, runs : int
        Of the procedure that the metric comes from.
    """

    study: UUID
    title: str
    machine: str
    system: str
    values: FloatArray
    conditions: Sequence[Conditions]
    newest: datetime
    install: str = ""
    failed: int = 0
    runs: int = 0
    overrides: Mapping[str, str] = field(default_factory=dict)

    @cached_property
    def group(self) -> tuple[UUID, str]:
        """Those of one group were measured side by side."""
        return self.study, self.machine

    @cached_property
    def name(self) -> str:
        """By which it stands in the list."""
        return f"{self.system}, {self.install}" if self.install else self.system

    @cached_property
    def median(self) -> float:
        """Of the readings; infinite where most runs timed out."""
        ranked = np.sort(self.values)
        return float(ranked[(len(ranked) - 1) // 2] + ranked[len(ranked) // 2]) / 2.0


@dataclass(frozen=True)
class LeftOut:
    """An arm, or all arms of a study on a machine, that stands in no list, with the reason."""

    study: UUID
    title: str
    machine: str
    systems: tuple[str, ...]
    reason: str


@dataclass(frozen=True)
class LogFigures:
    """Logarithms of medians, shape (n,), with their sampling variances, shape (n,)."""

    figures: FloatArray
    variances: FloatArray


def log_figures(arms: Sequence[Arm]) -> LogFigures:
    """The figures that a network is made of.

    Notes
    -----
    The variance of a median is π/2 times that of a mean. A few readings know their own scatter
    badly, so that each arm's variance is drawn towards the usual one by four degrees of freedom
    (Smyth, Statistical Applications in Genetics and Molecular Biology 3, 2004, with fixed weight).
    Runs that timed out count in the median, not in the scatter.
    """
    figures = np.array([math.log(arm.median) for arm in arms])
    ended = [as_ranked(arm.values)[np.isfinite(arm.values)] for arm in arms]
    degrees = np.array([float(len(values) - 1) for values in ended])
    own = np.array([np.var(np.log(values), ddof=1) if len(values) > 1 else 0.0 for values in ended])
    known = own[degrees > 0]
    usual = float(np.median(known)) if len(known) else 0.0
    drawn = (PRIOR_DEGREES * usual + degrees * own) / (PRIOR_DEGREES + degrees)
    counts = np.array([len(arm.values) for arm in arms])
    return LogFigures(figures, math.pi / 2.0 * drawn / counts)


@dataclass(frozen=True)
class Choice:
    """A condition that studies differ in: the value that the list holds to, and how many runs each
    value has."""

    key: str
    label: str
    held: str
    runs: Mapping[str, int]


@dataclass(frozen=True)
class Comparable:
    """Arms that may stand in one list, what was left out, and what the list holds to."""

    arms: tuple[Arm, ...]
    left_out: tuple[LeftOut, ...]
    choices: tuple[Choice, ...]
    unstated: tuple[str, ...]


def comparable_arms(
    arms: Sequence[Arm], metric_key: str, held: Mapping[str, str] | None = None
) -> Comparable:
    """Choose the arms that may stand in one list.

    Parameters
    ----------
    arms : sequence of Arm
        Of one metric, method, start and application.
    metric_key : str
        Conditions that have nothing to do with it decide nothing.
    held : mapping of condition key to the value that the list shall hold to
        The one with most runs where nothing is asked.

    Notes
    -----
    A condition that breaks a comparison has to be the same for all, except those that make a
    machine what it is: a machine's level is taken out. What does not state it stays, and is told
    of. Within a group the rules of fair start hold besides, as in the study's own findings.
    """
    wished = held or {}
    left: list[LeftOut] = []
    kept: list[tuple[Arm, dict[str, str]]] = []
    for arm in arms:
        reason = _unusable(arm)
        if reason is None:
            kept.append((arm, _stated(arm)))
        else:
            left.append(_left_out([arm], reason))
    choices = []
    for key in sorted(one for one in DECIDING if bears_on(one, metric_key)):
        choice, kept, others = _held(key, kept, wished.get(key))
        choices += [choice] if choice else []
        left += others
    fair: list[Arm] = []
    for group in _grouped([arm for arm, _ in kept]):
        forbidden = _forbidding(group)
        if forbidden:
            left.append(_left_out(group, f"not comparable: {forbidden[0].sentence}"))
        else:
            fair += group
    unstated = [one.label for one in choices if any(one.key not in _stated(arm) for arm in fair)]
    return Comparable(tuple(fair), tuple(left), tuple(choices), tuple(unstated))


_Stated = list[tuple[Arm, dict[str, str]]]


def _held(
    key: str, arms: _Stated, asked: str | None
) -> tuple[Choice | None, _Stated, list[LeftOut]]:
    """What the list holds to under one key, where there is a choice; what fits, and what does
    not."""
    runs: dict[str, int] = defaultdict(int)
    for arm, stated in arms:
        if key in stated:
            runs[stated[key]] += len(arm.values)
    if not runs:
        return None, arms, []
    value = asked if asked is not None else max(sorted(runs), key=lambda one: runs[one])
    others = []
    for group in _grouped([arm for arm, stated in arms if stated.get(key, value) != value]):
        values = ", ".join(sorted({_stated(arm)[key] for arm in group}))
        others.append(_left_out(group, f"{KEYS[key]}: {values}, not {value}"))
    choice = Choice(key, KEYS[key], value, dict(sorted(runs.items()))) if len(runs) > 1 else None
    return choice, [one for one in arms if one[1].get(key, value) == value], others


def _grouped(arms: Sequence[Arm]) -> list[list[Arm]]:
    groups: dict[tuple[UUID, str], list[Arm]] = defaultdict(list)
    for arm in arms:
        groups[arm.group].append(arm)
    return list(groups.values())


def _left_out(arms: Sequence[Arm], reason: str) -> LeftOut:
    first = arms[0]
    return LeftOut(first.study, first.title, first.machine, tuple(arm.name for arm in arms), reason)


def _unusable(arm: Arm) -> str | None:
    """Why nothing can be made of it."""
    if not math.isfinite(arm.median):
        return "most of its runs timed out"
    if float(arm.values.min()) <= 0.0:
        return "it reads zero, and a ratio needs figures above zero"
    return None


def _forbidding(arms: Sequence[Arm]) -> list[Difference]:
    """What keeps those of one group from being compared."""
    lanes: Lanes = {number: list(arm.conditions) for number, arm in enumerate(arms)}
    return [one for one in graded_conditions(lanes, arms[0].overrides) if one.forbids]


def _stated(arm: Arm) -> dict[str, str]:
    """What it states of the conditions that decide; several values where they changed on the
    way."""
    found: dict[str, set[str]] = defaultdict(set)
    for conditions in arm.conditions:
        for key in DECIDING & conditions.keys():
            found[key].add(conditions[key])
    return {key: ", ".join(sorted(values)) for key, values in found.items()}
