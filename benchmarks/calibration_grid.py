"""Whole studies of known truth through the findings' own entry point: how often all intervals of a
family hold, and how often a verdict is false. Part of calibration.py."""

import itertools
from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from haremile.core.comparison.findings import find
from haremile.core.comparison.records import FindingRow, Observation, Plan, RunOutcome
from haremile.core.comparison.verdict import Verdict
from haremile.core.records.interim_looks import InterimLooks
from haremile.core.records.margin import Margin
from haremile.core.records.study import RunState

Array = NDArray[np.float64]
Noise = Callable[[np.random.Generator, int, int], Array]
"""Blocks and lanes to noise of shape (blocks, lanes), the middle of it near one standard deviation
wide."""

MARGIN, STEP, LAG, CENTRE = 1.0, 0.5, 0.3, 100.0
LOOKS = ("one", "three", "every")
SIZES = {"one": (5, 8, 12, 20, 40), "three": (12, 20, 40), "every": (12, 20, 40)}
METRIC, MACHINE = "boot.total", "Bench"


def _stalls(share: float) -> Noise:
    return lambda g, n, k: (
        g.normal(size=(n, k))
        + np.where(g.random((n, k)) < share, 15.0 + g.exponential(10.0, (n, k)), 0.0)
    )


def _series(steps: Array) -> Array:
    """An autoregressive series of these steps along its first axis, of variance 1."""
    found = steps.copy()
    for i in range(1, len(found)):
        found[i] = LAG * found[i - 1] + np.sqrt(1.0 - LAG**2) * steps[i]
    return found


def _in_run_order(g: np.random.Generator, n: int, k: int) -> Array:
    series = _series(g.normal(size=n * k)).reshape(n, k)
    order = np.argsort(g.random((n, k)), axis=1)
    return np.take_along_axis(series, np.argsort(order, axis=1), axis=1)


def _wide(g: np.random.Generator, n: int, k: int) -> Array:
    return g.normal(size=(n, k)) * np.where(np.arange(k) % 2, 5.0, 1.0)


SHAPES: dict[str, Noise] = {
    "normal": lambda g, n, k: g.normal(size=(n, k)),
    "lognormal": lambda g, n, k: g.lognormal(0.0, 0.8, (n, k)) / 1.3,
    "Weibull 0.8": lambda g, n, k: g.weibull(0.8, (n, k)) / 1.4,
    "Weibull 1.5": lambda g, n, k: g.weibull(1.5, (n, k)) / 0.6,
    "gamma 0.5": lambda g, n, k: g.gamma(0.5, 1.0, (n, k)) / 0.7,
    "its mirror": lambda g, n, k: -g.gamma(0.5, 1.0, (n, k)) / 0.7,
    "10 % stalls": _stalls(0.1),
    "30 % stalls": _stalls(0.3),
    "two-humped": lambda g, n, k: g.normal(size=(n, k)) + 6.0 * (g.random((n, k)) < 0.3),
    "lag-1 0.3, in a row": lambda g, n, k: _series(g.normal(size=(n, k))),
    "lag-1 0.3, run order": _in_run_order,
    "blocks differ": lambda g, n, k: g.normal(size=(n, k)) + g.normal(size=(n, 1)),
    "whole steps, stated": lambda g, n, k: g.normal(size=(n, k)),
    "whole steps, not stated": lambda g, n, k: g.normal(size=(n, k)),
    "spread 1 to 5": _wide,
}
IN_A_ROW = "lag-1 0.3, in a row"


@dataclass(frozen=True)
class Cell:
    """What is drawn, and how often."""

    shape: str
    n: int
    lanes: int
    looks: str
    runs: int


@dataclass
class Errors:
    """Shares of families in which all intervals hold, and with a false verdict."""

    covered: float = 0.0
    ahead: float = 0.0
    level: float = 0.0


