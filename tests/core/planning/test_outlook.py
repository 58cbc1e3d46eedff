import math

import pytest

from haremile.core.planning.outlook import PastReadings, measure_outlook
from haremile.core.planning.repeats import plan_repeats, smallest_difference
from haremile.core.records.margin import Margin

PAST = PastReadings("boot.total", "serial", "Laptop", [(10, 20.0, 0.09, 0.0), (6, 22.0, 0.25, 0.0)])


def test_the_scatter_is_pooled_within_installs():
    pooled = math.sqrt((9 * 0.09 + 5 * 0.25) / 14)
    assert PAST.spread() == pytest.approx(pooled)
    assert PAST.typical() == pytest.approx((200.0 + 132.0) / 16)


def test_a_plan_tells_what_its_repeats_can_call_and_what_level_takes():
    found = measure_outlook(PAST, Margin(amount=0.5), 12, 3, 1)
    spread = PAST.spread()
    assert found.smallest == pytest.approx(smallest_difference(spread, 0.5, 12, 0.9, 3, 1))
    assert found.level_repeats == plan_repeats(spread, 0.5, 0.0, 0.9, 3, 1).repeats
    assert (found.readings, found.installs) == (16, 2)
    more = measure_outlook(PAST, Margin(amount=0.5), 30, 3, 1)
    assert more.smallest < found.smallest
    looked = measure_outlook(PAST, Margin(amount=0.5), 12, 3, 3)
    assert looked.smallest > found.smallest


def test_too_few_readings_promise_nothing():
    few = PastReadings("boot.total", "serial", "Laptop", [(2, 20.0, 0.09, 0.0)])
    found = measure_outlook(few, Margin(amount=0.5), 12, 2, 1)
    assert (found.spread, found.smallest, found.level_repeats) == (None, None, None)
    none = measure_outlook(
        PastReadings("boot.total", "", "Laptop", []), Margin(share=0.03), 12, 2, 1
    )
    assert (none.margin, none.typical) == (None, None)


def test_a_share_as_margin_is_of_what_is_typical_there():
    found = measure_outlook(PAST, Margin(share=0.1), 12, 2, 1)
    assert found.margin == pytest.approx(0.1 * PAST.typical())


def test_readings_without_scatter_are_told_apart_at_the_margin():
    same = PastReadings("disk.used", "statvfs", "Laptop", [(6, 100.0, 0.0, 0.0)])
    found = measure_outlook(same, Margin(amount=5.0), 6, 2, 1)
    assert (found.smallest, found.level_repeats) == (5.0, 6)


def test_a_long_tail_of_slow_readings_is_told_apart_more_easily():
    many = [(40, 20.0, 0.09, third) for third in (0.0, 1.2 * 0.09**1.5)]
    plain, tailed = (PastReadings("boot.total", "probe", "Laptop", [one]) for one in many)
    assert (plain.scatter().tail, tailed.scatter().tail) == (0.0, 0.6)
    margin = Margin(amount=0.5)
    at_20 = [measure_outlook(one, margin, 20, 2, 1).smallest for one in (plain, tailed)]
    assert at_20[1] < at_20[0] - 0.02
    few = PastReadings("boot.total", "probe", "Laptop", [(8, 20.0, 0.09, 1.2 * 0.09**1.5)])
    assert few.scatter().tail == 0.0
