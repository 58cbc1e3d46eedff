"""Series over releases and months."""

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from tests.core.standing.books import arm

from haremile.core.records.margin import Margin
from haremile.core.standing.series import Break, Change, Stretch, drift, release_series
from haremile.core.standing.standings import layout

MAY = datetime(2026, 5, 1, tzinfo=UTC)


def releases(figures, studies=4):
    arms = [
        arm(n, name, figure * (1 + n / 500 * (-1) ** at))
        for n in range(studies)
        for at, (name, figure) in enumerate(figures.items())
    ]
    return layout(arms)


def months(*medians):
    ripple = np.array([-0.01, 0.0, 0.01])
    return [
        Stretch(MAY + timedelta(days=30.4375 * n), median + ripple)
        for n, median in enumerate(medians)
    ]


def test_the_step_beyond_the_margin_is_named_and_the_small_one_is_level():
    laid = releases({"v1": 500.0, "v2": 503.0, "v3": 400.0})
    found = release_series(laid, ["v1", "v2", "v3"], Margin(amount=20.0))
    assert [step.change for step in found.steps] == [Change.LEVEL, Change.LESS]
    assert found.steps[1].ratio == pytest.approx(400 / 503, rel=0.01)
    assert found.steps[1].low < found.steps[1].ratio < found.steps[1].high
    assert found.figures[0] == pytest.approx(500, rel=0.01)


def test_a_step_that_is_neither_is_undecided():
    laid = releases({"v1": 500.0, "v2": 510.0})
    (step,) = release_series(laid, ["v1", "v2"], Margin(amount=10.0)).steps
    assert step.change is Change.UNDECIDED


def test_the_slope_is_that_of_a_steady_growth():
    laid = releases({"v1": 100.0, "v2": 110.0, "v3": 121.0, "v4": 133.1})
    slope = release_series(laid, ["v1", "v2", "v3", "v4"], Margin(share=0.01)).slope
    assert slope.ratio == pytest.approx(1.1, rel=0.003)
    assert slope.low < 1.1 < slope.high


def test_nothing_is_said_of_a_step_where_the_spread_between_studies_is_unknown():
    laid = layout([arm(1, "v1", 5), arm(1, "v2", 6), arm(2, "v2", 6), arm(2, "v3", 9)])
    found = release_series(laid, ["v1", "v3"], Margin(share=0.01))
    assert found.steps[0].low is None and found.steps[0].change is Change.UNDECIDED


def test_what_leaves_the_limits_of_the_calm_months_is_told():
    calm = months(10.0, 10.1, 9.9, 10.05, 10.0)
    swapped = Break(MAY + timedelta(days=30.4375 * 4.5), "storage: hard disk to SATA SSD")
    found = drift([*calm, *months(0, 0, 0, 0, 0, 10.05, 12.0)[5:]], [swapped])
    assert found.beyond == (6,)
    assert found.centre == pytest.approx(10.01)
    # mean moving range 0.125, by Shewhart's 1.128, three times
    assert found.high - found.centre == pytest.approx(3 * 0.125 / 1.128)


def test_limits_need_five_months():
    found = drift(months(10.0, 10.1, 9.9))
    assert found.centre is None and found.needed == 2 and found.beyond == ()


def test_the_trend_by_month_has_an_interval():
    found = drift(months(*(10 * 1.02**n for n in range(7))))
    assert found.slope.ratio == pytest.approx(1.02, rel=1e-4)
    level = drift(months(10.0, 10.2, 9.9, 10.1, 10.0, 10.1)).slope
    assert level.low < 1.0 < level.high
    assert drift(months(10.0, 10.1)).slope is None
