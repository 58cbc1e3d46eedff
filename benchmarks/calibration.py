"""Do intervals cover and verdicts err as often as they promise? Prints tables in Markdown.

Every figure is calculated by the functions that the product uses, on data of known truth.
"""

import argparse
import itertools
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from functools import lru_cache

import numpy as np
from calibration_grid import LOOKS, print_early_ends, print_grid
from numpy.typing import NDArray

from haremile.core.planning.stopping import PrecisionStopping, precision_level
from haremile.core.statistics.contrast import shift_estimate
from haremile.core.statistics.lane_statistics import summarise_lane

Array = NDArray[np.float64]
Draw = Callable[[np.random.Generator, int], Array]

STEP = 0.5
SIZES = (6, 10, 20, 40)
TARGET = 1.4
"""Width at which precision stopping ends for two normal lanes, standard deviations; for six lanes
half as much again, and more for wider shapes, so that all end between 10 and 60 blocks."""

WIDER = {"unequal spread, 1 to 5": 5.0, "two-humped, 30 %": 3.5, "two-humped, 48 %": 3.5}


def _modes(share: float) -> Draw:
    return lambda g, n: g.normal(size=n) + np.where(g.random(n) < share, 6.0, 0.0)


def _stalling(g: np.random.Generator, n: int) -> Array:
    return g.normal(size=n) + np.where(g.random(n) < 0.1, 15.0 + g.exponential(10.0, n), 0.0)


SHAPES: dict[str, Draw] = {
    "normal": lambda g, n: g.normal(size=n),
    "lognormal": lambda g, n: g.lognormal(0.0, 0.8, n),
    "two-humped, 30 %": _modes(0.3),
    "two-humped, 48 %": _modes(0.48),
    "heavy-tailed": lambda g, n: g.standard_t(3, n),
    "stalling": _stalling,
    "unequal spread, 1 to 5": lambda g, n: g.normal(size=n),
    "rounded to a half": lambda g, n: g.normal(size=n),
}


def _lane(shape: str, generator: np.random.Generator, n: int, place: float, lane: int) -> Array:
    noise = SHAPES[shape](generator, n)
    if shape.startswith("unequal") and lane % 2:
        noise = noise * 5.0
    readings = 100.0 + place + noise
    if shape.startswith("rounded"):
        readings = np.round(readings / STEP) * STEP
    return readings


def _step(shape: str) -> float | None:
    return STEP if shape.startswith("rounded") else None


@lru_cache
def _true_median(shape: str) -> float:
    return float(np.median(SHAPES[shape](np.random.default_rng(0), 4_000_000)))


def _coverage(job: tuple[str, int, int]) -> tuple[float, float]:
    """Of the median interval and of the shift interval of two lanes."""
    shape, n, runs = job
    generator = np.random.default_rng([1, n, len(shape)])
    truth, step = 100.0 + _true_median(shape), _step(shape)
    of_median = of_shift = 0
    for _ in range(runs):
        a = _lane(shape, generator, n, 0.0, 0)
        b = _lane(shape, generator, n, 0.3, 1)
        limits = summarise_lane(a, resolution=step).median_interval
        assert limits is not None
        of_median += limits.low <= truth <= limits.high
        found = shift_estimate(a, b, 0.95, step).interval
        of_shift += found.low <= 0.3 <= found.high
    return of_median / runs, of_shift / runs


def _unequal(job: tuple[int, int, float, int]) -> float:
    """Coverage of the shift interval where the second lane is so many times as wide."""
    n_a, n_b, wide, runs = job
    generator = np.random.default_rng([4, n_a, n_b])
    covered = 0
    for _ in range(runs):
        a, b = generator.normal(size=n_a), generator.normal(0.3, wide, n_b)
        found = shift_estimate(a, b).interval
        covered += found.low <= 0.3 <= found.high
    return covered / runs


