"""A report: the tester's words, and the parts that were chosen for it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

MOST_PARTS = 400
MOST_LEAD = 20_000


class PartKind(StrEnum):
    """What a part of a report shows."""

    FINDING = "finding"
    BOOT_PARTS = "boot parts"
    FAILURES = "failures"
    STANDING = "standing"
    SCORECARD = "scorecard"
    CONDITIONS = "conditions"
    METHODS = "methods"


@dataclass(frozen=True)
class ReportPart:
    """A part in its place; `key` tells it from others of its kind."""

    kind: PartKind
    key: str
    is_shown: bool


@dataclass(frozen=True)
class ReportWords:
    """What a tester writes and chooses; `lead` is Markdown."""

    headline: str
    lead: str
    credits: str
    parts: Sequence[ReportPart]


def with_parts(words: ReportWords, offered: Sequence[ReportPart]) -> ReportWords:
    """The same with the parts that there are: those that were chosen in their order, then what came
    since, which is not shown until it is chosen. What is gone is left out."""
    known = {(one.kind, one.key) for one in offered}
    kept = [one for one in words.parts if (one.kind, one.key) in known]
    had = {(one.kind, one.key) for one in kept}
    new = [replace(one, is_shown=False) for one in offered if (one.kind, one.key) not in had]
    return replace(words, parts=(*kept, *new))
