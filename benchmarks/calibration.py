"""Do intervals cover and verdicts err as often as they promise? Prints tables in Markdown.

Every figure is calculated by the functions that the product uses, on data of known truth.
"""

import argparse
import itertools
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from haremile.core.comparison.verdict import (
    Verdict,
    VerdictRule,
    pair_verdict,
    verdict_over_looks,
)
from haremile.core.planning.stopping import PrecisionStopping, precision_level
from haremile.core.records.interim_looks import InterimLooks
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd
from haremile.core.statistics.blocks import pays, share_between_blocks
from haremile.core.statistics.contrast import shift_estimate
from haremile.core.statistics.families import error_of_pair
from haremile.core.statistics.lane_statistics import summarise_lane
from haremile.core.statistics.paired import least_pairs, pseudo_median

Array = NDArray[np.float64]
Draw = Callable[[np.random.Generator, int], Array]

MARGIN = 1.0
STEP = 0.5
SIZES = (6, 10, 20, 40)
PLANNED = InterimLooks((10, 15, 20))
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


def _rule(shape: str, lanes: int) -> VerdictRule:
    return VerdictRule(Margin(amount=MARGIN), GoodEnd.LOW, lanes, _step(shape))


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


def _unequal(job: tuple[int, int, int]) -> float:
    """Coverage of the shift interval where the lane of few readings is five times as wide."""
    n_a, n_b, runs = job
    generator = np.random.default_rng([4, n_a, n_b])
    covered = 0
    for _ in range(runs):
        a, b = generator.normal(size=n_a), generator.normal(0.3, 5.0, n_b)
        found = shift_estimate(a, b).interval
        covered += found.low <= 0.3 <= found.high
    return covered / runs


BlockShape = Callable[[np.random.Generator, tuple[int, int]], Array]
BLOCK_SHAPES: dict[str, BlockShape] = {
    "normal": lambda g, size: g.normal(size=size),
    "lognormal": lambda g, size: g.lognormal(0.0, 0.8, size) / 1.3,
    "gamma 0.5": lambda g, size: g.gamma(0.5, 1.0, size) / 0.7,
    "its mirror": lambda g, size: -g.gamma(0.5, 1.0, size) / 0.7,
    "Weibull 0.8": lambda g, size: g.weibull(0.8, size) / 1.4,
    "20 % stalls": lambda g, size: (
        g.normal(size=size) + np.where(g.random(size) < 0.2, 15.0 + g.exponential(10.0, size), 0.0)
    ),
}
DRIFTS = (0.0, 0.5, 1.0)


@dataclass
class Errors:
    """Shares of families with a false verdict."""

    ahead_at_nought: float = 0.0
    ahead_at_margin: float = 0.0
    level_at_margin: float = 0.0


def _errors(job: tuple[str, int, int, int, InterimLooks | None]) -> Errors:
    shape, n, lanes, runs, looks = job
    generator = np.random.default_rng([2, n, lanes, len(shape)])
    rule, found = _rule(shape, lanes), Errors()
    for truth in (0.0, MARGIN):
        places = [truth * (lane >= lanes / 2) for lane in range(lanes)]
        for _ in range(runs):
            data = [_lane(shape, generator, n, p, i) for i, p in enumerate(places)]
            ahead = level = False
            for i, j in itertools.combinations(range(lanes), 2):
                verdict = _judge(data[i], data[j], rule, looks)
                ahead |= verdict in (Verdict.AHEAD, Verdict.BEHIND)
                level |= verdict is Verdict.LEVEL and places[i] != places[j]
            if truth:
                found.ahead_at_margin += ahead / runs
                found.level_at_margin += level / runs
            else:
                found.ahead_at_nought += ahead / runs
    return found


def _judge(a: Array, b: Array, rule: VerdictRule, looks: InterimLooks | None) -> Verdict:
    if looks is None:
        return pair_verdict(a, b, rule).verdict
    taken = [(look, a[: look.blocks], b[: look.blocks]) for look in looks.every]
    return verdict_over_looks(taken, rule).verdict


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


