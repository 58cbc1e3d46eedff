from collections import Counter

import pytest

from haremile.core.planning.run_sheet import run_sheet, visit_sheet, visits_of
from haremile.errors import BadInputError


def test_every_block_holds_every_lane_once():
    sheet = run_sheet([1, 2, 3, 4], 6, seed=4127)
    assert [line.position for line in sheet] == list(range(1, 25))
    for block in range(1, 7):
        lanes = [line.lane_no for line in sheet if line.block == block]
        assert Counter(lanes) == Counter([1, 2, 3, 4])


def test_the_seed_gives_the_order_and_other_seeds_give_others():
    orders = {tuple(line.lane_no for line in run_sheet([1, 2, 3], 8, seed)) for seed in range(20)}
    assert run_sheet([1, 2, 3], 8, 5) == run_sheet([1, 2, 3], 8, 5)
    assert len(orders) > 15


def test_a_sheet_is_extended_without_changing_what_stands():
    whole = run_sheet([1, 2, 3], 10, 9)
    assert whole[:12] == run_sheet([1, 2, 3], 4, 9)
    assert whole[12:] == run_sheet([1, 2, 3], 6, 9, first_block=5)


@pytest.mark.parametrize(("lanes", "blocks"), [([], 3), ([1, 1], 3), ([1, 2], 0)])
def test_impossible_sheets_are_refused(lanes, blocks):
    with pytest.raises(BadInputError):
        run_sheet(lanes, blocks, 1)


def test_visits_return_to_the_first_of_each_machine_and_hold_every_run():
    lines = visit_sheet([(1, 2, 3), (4,)], 5)
    here = [line.lane_no for line in lines if line.lane_no < 4]
    assert here == [1, 1, 1, 2, 2, 2, 2, 2, 3, 3, 3, 3, 3, 1, 1]
    assert [line.position for line in lines] == list(range(1, 21))
    for lane in (1, 2, 3, 4):
        assert [line.block for line in lines if line.lane_no == lane] == [1, 2, 3, 4, 5]
    more = visit_sheet([(1, 2)], 2, first_block=6)
    assert [(line.block, line.position) for line in more] == [(6, 11), (6, 12), (7, 13), (7, 14)]


def test_visits_spare_a_person_most_of_the_turns():
    assert visits_of(3, 10, is_in_visits=True) == 4
    assert visits_of(3, 10, is_in_visits=False) == 30
    assert visits_of(1, 10, is_in_visits=False) == 1
