"""What diagnoses can see at a number of runs."""

import pytest

from haremile.core.statistics.diagnostic_power import SIMULATED_UP_TO, diagnostic_power


def test_more_runs_see_more():
    few, some, many = (diagnostic_power(n) for n in (8, 20, 60))
    assert few.drift < some.drift < many.drift
    assert few.first_run < some.first_run < many.first_run
    assert few.unseen_failures > some.unseen_failures > many.unseen_failures


@pytest.mark.parametrize("n", [1, 3])
def test_too_few_runs_see_neither_drift_nor_a_slow_first_run(n):
    found = diagnostic_power(n)
    assert (found.drift, found.first_run) == (None, None)
    assert found.unseen_failures == pytest.approx(1.0 - 0.05 ** (1.0 / n))


def test_the_limits_of_many_runs_continue_what_is_simulated():
    drawn, beyond = diagnostic_power(SIMULATED_UP_TO), diagnostic_power(SIMULATED_UP_TO + 1)
    assert beyond.drift == pytest.approx(drawn.drift, abs=0.02)
    assert beyond.first_run == pytest.approx(drawn.first_run, abs=0.03)
