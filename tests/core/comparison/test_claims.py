import pytest

from haremile.core.comparison.claims import Kept, held_against

TIMES = [10.0, 10.1, 10.2, 10.3, 10.4, 10.5, 10.6, 10.7]


@pytest.mark.parametrize(
    ("claimed", "kept"), [(12.0, Kept.KEPT), (9.0, Kept.NOT_KEPT), (10.35, Kept.UNDECIDED)]
)
def test_a_claim_is_decided_by_the_whole_interval(claimed, kept):
    assert held_against(claimed, "Laptop", "serial", "", TIMES).kept is kept


def test_too_few_readings_decide_nothing():
    assert held_against(20.0, "Laptop", "serial", "", [10.0]).kept is Kept.UNDECIDED
