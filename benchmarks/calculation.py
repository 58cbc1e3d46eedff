"""How fast the calculation is, as ratios against SciPy within one run."""

import itertools
import time
import tracemalloc
from collections.abc import Callable
from functools import partial
from statistics import median

import numpy as np
from scipy import stats

from haremile.core.comparison.findings import find
from haremile.core.comparison.records import Observation, Plan, RunOutcome
from haremile.core.records.study import RunState
from haremile.core.statistics.contrast import shift_estimate
from haremile.core.statistics.lane_statistics import summarise_lane
from haremile.core.statistics.modality import modes_of
from haremile.core.statistics.paired import paired_contrast
from haremile.core.statistics.resampling import bootstrap_interval, quantile_interval
from haremile.core.statistics.run_order import diagnose_sequence

SYSTEMS, MACHINES, REPEATS = 8, 3, 30
LARGE = 100_000
METRICS = (
    "boot.total",
    "boot.firmware",
    "boot.kernel",
    "boot.userspace",
    "memory.used",
    "memory.used_nocache",
    "memory.pss",
    "disk.used",
    "process.count",
    "launch.window",
    "launch.main",
    "launch.settled",
)


def seconds(work: Callable[[], object], times: int = 5) -> float:
    """Median seconds of so many goes."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return median(taken)


def bootstrap() -> None:
    sample = np.random.default_rng(1).lognormal(2.0, 0.3, 30)

    def scipy(vectorized: bool) -> object:
        statistic = (lambda v, axis: np.mean(v, axis=axis)) if vectorized else np.mean
        return stats.bootstrap(
            (sample,), statistic, n_resamples=10_000, vectorized=vectorized, method="BCa"
        )

    own = seconds(lambda: bootstrap_interval([sample], lambda rows: rows.mean(axis=1)), 15)
    fast = seconds(lambda: scipy(True), 15)
    slow = seconds(lambda: scipy(False), 3)
    print(f"BCa, mean, n = 30, B = 10,000: ours {own * 1e3:.1f} ms")
    print(f"  against scipy.stats.bootstrap(vectorized=False): {slow / own:.0f} times as fast")
    print(f"  against scipy.stats.bootstrap(vectorized=True): {fast / own:.2f} times as fast")
    medians = seconds(lambda: bootstrap_interval([sample], lambda rows: np.median(rows, axis=1)), 7)
    theirs = seconds(
        lambda: stats.bootstrap(
            (sample,),
            lambda v, axis: np.median(v, axis=axis),
            n_resamples=10_000,
            vectorized=True,
            method="BCa",
        ),
        7,
    )
    print(f"BCa, median: {theirs / medians:.2f} times as fast as SciPy's vectorised form")


def _readings() -> tuple[list[Observation], list[RunOutcome]]:
    generator = np.random.default_rng(2)
    seen, runs = [], []
    for machine, system in itertools.product(range(MACHINES), range(1, SYSTEMS + 1)):
        for block in range(1, REPEATS + 1):
            runs.append(RunOutcome(system, f"machine {machine}", "boot", RunState.DONE, block))
            for key in METRICS:
                value = 100.0 + system + generator.normal()
                seen.append(
                    Observation(
                        system,
                        f"machine {machine}",
                        key,
                        "probe",
                        value,
                        {"medium": "installed"},
                        "boot",
                        block=block,
                    )
                )
    return seen, runs


def _one_by_one(seen: list[Observation]) -> None:
    """What a script would do: SciPy's functions for every lane and every pair."""
    lanes: dict[tuple[str, str], dict[int, list[float]]] = {}
    for item in seen:
        row = lanes.setdefault((item.machine, item.metric), {})
        row.setdefault(item.lane_no, []).append(item.value)
    for row in lanes.values():
        for values in row.values():
            np.percentile(values, [25, 50, 75, 90])
            stats.median_abs_deviation(values)
            stats.gmean(values)
            stats.quantile_test(values, p=0.5).confidence_interval(0.95)
        for a, b in itertools.combinations(row.values(), 2):
            stats.mannwhitneyu(b, a, method="exact")
            _inverted(np.array(a), np.array(b))


