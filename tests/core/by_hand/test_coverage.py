"""Intervals of lanes that are timed by hand hold what they promise."""

import numpy as np
import pytest

from haremile.core.by_hand.marks import Mark, timed
from haremile.core.by_hand.reaction import error_of, reaction
from haremile.core.statistics.lane_statistics import summarise_lane

TRUTH = 20.0


def covered(seed, spread, delay, scatter, boots=12):
    random = np.random.default_rng(seed)
    drill = reaction(random.normal(delay, scatter, 15).tolist())
    values, stated = [], None
    for true in random.normal(TRUTH, spread, boots):
        seen = true + random.normal(delay, scatter)
        found = timed([Mark("power", 0.0), Mark("desktop", float(seen))], drill)
        values.append(found.readings[0].value_s)
        stated = found.reaction
    summary = summarise_lane(values, resolution=0.001, error=error_of(stated))
    return summary.median_interval.low <= TRUTH <= summary.median_interval.high


@pytest.mark.parametrize(
    ("spread", "delay", "scatter"), [(0.4, 0.21, 0.04), (0.1, 0.25, 0.06), (0.02, 0.3, 0.08)]
)
def test_a_lanes_interval_covers_the_truth_as_often_as_it_says(spread, delay, scatter):
    share = np.mean([covered(seed, spread, delay, scatter) for seed in range(3000)])
    assert 0.94 <= share <= 0.98
