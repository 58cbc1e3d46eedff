"""How many repeats a difference takes until it is told in nine studies of ten: the findings against
four tests that are usual for it. Prints a table in Markdown."""

import argparse
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from functools import partial

import numpy as np
from calibration_grid import SHAPES, Cell, study
from numpy.typing import NDArray
from scipy import special, stats

from haremile.core.statistics.paired import pseudo_median

Array = NDArray[np.float64]

POWER, ERROR = 0.9, 0.05
FEWEST, MOST = 4, 160
DIFFERENCE = 1.2
"""In standard deviations of the noise of a normal lane; of the other shapes near it."""

WANTED = ("normal", "lognormal", "gamma 0.5", "Weibull 0.8", "10 % stalls", "blocks differ")
SMALLEST_MARGIN = 1e-6
"""The others know no margin."""


def _table(shape: str, n: int, lanes: int, generator: np.random.Generator) -> Array:
    table = SHAPES[shape](generator, n, lanes)
    table[:, -1] += DIFFERENCE
    return table


def _findings(shape: str, n: int, lanes: int, generator: np.random.Generator) -> bool:
    places = [0.0] * (lanes - 1) + [DIFFERENCE]
    row = study(Cell(shape, n, lanes, "one", 1), generator, places, SMALLEST_MARGIN)
    pair = next(p.found for p in row.pairs if (p.a, p.b) == (1, lanes))
    return pair.verdict.is_decided_difference


def _welch(table: Array, error: float) -> bool:
    return bool(stats.ttest_ind(table[:, 0], table[:, -1], equal_var=False).pvalue < error)


def _paired_t(table: Array, error: float) -> bool:
    return bool(stats.ttest_rel(table[:, 0], table[:, -1]).pvalue < error)


def _signed_rank(table: Array, error: float) -> bool:
    limits = pseudo_median(table[:, -1] - table[:, 0], 1.0 - error).interval
    return limits.level >= 1.0 - error - 1e-12 and (limits.low > 0.0 or limits.high < 0.0)


def _tukey(table: Array, _: float) -> bool:
    n, lanes = table.shape
    df = lanes * (n - 1)
    se = np.sqrt(table.var(axis=0, ddof=1).mean() / n)
    away = abs(float(table[:, -1].mean() - table[:, 0].mean())) / se
    return bool(away > _range_limit(lanes, df))


def _range_limit(lanes: int, df: int) -> float:
    if lanes == 2:
        return float(-special.stdtrit(df, ERROR / 2.0) * np.sqrt(2.0))
    return float(stats.studentized_range.isf(ERROR, lanes, df))


def _test(
    test: Callable[[Array, float], bool],
    shape: str,
    n: int,
    lanes: int,
    generator: np.random.Generator,
) -> bool:
    pairs = lanes * (lanes - 1) // 2
    return test(_table(shape, n, lanes, generator), ERROR / pairs)


WAYS: dict[str, Callable[[str, int, int, np.random.Generator], bool]] = {
    "findings": _findings,
    "Welch": partial(_test, _welch),
    "Tukey": partial(_test, _tukey),
    "paired t": partial(_test, _paired_t),
    "signed rank": partial(_test, _signed_rank),
}


def _needed(job: tuple[str, str, int, int]) -> int:
    """The fewest repeats with which a difference is told with this power."""
    way, shape, lanes, draws = job

    def power(n: int) -> float:
        generator = np.random.default_rng([9, n, lanes, list(SHAPES).index(shape)])
        return sum(WAYS[way](shape, n, lanes, generator) for _ in range(draws)) / draws

    low, high = FEWEST - 1, FEWEST
    while high < MOST and power(high) < POWER:
        low, high = high, min(2 * high, MOST)
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (middle, high) if power(middle) < POWER else (low, middle)
    return high


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--runs", type=int, default=1000, help="studies for each number of repeats")
    parser.add_argument("--workers", type=int, default=2)
    parser.add_argument("--lanes", type=int, nargs="*", default=[2, 3, 8])
    asked = parser.parse_args()
    with ProcessPoolExecutor(asked.workers) as pool:
        for lanes in asked.lanes:
            print(f"\n{lanes} lanes: repeats for {POWER:.0%} power at {DIFFERENCE} standard")
            print(f"deviations, {asked.runs} studies each; the errors of the four over all pairs\n")
            print("| shape | " + " | ".join(WAYS) + " |")
            print("|---|" + "---|" * len(WAYS))
            jobs = [(way, shape, lanes, asked.runs) for shape in WANTED for way in WAYS]
            found = dict(zip(jobs, pool.map(_needed, jobs), strict=True))
            for shape in WANTED:
                cells = [str(found[way, shape, lanes, asked.runs]) for way in WAYS]
                print(f"| {shape} | " + " | ".join(cells) + " |", flush=True)


if __name__ == "__main__":
    main()