def _looks(kind: str, n: int) -> InterimLooks | None:
    if kind == "one":
        return None
    if kind == "every":
        return InterimLooks.after_every_block(n)
    return InterimLooks((n // 2, 3 * n // 4, n))


def study(
    cell: Cell, generator: np.random.Generator, places: Sequence[float], margin: float = MARGIN
) -> FindingRow:
    """A study with lanes at these places, as the findings tell it."""
    table = CENTRE + np.array(places) + SHAPES[cell.shape](generator, cell.n, cell.lanes)
    step = None
    if cell.shape.startswith("whole steps"):
        table = np.round(table / STEP) * STEP
        step = None if cell.shape.endswith("not stated") else STEP
    stated = {"switching": "reinstall"} if cell.shape == IN_A_ROW else {}
    seen = [
        Observation(
            lane + 1,
            MACHINE,
            METRIC,
            "serial",
            float(table[block, lane]),
            stated,
            "boot",
            resolution=step,
            block=block + 1,
        )
        for block in range(cell.n)
        for lane in range(cell.lanes)
    ]
    runs = [RunOutcome(one.lane_no, MACHINE, "boot", RunState.DONE, one.block or 1) for one in seen]
    names = {lane + 1: f"System {lane + 1}" for lane in range(cell.lanes)}
    plan = Plan({METRIC: Margin(amount=margin)}, _looks(cell.looks, cell.n))
    return find(names, seen, runs, plan).rows[0]


def _errors(cell: Cell) -> Errors:
    """With half of the lanes at the margin from the other half, where verdicts err most."""
    generator = np.random.default_rng(
        [7, cell.n, cell.lanes, list(SHAPES).index(cell.shape), LOOKS.index(cell.looks)]
    )
    places = [MARGIN * (lane >= cell.lanes / 2) for lane in range(cell.lanes)]
    found = Errors()
    for _ in range(cell.runs):
        covered, ahead, level = True, False, False
        for pair in study(cell, generator, places).pairs:
            if pair.a > pair.b:
                continue
            truth = places[pair.b - 1] - places[pair.a - 1]
            limits = pair.found.contrast.shift.interval
            covered &= limits.low <= truth <= limits.high
            ahead |= pair.found.verdict in (Verdict.AHEAD, Verdict.BEHIND)
            level |= truth != 0.0 and pair.found.verdict is Verdict.LEVEL
        found.covered += covered / cell.runs
        found.ahead += ahead / cell.runs
        found.level += level / cell.runs
    return found


def print_grid(
    pool: ProcessPoolExecutor, runs: int, lanes: Sequence[int], looks: Sequence[str]
) -> None:
    for kind, count in itertools.product(looks, lanes):
        draws = runs if kind == "one" or count < 8 else max(runs // 8, 1)
        sizes = SIZES[kind]
        cells = [Cell(s, n, count, kind, draws) for s in SHAPES for n in sizes]
        found = dict(zip(cells, pool.map(_errors, cells), strict=True))
        print(f"\nLooks: {kind}. {count} lanes, per cent of {draws} families: all intervals hold;")
        print("a false *ahead* at the margin; a false *level* there\n")
        print("| shape | " + " | ".join(f"n = {n}" for n in sizes) + " |")
        print("|---|" + "---|" * len(sizes))
        for shape in SHAPES:
            told = []
            for n in sizes:
                one = found[Cell(shape, n, count, kind, draws)]
                shares = (one.covered, one.ahead, one.level)
                told.append("; ".join(f"{100 * share:.1f}" for share in shares))
            print(f"| {shape} | " + " | ".join(told) + " |", flush=True)


def _early_end(job: tuple[str, float, int]) -> tuple[float, float, float]:
    """Median of the estimates at the end of looks, of the same without the correction, and mean
    blocks; two normal lanes so far apart, at most 20 blocks."""
    kind, truth, runs = job
    cell = Cell("normal", 20, 2, kind, runs)
    generator = np.random.default_rng([8, int(10 * truth), LOOKS.index(kind)])
    corrected, plain, blocks = [], [], []
    for _ in range(runs):
        pair = next(p.found for p in study(cell, generator, (0.0, truth)).pairs if p.a < p.b)
        limits = pair.contrast.shift.interval
        corrected.append(pair.contrast.shift.value)
        plain.append((limits.low + limits.high) / 2.0)
        blocks.append(pair.look.blocks if pair.look else cell.n)
    return float(np.median(corrected)), float(np.median(plain)), float(np.mean(blocks))


def print_early_ends(pool: ProcessPoolExecutor, runs: int) -> None:
    print(f"\nEstimates where looks end a pair, medians of {runs} studies (middle of the interval;")
    print("mean blocks of 20)\n")
    print("| true difference | three looks | every block |")
    print("|---|---|---|")
    truths = (0.0, 0.5, 1.0, 1.5, 2.0, 3.0)
    jobs = [(kind, truth, runs) for truth in truths for kind in ("three", "every")]
    found = dict(zip(jobs, pool.map(_early_end, jobs), strict=True))
    for truth in truths:
        cells = [found[kind, truth, runs] for kind in ("three", "every")]
        told = " | ".join(f"{c:.2f} ({p:.2f}; {b:.1f})" for c, p, b in cells)
        print(f"| {truth:g} | {told} |", flush=True)
