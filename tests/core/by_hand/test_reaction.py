import numpy as np
import pytest

from haremile.core.by_hand.reaction import Reaction, error_of, reaction
from haremile.errors import BadInputError


def answers(delay, scatter, seed, signals=15):
    return np.random.default_rng(seed).normal(delay, scatter, signals).tolist()


def test_simulated_persons_are_recovered():
    for delay, scatter in ((0.18, 0.03), (0.25, 0.06), (0.4, 0.08)):
        found = [reaction(answers(delay, scatter, seed)) for seed in range(400)]
        assert abs(np.median([one.delay_s for one in found]) - delay) < 0.01
        assert abs(np.mean([one.delay_s for one in found]) - delay) < 0.01
        assert 0.8 < np.median([one.scatter_s for one in found]) / scatter < 1.1
        inside = [abs(one.delay_s - delay) <= 1.96 * one.error_s for one in found]
        assert 0.86 < np.mean(inside) <= 0.99


def test_presses_before_the_signal_and_long_after_it_do_not_count():
    found = reaction([0.2] * 12 + [-0.3, 0.02, 9.0])
    assert (found.delay_s, found.signals, found.left_out) == (0.2, 12, 3)


def test_too_few_answers_are_no_drill():
    with pytest.raises(BadInputError, match="10 are needed"):
        reaction([0.2] * 9 + [-1.0] * 6)


def test_its_error_is_read_from_what_a_condition_states():
    found = Reaction(0.213, 0.05, 0.016, 15, 0)
    assert error_of(found.stated(1)) == pytest.approx(1.96 * 0.016, abs=6e-4)
    assert error_of(found.stated(2)) == pytest.approx(2 * 1.96 * 0.016, abs=6e-4)
    assert error_of(found.stated(0)) == 0.0
    assert error_of("no drill: nothing taken off") == 0.0
    assert error_of(None) == 0.0
    assert error_of("± soon") == 0.0
