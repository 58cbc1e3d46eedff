import numpy as np

from haremile.core.comparison.block_table import BlockTable
from haremile.core.comparison.records import Observation


def read(lane, block, value, is_set_aside=False):
    return Observation(
        lane,
        "Laptop",
        "boot.total",
        "serial",
        value,
        {},
        "boot",
        block=block,
        is_set_aside=is_set_aside,
    )


ITEMS = [
    read(4, 1, 40.0),
    read(2, 1, 20.0),
    read(2, 2, 21.0),
    read(4, 2, 41.0, is_set_aside=True),
    read(2, 3, 22.0),
    read(4, 3, 42.0),
    read(4, 3, 43.0),
    read(2, 5, 23.0),
    read(4, 5, 44.0),
    read(2, None, 24.0),
]


def test_complete_blocks_hold_just_one_reading_of_every_lane_and_where_it_was_read():
    found = BlockTable(ITEMS).complete()
    assert found.values.tolist() == [[20.0, 40.0], [23.0, 44.0]]
    assert found.places.tolist() == [[1, 0], [0, 1]]
    assert found.of == 4
    assert BlockTable(ITEMS).complete(3).values.tolist() == [[20.0, 40.0]]


def test_samples_are_of_the_first_blocks_in_run_order_without_what_is_set_aside():
    table = BlockTable(ITEMS)
    assert {lane: list(values) for lane, values in table.samples().items()} == {
        2: [20.0, 21.0, 22.0, 23.0, 24.0],
        4: [40.0, 42.0, 43.0, 44.0],
    }
    assert list(table.samples(2)[2]) == [20.0, 21.0, 24.0]


def test_a_row_all_of_which_is_set_aside_has_nothing():
    table = BlockTable([read(1, 1, 3.0, is_set_aside=True)])
    assert table.samples() == {}
    assert table.complete().values.shape == (0, 0)
    assert np.size(table.complete().places) == 0
