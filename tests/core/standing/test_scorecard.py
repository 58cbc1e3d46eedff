"""Scorecards: scales, overall scores, what changed; and the works list."""

from uuid import uuid4

import pytest

from haremile.core.standing.fitting import Fit
from haremile.core.standing.scorecard import (
    Criterion,
    Point,
    Scorecard,
    ScoreKind,
    ScoreScale,
    StepWord,
    card_changes,
    checked_card,
    overall_score,
)
from haremile.core.standing.works import (
    Works,
    WorksItem,
    checked_item,
    newest,
    works_fit,
    works_share,
)
from haremile.errors import BadInputError

STARS = ScoreScale(ScoreKind.STARS, (StepWord(0, "no"), StepWord(3, "fair"), StepWord(4.5, "fine")))


def card(*scores, scale=STARS, **more):
    criteria = tuple(Criterion(f"c{i}", score) for i, score in enumerate(scores))
    return Scorecard(scale, criteria, **more)


@pytest.mark.parametrize(
    ("kind", "score", "text"),
    [
        (ScoreKind.STARS, 3.5, "3½ of 5 stars"),
        (ScoreKind.STARS, 0.5, "½ of 5 stars"),
        (ScoreKind.STARS, 4.0, "4 of 5 stars"),
        (ScoreKind.STARS, 3.25, "3.2 of 5 stars"),
        (ScoreKind.POINTS, 7.5, "7.5 of 10"),
        (ScoreKind.PERCENT, 80.0, "80 %"),
    ],
)
def test_scores_are_written_as_their_scale_does(kind, score, text):
    assert ScoreScale(kind).text(score) == text


def test_the_word_is_that_of_the_highest_step_reached():
    assert [STARS.word(score) for score in (0, 2.9, 3, 4.4, 5)] == [
        "no",
        "no",
        "fair",
        "fair",
        "fine",
    ]
    assert ScoreScale(ScoreKind.STARS).word(3) is None


def test_there_is_no_overall_score_from_half_the_criteria():
    assert overall_score(card(3.0, 4.0)) == 3.5
    assert overall_score(card(3.0, None)) is None and overall_score(card()) is None


@pytest.mark.parametrize(
    "wrong",
    [
        card(5.5),
        card(-0.5),
        card(3.3),
        card(float("nan")),
        Scorecard(STARS, (Criterion("a", 1.0), Criterion("A", 2.0))),
        card(1.0, scale=ScoreScale(ScoreKind.STARS, (StepWord(7, "beyond"),))),
        card(*[1.0] * 21),
    ],
)
def test_what_the_scale_does_not_hold_is_refused(wrong):
    with pytest.raises(BadInputError):
        checked_card(wrong)


def test_another_version_says_what_changed():
    was = card(3.0, 4.0, points=(Point(True, "light"),))
    now = card(3.5, 4.0, None, points=(Point(True, "light"), Point(False, "loud")), for_whom="all")
    assert card_changes(was, now) == [
        "c2 is judged too",
        "c0: 3½ of 5 stars, was 3 of 5 stars",
        "other bad points",
        "for whom, in other words",
    ]
    assert card_changes(was, was) == []
    other = card(30.0, scale=ScoreScale(ScoreKind.PERCENT))
    assert card_changes(was, other) == ["judged in per cent instead of stars"]


SYSTEM, MACHINE = uuid4(), uuid4()


def item(subject, works, **more):
    return WorksItem(uuid4(), SYSTEM, MACHINE, subject, works, **more)


@pytest.mark.parametrize(
    "wrong",
    [
        item("sound", Works.STEP),
        item("sound", Works.WORKS, step="switch it on"),
        item("sound", Works.SOMETIMES),
        item("sound", Works.SOMETIMES, worked=3, tried=3),
        item("sound", Works.SOMETIMES, worked=0, tried=3),
        item("sound", Works.FAILS, worked=0, tried=3),
    ],
)
def test_a_line_says_all_that_it_needs_and_nothing_else(wrong):
    with pytest.raises(BadInputError):
        checked_item(wrong)


def test_what_works_sometimes_has_an_interval():
    share = works_share(item("sleep", Works.SOMETIMES, worked=18, tried=20))
    assert share.share == 0.9
    assert 0.65 < share.interval.low < 0.75 and 0.95 < share.interval.high < 1.0


def test_the_newest_word_counts():
    lines = [item("Sound", Works.FAILS), item("wifi", Works.WORKS), item("sound", Works.WORKS)]
    assert [(one.subject, one.works) for one in newest(lines)] == [
        ("sound", Works.WORKS),
        ("wifi", Works.WORKS),
    ]


@pytest.mark.parametrize(
    ("lines", "fit"),
    [
        ([], Fit.MAYBE),
        ([item("sound", Works.NOT_TRIED)], Fit.MAYBE),
        ([item("Sound", Works.WORKS)], Fit.YES),
        ([item("sound", Works.STEP, step="x")], Fit.YES),
        ([item("sound", Works.SOMETIMES, worked=1, tried=2)], Fit.MAYBE),
        ([item("sound", Works.FAILS)], Fit.NO),
    ],
)
def test_what_is_needed_decides_whether_a_system_fits(lines, fit):
    found = works_fit("sound", lines)
    assert found.fit is fit and (found.works == "sound") is (fit is Fit.MAYBE)
