"""Whether contenders started alike: each difference of conditions, graded."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from haremile.core.conditions import KEYS, OF_THE_RUN, Conditions


class Grade(StrEnum):
    """What a difference of conditions does to a comparison."""

    BREAKS = "breaks"
    WEAKENS = "weakens"
    NOTE = "note"


_BREAKS = frozenset(
    (
        "medium", "start", "accelerator", "clock", "cores", "memory", "recorder", "settle_rule",
        "app_version", "waits", "throttled",
    )
)  # fmt: skip
_WEAKENS = frozenset(
    [
        "updates_pending",
        "autologin",
        "power",
        "governor",
        "app_packaging",
        "opened_before",
        "background",
    ]
)


@dataclass(frozen=True)
class Difference:
    """One condition that is not the same for all contenders.

    `values` holds the stated values in order; None stands for *not stated*.
    """

    key: str
    label: str
    grade: Grade
    values: tuple[str | None, ...]

    @property
    def sentence(self) -> str:
        """The difference in words."""
        stated = ", ".join("not stated" if value is None else value for value in self.values)
        return f"{self.label}: {stated}"


def grade_of(key: str) -> Grade:
    """The grade of a difference in `key`; what is part of the system is a note."""
    if key in _BREAKS:
        return Grade.BREAKS
    return Grade.WEAKENS if key in _WEAKENS else Grade.NOTE


def fair_start(lanes: Mapping[int, Sequence[Conditions]]) -> tuple[Difference, ...]:
    """Find what differs between the lanes of one row.

    Parameters
    ----------
    lanes : mapping of lane number to the distinct conditions that its readings were taken under
        Several entries for one lane mean that its conditions changed on the way.

    Returns
    -------
    tuple of Difference
        The gravest first. A condition stated for one and unknown for another is a difference
        too: it weakens where two stated values would break.
    """
    every = [conditions for group in lanes.values() for conditions in group]
    keys = {key for conditions in every for key in conditions} - OF_THE_RUN
    found = [
        _difference(key, [conditions.get(key) for conditions in every])
        for key in sorted(keys)
        if len({conditions.get(key) for conditions in every}) > 1
    ]
    return tuple(sorted(found, key=lambda item: (list(Grade).index(item.grade), item.label)))


def _difference(key: str, values: Sequence[str | None]) -> Difference:
    distinct = tuple(dict.fromkeys(values))
    grade = grade_of(key)
    if grade is Grade.BREAKS and len([v for v in distinct if v is not None]) < 2:
        grade = Grade.WEAKENS
    return Difference(key, KEYS.get(key, key), grade, distinct)
