"""Scorecards and lines of the works list as they are given."""

from typing import Annotated
from uuid import UUID

from pydantic import BaseModel, Field, StringConstraints

from haremile.api.schemas.base import TEXT_PATTERN, Number, Out, Text, Whole
from haremile.core.standing.scorecard import (
    MOST_CRITERIA,
    MOST_POINTS,
    Criterion,
    Point,
    Scorecard,
    ScoreKind,
    ScoreScale,
    StepWord,
    Tie,
    TieKind,
    checked_card,
)
from haremile.core.standing.works import Works, WorksItem, checked_item

Words = Annotated[
    str, StringConstraints(strip_whitespace=True, max_length=1000, pattern=TEXT_PATTERN)
]
Short = Annotated[
    str, StringConstraints(strip_whitespace=True, max_length=200, pattern=TEXT_PATTERN)
]


class StepWordIn(BaseModel):
    at: Number
    word: Text


class CriterionIn(BaseModel):
    name: Text
    score: Number | None = None
    why: Words = ""


class TieIn(BaseModel):
    kind: TieKind
    key: Text
    study: UUID | None = None


class PointIn(BaseModel):
    is_good: bool
    says: Text
    tie: TieIn | None = None


class ScorecardIn(BaseModel):
    """A card, and the version after which it was written (0 for the first)."""

    after: Whole = Field(ge=0, le=10_000)
    scale: ScoreKind
    words: list[StepWordIn] = Field(default=[], max_length=21)
    criteria: list[CriterionIn] = Field(min_length=1, max_length=MOST_CRITERIA)
    points: list[PointIn] = Field(default=[], max_length=MOST_POINTS)
    for_whom: Words = ""
    not_for_whom: Words = ""

    def card(self) -> Scorecard:
        """The same as a record. Raises BadInputError."""
        return checked_card(
            Scorecard(
                ScoreScale(self.scale, tuple(StepWord(one.at, one.word) for one in self.words)),
                tuple(Criterion(one.name, one.score, one.why) for one in self.criteria),
                tuple(Point(one.is_good, one.says, _tie(one.tie)) for one in self.points),
                self.for_whom,
                self.not_for_whom,
            )
        )


def _tie(given: TieIn | None) -> Tie | None:
    if given is None:
        return None
    return Tie(given.kind, given.key, None if given.study is None else str(given.study))


class KeptVersionOut(Out):
    version: int


class WorksIn(BaseModel):
    """What was seen; its id comes from the page, so that the same sent twice is one."""

    id: UUID
    machine: UUID | None = None
    subject: Text
    works: Works
    step: Short = ""
    worked: Whole | None = None
    tried: Whole | None = None
    note: Words = ""

    def item(self, system: UUID) -> WorksItem:
        """The same as a record. Raises BadInputError."""
        return checked_item(
            WorksItem(
                self.id,
                system,
                self.machine,
                self.subject,
                self.works,
                self.step,
                self.worked,
                self.tried,
                self.note,
            )
        )
