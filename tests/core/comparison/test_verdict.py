import numpy as np
import pytest

from haremile.core.comparison.verdict import Verdict, VerdictRule, pair_verdict
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd
from haremile.errors import BadInputError

TEN = np.arange(10) / 10.0


def judged(b, margin, good_end=GoodEnd.LOW, lanes=2, a=TEN, resolution=None):
    return pair_verdict(a, b, VerdictRule(margin, good_end, lanes, resolution))


def test_ahead_lies_wholly_beyond_the_margin():
    assert judged(TEN - 5, Margin(amount=1.0)).verdict is Verdict.AHEAD
    assert judged(TEN + 5, Margin(amount=1.0)).verdict is Verdict.BEHIND


def test_a_high_good_end_turns_the_side():
    assert judged(TEN + 5, Margin(amount=1.0), GoodEnd.HIGH).verdict is Verdict.AHEAD


def test_without_a_good_end_nothing_is_ahead():
    assert judged(TEN - 5, Margin(amount=1.0), GoodEnd.NONE).verdict is Verdict.LOWER


def test_level_holds_also_where_the_interval_excludes_zero():
    found = judged(TEN + 0.9, Margin(amount=3.0))
    assert found.contrast.shift.interval.low > 0
    assert found.verdict is Verdict.LEVEL


def test_open_leans_where_zero_is_excluded():
    found = judged(TEN + 0.9, Margin(amount=0.8))
    assert found.verdict is Verdict.UNDECIDED
    assert found.lean is Verdict.BEHIND
    assert judged(TEN + 0.01, Margin(amount=0.05)).lean is None


def test_the_wider_of_amount_and_share_holds():
    a, b = TEN + 100, TEN + 102
    assert judged(b, Margin(amount=1.0), a=a).verdict is Verdict.BEHIND
    assert judged(b, Margin(amount=1.0, share=0.03), a=a).verdict is Verdict.LEVEL


def test_the_margin_is_never_finer_than_the_instruments_step():
    assert judged(TEN + 2, Margin(amount=0.5)).verdict is Verdict.BEHIND
    assert judged(TEN + 2, Margin(amount=0.5), resolution=4.0).verdict is not Verdict.BEHIND


def test_too_few_repeats_are_open_and_say_how_many_it_takes():
    few = np.array([1.0, 2.0, 3.0])
    found = judged(few + 50, Margin(amount=1.0), a=few)
    assert found.verdict is Verdict.UNDECIDED
    assert found.repeats_needed == 4
    assert judged(TEN[:5] + 50, Margin(amount=1.0), a=TEN[:5], lanes=5).repeats_needed == 6


def test_a_larger_family_widens_the_interval():
    one, many = judged(TEN + 1, Margin(amount=0.1)), judged(TEN + 1, Margin(amount=0.1), lanes=5)
    assert many.contrast.shift.interval.width > one.contrast.shift.interval.width


def test_unstated_margins_decide_nothing():
    assert judged(TEN + 50, Margin()).verdict is Verdict.UNDECIDED


@pytest.mark.parametrize("bad", [0.0, -1.0, float("nan"), float("inf")])
def test_a_margin_is_a_positive_number(bad):
    with pytest.raises(BadInputError, match="margin amount"):
        Margin(amount=bad)