def _precision(job: tuple[str, int, int]) -> tuple[float, float]:
    """Coverage of the intervals where precision stopping ended, and the mean blocks it took."""
    shape, lanes, runs = job
    generator = np.random.default_rng([3, lanes, len(shape)])
    covered, blocks = 0, 0
    level = precision_level(lanes)
    target = TARGET * WIDER.get(shape, 1.0) * (1.0 if lanes == 2 else 1.5)
    for _ in range(runs):
        data = [_lane(shape, generator, 60, 0.0, i) for i in range(lanes)]
        state = PrecisionStopping(target, 60)
        while not state.state.is_end:
            state = state.after_block([lane[: state.blocks + 1] for lane in data])
        seen = [lane[: state.blocks] for lane in data]
        blocks += state.blocks
        covered += all(
            found.low <= 0.0 <= found.high
            for found in (
                shift_estimate(a, b, level, _step(shape)).interval
                for a, b in itertools.combinations(seen, 2)
            )
        )
    return covered / runs, blocks / runs


def _print_coverage(pool: ProcessPoolExecutor, runs: int) -> None:
    jobs = [(shape, n, runs) for shape in SHAPES for n in SIZES]
    found = dict(zip(jobs, pool.map(_coverage, jobs), strict=True))
    print(
        f"\nCoverage of 95 % intervals, per cent of {runs} samples (median; shift of two lanes)\n"
    )
    print("| shape | " + " | ".join(f"n = {n}" for n in SIZES) + " |")
    print("|---|" + "---|" * len(SIZES))
    for shape in SHAPES:
        cells = [f"{a * 100:.1f}; {b * 100:.1f}" for a, b in (found[shape, n, runs] for n in SIZES)]
        print(f"| {shape} | " + " | ".join(cells) + " |", flush=True)


def _print_unequal(pool: ProcessPoolExecutor, runs: int) -> None:
    sizes = [(30, 10), (10, 30), (20, 6), (6, 20), (40, 20), (40, 5)]
    print(f"\nShift interval, unequal numbers of readings, per cent of {runs} samples\n")
    print("| the second is | " + " | ".join(f"{a} against {b}" for a, b in sizes) + " |")
    print("|---|" + "---|" * len(sizes))
    for wide, name in ((1.0, "as wide"), (3.0, "3 times as wide"), (5.0, "5 times as wide")):
        shares = pool.map(_unequal, [(a, b, wide, runs) for a, b in sizes])
        print(
            f"| {name} | " + " | ".join(f"{100 * share:.1f}" for share in shares) + " |", flush=True
        )


def _print_precision(pool: ProcessPoolExecutor, runs: int) -> None:
    print(f"\nPrecision stopping, per cent of {runs} studies that cover (mean blocks)\n")
    print("| shape | 2 lanes | 6 lanes |")
    print("|---|---|---|")
    jobs = [(shape, lanes, runs) for shape in SHAPES for lanes in (2, 6)]
    found = dict(zip(jobs, pool.map(_precision, jobs), strict=True))
    for shape in SHAPES:
        cells = [f"{c * 100:.1f} ({b:.0f})" for c, b in (found[shape, k, runs] for k in (2, 6))]
        print(f"| {shape} | " + " | ".join(cells) + " |", flush=True)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--runs", type=int, default=2000, help="samples of each cell")
    parser.add_argument("--workers", type=int, default=2)
    parser.add_argument(
        "--only", choices=("intervals", "grid", "early-ends"), help="one part alone"
    )
    parser.add_argument("--lanes", type=int, nargs="*", default=[2, 3, 8], help="of the grid")
    parser.add_argument(
        "--looks", nargs="*", choices=LOOKS, default=list(LOOKS), help="of the grid"
    )
    asked = parser.parse_args()
    began = time.monotonic()
    with ProcessPoolExecutor(asked.workers) as pool:
        if asked.only in (None, "intervals"):
            _print_coverage(pool, asked.runs)
            _print_unequal(pool, asked.runs)
            _print_precision(pool, asked.runs)
        if asked.only in (None, "grid"):
            print_grid(pool, asked.runs, asked.lanes, asked.looks)
        if asked.only in (None, "early-ends"):
            print_early_ends(pool, asked.runs)
    print(f"\n{(time.monotonic() - began) / 3600.0:.2f} hours")


if __name__ == "__main__":
    main()
