"""How far one run resembles the next: known series are covered, and too short ones say nothing."""

import numpy as np
import pytest
from scipy import signal

from haremile.core.comparison.verdict import Verdict, VerdictRule, pair_verdict
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd
from haremile.core.statistics.contrast import contrast, stretched
from haremile.core.statistics.dependence import upper_dependence, widening


def series(generator, n, dependence):
    """Normal readings, standard deviation 1, each resembling the one before so far."""
    noise = generator.normal(size=n + 50) * (1.0 - dependence**2) ** 0.5
    return signal.lfilter([1.0], [1.0, -dependence], noise)[50:]


def test_nineteen_runs_in_a_row_cannot_tell():
    lanes = [np.arange(20.0), np.arange(19.0)]
    assert upper_dependence(lanes) is None
    assert upper_dependence(lanes[:1]) == pytest.approx(0.95)
    assert upper_dependence([]) is None


def test_lanes_that_do_not_vary_resemble_nothing():
    assert upper_dependence([np.ones(20), np.ones(30)]) == 0.0


def test_a_stall_hides_no_dependence():
    lane = series(np.random.default_rng(1), 200, 0.6)
    late = lane.copy()
    late[77] = np.inf
    assert upper_dependence([late]) == pytest.approx(upper_dependence([lane]), abs=0.03)


@pytest.mark.parametrize("dependence", [0.0, 0.3, 0.6])
def test_the_upper_limit_lies_above_the_truth_nineteen_times_of_twenty(dependence):
    generator, above = np.random.default_rng(2), 0
    for _ in range(600):
        lanes = [series(generator, 30, dependence) for _ in range(2)]
        above += upper_dependence(lanes) >= dependence * 0.95  # ranks tell a little less
    assert above / 600 >= 0.92


@pytest.mark.parametrize(("dependence", "n"), [(0.3, 20), (0.3, 40), (0.6, 20), (0.6, 40)])
def test_widened_intervals_cover_where_runs_resemble_one_another(dependence, n):
    generator, covered, plain = np.random.default_rng(n), 0, 0
    for _ in range(400):
        a, b = (series(generator, n, dependence) for _ in range(2))
        found = contrast(a, b)
        wide = stretched(found, widening(upper_dependence([a, b]))).shift.interval
        plain += found.shift.interval.low <= 0.0 <= found.shift.interval.high
        covered += wide.low <= 0.0 <= wide.high
    assert plain / 400 < 0.92, "the promise breaks without it"
    assert covered / 400 >= 0.93


def test_a_false_level_is_as_rare_as_it_says():
    rule = VerdictRule(Margin(amount=1.0), GoodEnd.LOW, is_in_a_row=True)
    generator, level = np.random.default_rng(7), 0
    for _ in range(400):
        a, b = (series(generator, 40, 0.3) for _ in range(2))
        level += pair_verdict(a, b + 1.0, rule).verdict is Verdict.LEVEL
    assert level / 400 <= 0.06
