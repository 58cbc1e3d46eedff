import numpy as np

from haremile.core.comparison.row_verdict import row_verdict, standings
from haremile.core.comparison.verdict import Verdict, VerdictRule, pair_verdict
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd

TEN = np.arange(10) / 10.0


def pairs_of(*lanes, margin=1.0):
    return {
        (i, j): pair_verdict(a, b, VerdictRule(Margin(amount=margin), GoodEnd.LOW, len(lanes)))
        for i, a in enumerate(lanes)
        for j, b in enumerate(lanes)
        if i < j
    }


def family(*lanes, margin=1.0):
    return row_verdict(range(len(lanes)), pairs_of(*lanes, margin=margin))


def test_a_standing_spans_what_is_not_decided():
    lanes = (TEN, TEN + 1.0, TEN + 9)
    found = standings(range(3), pairs_of(*lanes))
    assert [(place.best, place.worst) for place in found] == [(1, 2), (1, 2), (3, 3)]


def test_a_row_names_its_leader_only_if_it_is_ahead_of_every_other():
    assert family(TEN, TEN + 5, TEN + 9).leader == 0
    undecided = family(TEN, TEN + 1.0, TEN + 9)
    assert undecided.verdict is Verdict.UNDECIDED
    assert undecided.first_group == (0, 1)


def test_a_row_is_level_only_if_all_pairs_are():
    assert family(TEN, TEN + 0.1, TEN - 0.1, margin=2.0).verdict is Verdict.LEVEL
    assert family(TEN, TEN + 0.1, TEN + 9, margin=2.0).verdict is Verdict.UNDECIDED


def test_a_first_place_is_shared_by_those_who_are_level_and_ahead_of_the_rest():
    shared = family(TEN, TEN + 0.1, TEN + 9, margin=2.0)
    assert shared.is_shared
    assert shared.first_group == (0, 1)
    assert not family(TEN, TEN + 1.0, TEN + 9).is_shared, "between the first two it is open"
    assert not family(TEN, TEN + 0.1, TEN - 0.1, margin=2.0).is_shared, "there is no other"
    assert not family(TEN, TEN + 5, TEN + 9).is_shared
