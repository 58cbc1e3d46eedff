"""What a tester gives a system: criteria on a scale of one's own, good and bad points."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from haremile.errors import BadInputError


class ScoreKind(StrEnum):
    """What is given."""

    POINTS = "points"
    PERCENT = "per cent"
    STARS = "stars"


TOPS = {ScoreKind.POINTS: 10.0, ScoreKind.PERCENT: 100.0, ScoreKind.STARS: 5.0}
STEPS = {ScoreKind.POINTS: 0.5, ScoreKind.PERCENT: 1.0, ScoreKind.STARS: 0.5}
MOST_CRITERIA, MOST_POINTS = 20, 40


@dataclass(frozen=True)
class StepWord:
    """The word for scores from `at` on, up to the next."""

    at: float
    word: str


@dataclass(frozen=True)
class ScoreScale:
    """What the scores mean."""

    kind: ScoreKind
    words: Sequence[StepWord] = ()

    @property
    def top(self) -> float:
        """The best score."""
        return TOPS[self.kind]

    def word(self, score: float) -> str | None:
        """The word of the highest step that the score reaches; None where there is none."""
        reached = [one for one in self.words if one.at <= score]
        return max(reached, key=lambda one: one.at).word if reached else None

    def text(self, score: float) -> str:
        """The score as it is written: 7.5 of 10, 80 %, 3½ of 5 stars."""
        if self.kind is ScoreKind.PERCENT:
            return f"{score:g} %"
        whole, half = divmod(score, 1.0)
        if self.kind is ScoreKind.STARS and half == STEPS[self.kind]:
            figure = f"{whole:g}½" if whole else "½"
        else:
            figure = f"{score:.2g}"
        beside = " stars" if self.kind is ScoreKind.STARS else ""
        return f"{figure} of {self.top:g}{beside}"


@dataclass(frozen=True)
class Criterion:
    """One thing that is judged; `score` is None where it was not."""

    name: str
    score: float | None
    why: str = ""


class TieKind(StrEnum):
    """What a point rests on."""

    READING = "reading"
    FINDING = "finding"
    PHOTOGRAPH = "photograph"
    INCIDENT = "incident"


@dataclass(frozen=True)
class Tie:
    """What a point rests on: its kind, its key and, but for incidents, its study."""

    kind: TieKind
    key: str
    study: str | None = None


@dataclass(frozen=True)
class Point:
    """Something good or bad, in words."""

    is_good: bool
    says: str
    tie: Tie | None = None


@dataclass(frozen=True)
class Scorecard:
    """What a tester says of a system."""

    scale: ScoreScale
    criteria: Sequence[Criterion]
    points: Sequence[Point] = ()
    for_whom: str = ""
    not_for_whom: str = ""


def checked_card(card: Scorecard) -> Scorecard:
    """The same card.

    Raises
    ------
    BadInputError
        If a score is beyond the scale or between its steps, a criterion is named twice, or there
        are too many.
    """
    if len(card.criteria) > MOST_CRITERIA or len(card.points) > MOST_POINTS:
        raise BadInputError(f"{MOST_CRITERIA} criteria and {MOST_POINTS} points at most")
    names = [one.name.casefold() for one in card.criteria]
    twice = next((one.name for one in card.criteria if names.count(one.name.casefold()) > 1), None)
    if twice is not None:
        raise BadInputError(f"{twice} is judged twice")
    step = STEPS[card.scale.kind]
    for one in card.criteria:
        if one.score is not None:
            _check(card.scale, one.score, step, one.name)
    for word in card.scale.words:
        _check(card.scale, word.at, step, word.word)
    return card


def _check(scale: ScoreScale, score: float, step: float, what: str) -> None:
    if not 0.0 <= score <= scale.top:
        raise BadInputError(f"{what}: {score:g}; the scale goes from 0 to {scale.top:g}")
    if not math.isclose(score / step, round(score / step)):
        raise BadInputError(f"{what}: {score:g}; the scale goes in steps of {step:g}")


def overall_score(card: Scorecard) -> float | None:
    """Mean of all criteria, to a tenth of the scale's step; None while one of them has no score."""
    scores = [one.score for one in card.criteria if one.score is not None]
    if not scores or len(scores) < len(card.criteria):
        return None
    return math.fsum(scores) / len(scores)


def card_changes(was: Scorecard, now: Scorecard) -> list[str]:
    """What another version says otherwise, in words."""
    if was.scale.kind is not now.scale.kind:
        return [f"judged in {now.scale.kind} instead of {was.scale.kind}"]
    told = []
    before = {one.name: one for one in was.criteria}
    after = {one.name: one for one in now.criteria}
    told += [f"{name} is judged too" for name in after if name not in before]
    told += [f"{name} is not judged any more" for name in before if name not in after]
    for name, one in after.items():
        if name in before and before[name].score != one.score:
            told.append(
                f"{name}: {_given(now.scale, one.score)}, was "
                f"{_given(was.scale, before[name].score)}"
            )
    for label, old, new in (
        ("good points", _said(was, True), _said(now, True)),
        ("bad points", _said(was, False), _said(now, False)),
        ("for whom", [was.for_whom], [now.for_whom]),
        ("for whom not", [was.not_for_whom], [now.not_for_whom]),
    ):
        if old != new:
            told.append(f"other {label}" if "point" in label else f"{label}, in other words")
    return told


def _given(scale: ScoreScale, score: float | None) -> str:
    return "no score" if score is None else scale.text(score)


def _said(card: Scorecard, is_good: bool) -> list[str]:
    return [one.says for one in card.points if one.is_good is is_good]
