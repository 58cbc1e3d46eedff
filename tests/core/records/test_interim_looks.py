import numpy as np
import pytest

from haremile.core.comparison.verdict import VerdictRule
from haremile.core.planning.stopping import PrecisionStopping, StoppingState, widest_difference
from haremile.core.records.interim_looks import InterimLooks, complete_blocks, parse_interim_looks
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd
from haremile.errors import BadInputError

RULE = VerdictRule(Margin(amount=1.0), GoodEnd.LOW)


def test_looks_are_planned_or_extensions():
    looks = InterimLooks((10, 15, 20)).extended_to(25).extended_to(30)
    assert [look.extension for look in looks.every] == [0, 0, 0, 1, 2]
    assert looks.blocks == 30
    assert [look.blocks for look in looks.taken(17)] == [10, 15]


def test_looks_after_every_block_are_written_as_such():
    looks = parse_interim_looks("every: 12")
    assert looks.planned == tuple(range(1, 13))
    assert looks.is_after_every_block
    assert not InterimLooks((10, 15)).is_after_every_block
    assert not InterimLooks((1,)).is_after_every_block


@pytest.mark.parametrize("text", ["", "10,x", "15,10", "10,10", "0,5", "-3", "every", "every:0"])
def test_looks_must_be_rising_blocks(text):
    with pytest.raises(BadInputError):
        parse_interim_looks(text)


def test_only_blocks_with_every_run_finished_are_complete():
    finished = [(1, True), (1, True), (2, True), (2, False), (3, True)]
    assert complete_blocks(finished) == 1
    assert complete_blocks([]) == 0
    assert complete_blocks([(1, True), (2, True)]) == 2


def after(state, blocks, lanes):
    for _ in range(blocks):
        state = state.after_block([lane[: state.blocks + 1] for lane in lanes])
    return state


def test_precision_waits_for_ten_blocks_then_stops_when_narrow():
    generator = np.random.default_rng(1)
    lanes = [generator.normal(size=60) for _ in range(3)]
    early = after(PrecisionStopping(100.0, 60), 9, lanes)
    assert (early.state, early.widest) == (StoppingState.GOING_ON, None)
    assert after(early, 1, lanes).state is StoppingState.PRECISE
    state = PrecisionStopping(1.4, 60)
    while not state.state.is_end:
        state = after(state, 1, lanes)
    assert state.state is StoppingState.PRECISE
    assert state.widest == widest_difference([lane[: state.blocks] for lane in lanes]) <= 1.4
    with pytest.raises(BadInputError, match="has ended: precise"):
        state.after_block(lanes)


def test_precision_that_is_never_reached_ends_at_its_limit():
    lanes = [np.arange(12.0), np.arange(12.0)]
    assert after(PrecisionStopping(1e-9, 12), 12, lanes).state is StoppingState.AT_LIMIT


@pytest.mark.parametrize(("width", "most"), [(0.0, 20), (float("inf"), 20), (1.0, 9)])
def test_precision_needs_a_width_and_ten_blocks(width, most):
    with pytest.raises(BadInputError):
        PrecisionStopping(width, most)