def _blocked(job: tuple[str, int, int, float, int]) -> tuple[float, float]:
    """Of families of lanes in complete blocks that differ by so many times the noise: the share in
    which an interval of some pair misses, and the share that is compared within blocks."""
    shape, n, lanes, drift, runs = job
    generator = np.random.default_rng([6, n, lanes, len(shape), int(10 * drift)])
    pairs = list(itertools.combinations(range(lanes), 2))
    level = 1.0 - error_of_pair(0.05, lanes)
    missed = within = 0
    for _ in range(runs):
        table = BLOCK_SHAPES[shape](generator, (n, lanes))
        table = table + drift * generator.normal(size=(n, 1))
        is_within = n >= least_pairs(level) and pays(share_between_blocks(table), n, lanes)
        within += is_within
        limits = (
            pseudo_median(table[:, j] - table[:, i], level).interval
            if is_within
            else shift_estimate(table[:, i], table[:, j], level).interval
            for i, j in pairs
        )
        missed += any(not one.low <= 0.0 <= one.high for one in limits)
    return missed / runs, within / runs


def _print_blocks(pool: ProcessPoolExecutor, runs: int) -> None:
    sizes = (8, 12, 20, 40)
    for lanes in (2, 3, 8):
        few = runs if lanes < 8 else max(runs // 4, 1)
        jobs = [(s, n, lanes, d, few) for s in BLOCK_SHAPES for d in DRIFTS for n in sizes]
        found = dict(zip(jobs, pool.map(_blocked, jobs), strict=True))
        print(f"\nComplete blocks: {lanes} lanes, per cent of {few} families in which an interval")
        print("misses; in brackets, per cent compared within blocks\n")
        print("| shape | blocks differ by | " + " | ".join(f"n = {n}" for n in sizes) + " |")
        print("|---|---|" + "---|" * len(sizes))
        for shape, drift in itertools.product(BLOCK_SHAPES, DRIFTS):
            cells = [found[shape, n, lanes, drift, few] for n in sizes]
            told = " | ".join(f"{100 * e:.1f} ({100 * w:.0f})" for e, w in cells)
            print(f"| {shape} | {drift:g} × the noise | {told} |", flush=True)


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
    jobs = [(30, 10, runs), (20, 6, runs), (40, 20, runs), (10, 30, runs)]
    shares = list(pool.map(_unequal, jobs))
    print(f"\nShift interval, unequal spread (1 to 5) and unequal n, per cent of {runs} samples\n")
    print("| " + " | ".join(f"{a} against {b}" for a, b, _ in jobs) + " |")
    print("|" + "---|" * len(jobs))
    print("| " + " | ".join(f"{share * 100:.1f}" for share in shares) + " |", flush=True)


def _print_errors(
    pool: ProcessPoolExecutor, title: str, lanes: int, runs: int, looks: InterimLooks | None
) -> None:
    sizes = SIZES if looks is None else (looks.blocks,)
    jobs = [(shape, n, lanes, runs, looks) for shape in SHAPES for n in sizes]
    found = dict(zip(jobs, pool.map(_errors, jobs), strict=True))
    print(f"\n{title}: {lanes} lanes, per cent of {runs} families with a false verdict")
    print("(*ahead* at difference 0; *ahead* at the margin; *level* at the margin)\n")
    print("| shape | " + " | ".join(f"n = {n}" for n in sizes) + " |")
    print("|---|" + "---|" * len(sizes))
    for shape in SHAPES:
        cells = []
        for n in sizes:
            one = found[shape, n, lanes, runs, looks]
            shares = (one.ahead_at_nought, one.ahead_at_margin, one.level_at_margin)
            cells.append("; ".join(f"{share * 100:.1f}" for share in shares))
        print(f"| {shape} | " + " | ".join(cells) + " |", flush=True)


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
    parser.add_argument("--runs", type=int, default=4000, help="samples of each cell")
    parser.add_argument("--workers", type=int, default=2)
    parser.add_argument("--only-blocks", action="store_true", help="the table of blocks alone")
    asked = parser.parse_args()
    few = max(asked.runs // 4, 1)
    if asked.only_blocks:
        with ProcessPoolExecutor(asked.workers) as pool:
            _print_blocks(pool, asked.runs)
        return
    with ProcessPoolExecutor(asked.workers) as pool:
        _print_coverage(pool, asked.runs)
        _print_unequal(pool, asked.runs)
        _print_errors(pool, "One look", 2, asked.runs, None)
        _print_errors(pool, "One look", 6, few, None)
        for lanes, runs in ((2, asked.runs), (6, few)):
            _print_errors(pool, "InterimLooks after blocks 10, 15, 20", lanes, runs, PLANNED)
        longer = PLANNED.extended_to(25)
        _print_errors(pool, "The same with one extension to 25", 2, asked.runs, longer)
        _print_errors(
            pool, "One look at 20, one extension to 30", 2, asked.runs, InterimLooks((20,), (30,))
        )
        _print_precision(pool, asked.runs)
        _print_blocks(pool, asked.runs)


if __name__ == "__main__":
    main()
