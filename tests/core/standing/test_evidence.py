"""Direct and indirect evidence of a pair."""

import numpy as np
import pytest

from haremile.core.standing.evidence import direct_evidence, disagreements
from haremile.core.standing.network import network


def triangle(of_c, studies=4, noise=0.01):
    """Studies of A and B, of B and C, and of A and C, in which C's figure is `of_c` higher."""
    generator = np.random.default_rng(2)
    figures, groups, systems = [], [], []
    for place in range(studies):
        for number, pair in enumerate((("A", "B"), ("B", "C"), ("A", "C"))):
            level = generator.normal()
            for name in pair:
                own = {"A": 0.0, "B": 0.1, "C": 0.3}[name]
                figures.append(level + own + (of_c if pair == ("A", "C") and name == "C" else 0.0))
                figures[-1] += generator.normal(0.0, noise)
                groups.append((place, number))
                systems.append(name)
    return np.array(figures), np.full(len(figures), noise**2), groups, systems


def found_of(of_c):
    figures, variances, groups, systems = triangle(of_c)
    fitted = network(figures, variances, groups, systems, "rest")
    spread = sum(one.variance for one in fitted.spreads)
    return fitted, direct_evidence(figures, variances, groups, systems, spread)


def test_every_pair_that_met_has_its_difference_and_how_often():
    _, direct = found_of(0.0)
    assert set(direct) == {("A", "B"), ("A", "C"), ("B", "C")}
    assert direct["A", "C"].difference == pytest.approx(0.3, abs=0.02)
    assert {one.groups for one in direct.values()} == {4}


def test_more_certain_studies_weigh_more():
    figures = np.array([0.0, 0.1, 0.0, 0.5])
    variances = np.array([1e-6, 1e-6, 1e-2, 1e-2])
    direct = direct_evidence(figures, variances, [1, 1, 2, 2], ["A", "B", "A", "B"], 0.0)
    assert direct["A", "B"].difference == pytest.approx(0.1, abs=1e-3)


def test_evidence_that_agrees_is_not_called_a_disagreement():
    asked, told = disagreements(*found_of(0.0))
    assert asked == 3
    assert told == ()


def test_a_pair_that_differs_from_the_way_round_is_told_with_both_figures():
    asked, told = disagreements(*found_of(0.4))
    assert asked == 3
    pair = next(one for one in told if (one.a, one.b) == ("A", "C"))
    assert pair.direct == pytest.approx(0.7, abs=0.03)
    assert pair.indirect == pytest.approx(0.3, abs=0.03)
    assert pair.p < 0.05


def test_without_a_way_round_nothing_is_asked():
    figures, variances = np.array([0.0, 0.1, 0.0, 0.12]), np.full(4, 1e-4)
    groups, systems = [1, 1, 2, 2], ["A", "B", "A", "B"]
    fitted = network(figures, variances, groups, systems, "rest")
    direct = direct_evidence(figures, variances, groups, systems, 0.0)
    assert disagreements(fitted, direct) == (0, ())
