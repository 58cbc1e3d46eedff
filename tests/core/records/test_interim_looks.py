import numpy as np
import pytest

from haremile.core.comparison.verdict import Verdict, VerdictRule, verdict_over_looks
from haremile.core.planning.stopping import PrecisionStopping, StoppingState, widest_difference
from haremile.core.records.interim_looks import InterimLooks, complete_blocks, parse_interim_looks
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd
from haremile.errors import BadInputError

RULE = VerdictRule(Margin(amount=1.0), GoodEnd.LOW)


def test_planned_looks_share_the_error_evenly_and_extensions_halve():
    looks = InterimLooks((10, 15, 20)).extended_to(25).extended_to(30)
    assert [look.share for look in looks.every] == pytest.approx(
        [1 / 3, 1 / 3, 1 / 3, 1 / 6, 1 / 12]
    )
    assert [look.is_extension for look in looks.every] == [False] * 3 + [True] * 2
    assert looks.most_error == pytest.approx(1.25)
    assert looks.blocks == 30
    assert [look.blocks for look in looks.taken(17)] == [10, 15]


@pytest.mark.parametrize("text", ["", "10,x", "15,10", "10,10", "0,5", "-3"])
def test_looks_must_be_rising_blocks(text):
    with pytest.raises(BadInputError):
        parse_interim_looks(text)


def test_a_verdict_reached_at_a_look_stands():
    generator = np.random.default_rng(1)
    a = generator.normal(size=30)
    b = np.concatenate([generator.normal(9, 1, 10), generator.normal(0, 1, 20)])
    taken = [(look, a[: look.blocks], b[: look.blocks]) for look in InterimLooks((10, 30)).every]
    found = verdict_over_looks(taken, RULE)
    assert found.verdict is Verdict.BEHIND
    assert found.look.blocks == 10
    assert found.contrast.shift.interval.level >= 1 - 0.05 / 2
    late = verdict_over_looks(taken[1:], RULE)
    assert late.verdict is Verdict.UNDECIDED


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
