import numpy as np
import pytest

from haremile.core.comparison.verdict import Verdict, VerdictRule, pair_verdict
from haremile.core.planning.repeats import leader_difference, plan_repeats, smallest_difference
from haremile.core.planning.simulated_rule import called_level
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd

TRIALS = 800


def reached(repeats, difference, verdict, lanes=2):
    """Share of studies of normal readings, of standard deviation 1, that the rule itself calls."""
    generator = np.random.default_rng([99, repeats])
    rule = VerdictRule(Margin(amount=0.5), GoodEnd.LOW, lanes)
    found = 0
    for _ in range(TRIALS):
        a, b = generator.normal(20, 1, repeats), generator.normal(20 + difference, 1, repeats)
        found += pair_verdict(a, b, rule).verdict is verdict
    return found / TRIALS


@pytest.mark.parametrize(("repeats", "contenders"), [(5, 2), (8, 3), (12, 2)])
def test_what_is_promised_below_twelve_repeats_is_what_the_rule_keeps(repeats, contenders):
    promised = smallest_difference(1.0, 0.5, repeats, 0.9, contenders)
    assert reached(repeats, promised, Verdict.BEHIND, contenders) == pytest.approx(0.9, abs=0.03)


def test_level_is_promised_from_its_middle_and_from_beside_it():
    for difference in (0.0, 0.05, 0.5):
        margin = 1.5
        plan = plan_repeats(1.0, margin, difference)
        assert called_level(plan.repeats, 0.1, margin, difference) >= 0.9
        assert called_level(plan.repeats - 2, 0.1, margin, difference) < 0.9


def test_a_leader_has_to_lie_further_off_than_one_of_a_pair():
    pair = smallest_difference(1.0, 0.5, 12, 0.9, 5)
    leader = leader_difference(1.0, 0.5, 12, 0.9, 5)
    assert leader > pair + 0.1
    assert leader_difference(1.0, 0.5, 12, 0.9, 2) == smallest_difference(1.0, 0.5, 12, 0.9, 2)
    many = [leader_difference(1.0, 0.5, repeats, 0.9, 5) for repeats in (28, 30, 34, 60)]
    assert many == sorted(many, reverse=True)
    assert leader_difference(1.0, 0.5, 3, 0.9, 5) is None
