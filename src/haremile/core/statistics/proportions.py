"""Shares of runs that failed or stalled: intervals, difference and exact test."""

import math
from dataclasses import dataclass

import numpy as np
from scipy import stats

from haremile.core.statistics.contrast import Estimate
from haremile.core.statistics.lane_statistics import Interval
from haremile.core.statistics.validation import as_level
from haremile.errors import SampleError


@dataclass(frozen=True)
class Proportion:
    """`count` of `runs`; share and interval (Wilson) are None where nothing was run."""

    count: int
    runs: int
    share: float | None
    interval: Interval | None


@dataclass(frozen=True)
class ProportionContrast:
    """Share of B minus share of A, with Newcombe's interval and Fisher's exact p, two-sided.

    `difference` is None where one of them ran nothing; `p` also where neither or every run failed.
    """

    difference: Estimate | None
    p: float | None


def proportion(count: int, runs: int, level: float = 0.95) -> Proportion:
    """Share of `runs` with its score interval.

    Raises
    ------
    SampleError
        Unless 0 ≤ count ≤ runs, or if the level is none.

    Notes
    -----
    Source: Wilson, Journal of the American Statistical Association 22, 1927.
    """
    as_level(level)
    if not 0 <= count <= runs:
        raise SampleError(f"count must lie between 0 and {runs} runs, not {count}")
    if runs == 0:
        return Proportion(0, 0, None, None)
    z = float(stats.norm.ppf(0.5 + level / 2.0))
    share, weight = count / runs, z * z / runs
    middle = (share + weight / 2.0) / (1.0 + weight)
    inner = share * (1.0 - share) / runs + weight / (4.0 * runs)
    reach = z * math.sqrt(inner) / (1.0 + weight)
    low = 0.0 if count == 0 else middle - reach
    high = 1.0 if count == runs else middle + reach
    return Proportion(count, runs, share, Interval(low, high, level))


def compare_proportions(a: Proportion, b: Proportion) -> ProportionContrast:
    """B against A, at the level of their own intervals.

    Notes
    -----
    Source: Newcombe, Statistics in Medicine 17, 1998, method 10 (from the two score intervals);
    Fisher, Statistical Methods for Research Workers, 1934.
    """
    if a.share is None or b.share is None or a.interval is None or b.interval is None:
        return ProportionContrast(None, None)
    away = b.share - a.share
    down = math.hypot(b.share - b.interval.low, a.interval.high - a.share)
    up = math.hypot(b.interval.high - b.share, a.share - a.interval.low)
    found = Estimate(away, Interval(away - down, away + up, b.interval.level))
    failed = a.count + b.count
    if failed in (0, a.runs + b.runs):
        return ProportionContrast(found, None)
    table = np.array([[b.count, b.runs - b.count], [a.count, a.runs - a.count]])
    return ProportionContrast(found, float(stats.fisher_exact(table).pvalue))


def unseen_share(runs: int) -> float:
    """The highest true share that `runs` without a failure leave possible, at 95 %: 1 − 0.05^(1/n).

    Source: Clopper & Pearson, Biometrika 26, 1934, for no failure. 1 where nothing was run.
    """
    return 1.0 - 0.05 ** (1.0 / runs) if runs else 1.0
