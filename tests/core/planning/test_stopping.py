"""Going on until differences are known precisely enough."""

import numpy as np
import pytest

from haremile.core.planning.stopping import (
    LEAST_BLOCKS,
    PrecisionStopping,
    StoppingState,
    precision_level,
    widest_difference,
)
from haremile.errors import BadInputError

NOISE = np.random.default_rng(40).normal(20.0, 1.0, (3, 60))


def ended(rule, lanes=NOISE):
    while not rule.state.is_end:
        rule = rule.after_block([lane[: rule.blocks + 1] for lane in lanes])
    return rule


def test_it_ends_as_soon_as_the_widest_interval_is_narrow_enough():
    rule = ended(PrecisionStopping(target_width=3.0, most_blocks=60))
    assert rule.state is StoppingState.PRECISE
    assert rule.widest <= 3.0
    assert rule.widest == widest_difference([lane[: rule.blocks] for lane in NOISE])
    before = [lane[: rule.blocks - 1] for lane in NOISE]
    assert rule.blocks == LEAST_BLOCKS or widest_difference(before) > 3.0


def test_a_narrower_target_takes_more_blocks():
    wide, narrow = (ended(PrecisionStopping(width, 60)) for width in (3.0, 1.8))
    assert narrow.blocks > wide.blocks


def test_it_gives_up_at_its_limit_and_says_how_wide_it_was():
    rule = ended(PrecisionStopping(target_width=0.01, most_blocks=12))
    assert (rule.state, rule.blocks) == (StoppingState.AT_LIMIT, 12)
    assert rule.widest > 0.01


def test_nothing_is_judged_before_the_tenth_block():
    rule = PrecisionStopping(target_width=100.0, most_blocks=20)
    for block in range(1, LEAST_BLOCKS):
        rule = rule.after_block([lane[:block] for lane in NOISE])
        assert (rule.state, rule.widest) == (StoppingState.GOING_ON, None)


def test_a_study_that_has_ended_takes_no_further_block():
    rule = ended(PrecisionStopping(target_width=100.0, most_blocks=20))
    with pytest.raises(BadInputError, match="has ended: precise after 10 blocks"):
        rule.after_block(list(NOISE))


@pytest.mark.parametrize("width", [0.0, -1.0, float("inf"), float("nan")])
def test_a_width_is_a_positive_number(width):
    with pytest.raises(BadInputError, match="positive"):
        PrecisionStopping(width, 20)


def test_precision_takes_ten_blocks_and_two_contenders():
    with pytest.raises(BadInputError, match="takes 10 blocks, not 9"):
        PrecisionStopping(1.0, 9)
    with pytest.raises(BadInputError, match="two contenders, not 1"):
        precision_level(1)


def test_more_contenders_need_a_higher_level():
    assert 0.95 < precision_level(2) < precision_level(3) < precision_level(8) < 1.0