def _inverted(a: np.ndarray, b: np.ndarray) -> tuple[float, float]:
    """The shift interval by bisection on the exact test, one end after the other."""
    centre, found = float(np.median(np.subtract.outer(b, a))), []
    for sign in (-1.0, 1.0):
        near, far = 0.0, 4.0
        for _ in range(20):
            middle = (near + far) / 2.0
            p = stats.mannwhitneyu(b - centre - sign * middle, a, method="exact").pvalue
            near, far = (middle, far) if p > 0.05 else (near, middle)
        found.append(centre + sign * near)
    return found[0], found[1]


def findings() -> None:
    seen, runs = _readings()
    names = {lane: f"System {lane}" for lane in range(1, SYSTEMS + 1)}
    first = seconds(lambda: find(names, seen, runs, Plan()), 1)
    own = seconds(lambda: find(names, seen, runs, Plan()))
    theirs = seconds(lambda: _one_by_one(seen), 1)
    size = f"{SYSTEMS} systems x {MACHINES} machines x {len(METRICS)} metrics x {REPEATS} repeats"
    print(f"Findings of {size}: {own:.2f} s ({first:.2f} s the first time)")
    print(
        f"  against SciPy's functions one by one ({theirs:.1f} s): {theirs / own:.0f} times as fast"
    )


def large_lanes() -> None:
    """Of 100,000 readings each: seconds, as a multiple of sorting one lane, and the most memory."""
    generator = np.random.default_rng(3)
    a, b = generator.normal(30.0, 1.0, (2, LARGE))
    sorting = seconds(lambda: np.sort(a))
    print(f"Lanes of {LARGE:,} readings (sorting one: {sorting * 1e3:.1f} ms)")
    works: dict[str, Callable[[], object]] = {
        "summary": lambda: summarise_lane(a),
        "diagnoses in run order": lambda: diagnose_sequence(a),
        "modes": lambda: modes_of(a),
        "90th percentile": lambda: quantile_interval(a, 0.9),
        "shift interval": lambda: shift_estimate(a, b),
        "signed rank": lambda: paired_contrast(a, b),
    }
    for name, work in works.items():
        taken = seconds(work, 3)
        tracemalloc.start()
        work()
        peak = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
        print(f"  {name}: {taken:.2f} s, {taken / sorting:.0f} sorts, {peak / 2**20:.0f} MiB")


def large_findings() -> None:
    """Whole findings of 100,000 readings in few large lanes, in usual ones, and in very many."""
    generator = np.random.default_rng(4)
    sorting = seconds(lambda: np.sort(generator.normal(size=LARGE)))
    for lanes, metrics, repeats in ((2, 1, 50_000), (4, 5, 5_000), (64, 1, 1_562)):
        seen, stated = [], [{"medium": "installed"} for _ in range(lanes)]
        for key, lane in itertools.product(METRICS[:metrics], range(lanes)):
            values = generator.normal(100.0 + lane, 1.0, repeats)
            seen += [
                Observation(
                    lane + 1, "Bench", key, "probe", value, stated[lane], "boot", block=block
                )
                for block, value in enumerate(values.tolist(), 1)
            ]
        runs = [
            RunOutcome(lane, "Bench", "boot", RunState.DONE, block)
            for lane, block in itertools.product(range(1, lanes + 1), range(1, repeats + 1))
        ]
        work = partial(find, {n: f"System {n}" for n in range(1, lanes + 1)}, seen, runs, Plan())
        work()
        taken = seconds(work, 3)
        print(
            f"Findings of {lanes} lanes x {metrics} metrics x {repeats:,} readings: "
            f"{taken:.2f} s, {taken / sorting:.0f} sorts of {LARGE:,}"
        )


if __name__ == "__main__":
    bootstrap()
    findings()
    large_lanes()
    large_findings()
