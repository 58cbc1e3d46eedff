"""The network against solutions that share nothing with it."""

import numpy as np
import pytest

from haremile.core.standing.network import Cells, network, parts_of


def made_up(seed: int, studies: int = 9) -> tuple[np.ndarray, np.ndarray, list[int], list[str]]:
    generator = np.random.default_rng(seed)
    bases, systems = [], []
    for study in range(studies):
        for system in generator.choice(6, 3, replace=False):
            bases.append(study)
            systems.append(f"s{system}")
    figures = generator.normal(0.0, 0.2, len(bases))
    return figures, generator.uniform(1e-5, 4e-4, len(bases)), bases, systems


def independent(
    figures: np.ndarray, covariance: np.ndarray, bases: list[int], systems: list[str]
) -> tuple[dict[str, float], dict[tuple[str, str], float]]:
    """Differences from the first system and their variances, by the normal equations."""
    names, groups = sorted(set(systems)), sorted(set(bases))
    design = np.zeros((len(figures), len(groups) + len(names) - 1))
    for row, (base, system) in enumerate(zip(bases, systems, strict=True)):
        design[row, groups.index(base)] = 1.0
        if names.index(system):
            design[row, len(groups) + names.index(system) - 1] = 1.0
    precision = np.linalg.inv(covariance)
    inverse = np.linalg.inv(design.T @ precision @ design)
    found = inverse @ design.T @ precision @ figures
    residual = figures - design @ found
    free = len(figures) - design.shape[1]
    scale = max(1.0, float(residual @ precision @ residual) / free)
    effects = {name: 0.0 for name in names}
    variances = {}
    for at, name in enumerate(names[1:]):
        effects[name] = float(found[len(groups) + at])
        variances[names[0], name] = scale * float(inverse[len(groups) + at, len(groups) + at])
    return effects, variances


@pytest.mark.parametrize("seed", range(5))
def test_one_source_agrees_with_an_independent_least_squares_solution(seed: int) -> None:
    figures, variances, bases, systems = made_up(seed)
    found = network(figures, variances, bases, systems, "rest")
    spread = sum(one.variance for one in found.spreads)
    effects, errors = independent(figures, np.diag(variances + spread), bases, systems)
    at = {name: place for place, name in enumerate(found.systems)}
    for name, effect in effects.items():
        gap = found.effects[at[name]] - found.effects[at["s0"]]
        assert gap == pytest.approx(effect, abs=1e-9)
    for (a, b), error in errors.items():
        own = found.covariance[at[a], at[a]] + found.covariance[at[b], at[b]]
        assert own - 2.0 * found.covariance[at[a], at[b]] == pytest.approx(error, rel=1e-9)


def test_two_sources_agree_with_an_independent_least_squares_solution() -> None:
    figures, variances, bases, systems = made_up(11, studies=14)
    machines = [f"{system} on {base % 3}" for base, system in zip(bases, systems, strict=True)]
    names = sorted(set(machines))
    off = dict(zip(names, np.random.default_rng(2).normal(size=len(names)), strict=True))
    figures = figures + np.array([off[name] for name in machines])
    found = network(figures, variances, bases, systems, "rest", Cells("machine", machines))
    shares = {one.name: one.variance for one in found.spreads}
    assert shares["machine"] > 0.0
    alike = np.array([[a == b for b in machines] for a in machines], dtype=float)
    covariance = np.diag(variances + shares["rest"]) + shares["machine"] * alike
    effects, _ = independent(figures, covariance, bases, systems)
    at = {name: place for place, name in enumerate(found.systems)}
    for name, effect in effects.items():
        gap = found.effects[at[name]] - found.effects[at["s0"]]
        assert gap == pytest.approx(effect, abs=1e-9)


def test_the_spread_between_studies_is_found_by_its_expectation() -> None:
    # a balanced book: every study holds both, so that the moments are those of a paired t-test
    gaps = np.array([0.10, 0.02, 0.06, 0.14, 0.08])
    figures = np.concatenate([[0.0, gap] for gap in gaps])
    found = network(
        figures, np.full(10, 1e-4), [i // 2 for i in range(10)], ["a", "b"] * 5, "studies"
    )
    assert found.spreads[0].variance == pytest.approx(np.var(gaps, ddof=1) / 2.0 - 1e-4)
    assert found.degrees == 4
    assert found.effects[1] - found.effects[0] == pytest.approx(gaps.mean())


def test_levels_are_those_of_the_mean_of_all_systems() -> None:
    figures = np.array([1.0, 2.0, 4.0, 5.0])
    found = network(figures, np.full(4, 1e-4), ["x", "x", "y", "y"], ["a", "b", "a", "b"], "rest")
    assert dict(zip(found.bases, found.levels, strict=True)) == pytest.approx({"x": 1.5, "y": 4.5})


def test_nothing_tells_of_the_spread_where_no_two_systems_met_twice() -> None:
    found = network(
        np.array([0.0, 0.1, 0.0, 0.2]), np.full(4, 1e-4), [1, 1, 2, 2], ["a", "b", "b", "c"], "rest"
    )
    assert found.degrees is None and found.spreads == ()


def test_parts_hang_together_through_shared_systems() -> None:
    assert parts_of([1, 1, 2, 2, 3], ["a", "b", "b", "c", "z"]) == [[0, 1, 2, 3], [4]]
