"""How many repeats a verdict takes, and what given repeats can tell."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy import optimize, stats

from haremile.core.comparison.verdict import ERROR_AHEAD, ERROR_LEVEL
from haremile.core.statistics.rank_sum import least_repeats
from haremile.core.statistics.validation import FloatArray, as_sample
from haremile.errors import BadInputError

RANK_COST = math.pi / 3.0
"""Readings that rank methods take for one of the t test's, normal data (Hodges & Lehmann, 1956)."""

MOST_REPEATS = 100_000


@dataclass(frozen=True)
class RepeatsPlan:
    """What a plan can hope for.

    Attributes
    ----------
    aim : str
        ``ahead`` where the true difference lies beyond the margin, ``level`` where inside.
    repeats : int or None
        Of each contender; None is *never*: the difference sits at the margin.
    family : int
        Pairs over which the error is shared out.
    looks : int
        Planned looks over which it is shared out, too.
    """

    aim: str
    repeats: int | None
    family: int
    looks: int = 1


def _check_shares(**shares: float) -> None:
    for name, share in shares.items():
        if not 0.0 < share < 1.0:
            raise BadInputError(f"{name} must lie between 0 and 1, not {share}")


def _check_sizes(**sizes: float) -> None:
    for name, size in sizes.items():
        if not 0.0 < size < math.inf:
            raise BadInputError(f"{name} must be a positive number, not {size}")


def _family(contenders: int) -> int:
    """All pairs of the contenders."""
    if contenders < 2:
        raise BadInputError(f"a comparison takes two contenders, not {contenders}")
    return contenders * (contenders - 1) // 2


def _checked_looks(looks: int) -> int:
    if looks < 1:
        raise BadInputError(f"a plan needs one look at least, not {looks}")
    return looks


def two_sample_power(n: float, difference: float, sd: float, alpha: float = 0.05) -> float:
    """Chance that a two-sided t test at `alpha` finds `difference` with n in each lane.

    The tiny chance of rejecting on the wrong side is left out. Source: Cohen, Statistical Power
    Analysis, 2nd ed., chapter 2; noncentral t.
    """
    df = 2.0 * (n - 1.0)
    limit = float(stats.t.isf(alpha / 2.0, df))
    return float(stats.nct.sf(limit, df, abs(difference) / sd * math.sqrt(n / 2.0)))


def two_sample_repeats(
    difference: float, sd: float, power: float = 0.9, alpha: float = 0.05
) -> float:
    """Repeats in each lane, not rounded, that reach `power`; as `two_sample_power`.

    Raises
    ------
    BadInputError
        If a share is not between 0 and 1, or spread or difference are not positive.
    """
    _check_shares(power=power, alpha=alpha)
    _check_sizes(spread=sd, difference=abs(difference))
    if two_sample_power(2.0, difference, sd, alpha) >= power:
        return 2.0

    def shortfall(n: float) -> float:
        return two_sample_power(n, difference, sd, alpha) - power

    high = 4.0
    while shortfall(high) < 0.0:
        high *= 2.0
    return float(optimize.brentq(shortfall, high / 2.0 if high > 4.0 else 2.0, high, xtol=1e-10))


def plan_repeats(
    spread: float,
    margin: float,
    difference: float,
    power: float = 0.9,
    contenders: int = 2,
    looks: int = 1,
) -> RepeatsPlan:
    """Repeats of each contender for a verdict on a pair.

    Parameters
    ----------
    spread : float
        Standard deviation of the readings, same unit as the others.
    margin, difference : float
        The margin that matters and the difference assumed to be true.
    power : float
        Chance of reaching the verdict.
    contenders : int
        All pairs of them share the error.
    looks : int
        Planned looks, which share it too; the repeats are those of the last one.

    Raises
    ------
    BadInputError
        If a size is not positive, a share not between 0 and 1, or a count too small.

    Notes
    -----
    *Ahead* needs the interval at 1 − 0.05/m beyond the margin, *level* both ends of the one at
    1 − 0.10/m inside; a level verdict from the middle of the margin must succeed on both sides. The
    t test's figures are raised by the cost of ranks.
    """
    family = _family(contenders)
    _check_sizes(spread=spread, margin=margin)
    _check_shares(power=power)
    away, shared = abs(difference) - margin, family * _checked_looks(looks)
    aim, alpha = ("ahead", ERROR_AHEAD / shared) if away > 0 else ("level", ERROR_LEVEL / shared)
    if abs(away) < 1e-9 * margin:
        return RepeatsPlan("ahead", None, family, looks)
    two_sides = aim == "level" and abs(difference) < 0.1 * margin
    wanted = 1.0 - (1.0 - power) / 2.0 if two_sides else power
    needed = math.ceil(two_sample_repeats(away, spread, wanted, alpha) * RANK_COST)
    if needed > MOST_REPEATS:
        return RepeatsPlan(aim, None, family, looks)
    return RepeatsPlan(aim, max(needed, least_repeats(1.0 - ERROR_AHEAD / shared)), family, looks)


def smallest_difference(
    spread: float,
    margin: float,
    repeats: int,
    power: float = 0.9,
    contenders: int = 2,
    looks: int = 1,
) -> float | None:
    """Smallest true difference that `repeats` of each contender tell apart with `power`.

    None where so few can never reach the level.
    """
    _check_shares(power=power)
    _check_sizes(spread=spread, margin=margin)
    alpha = ERROR_AHEAD / (_family(contenders) * _checked_looks(looks))
    if repeats < least_repeats(1.0 - alpha):
        return None
    n = max(repeats / RANK_COST, 2.0)

    def shortfall(away: float) -> float:
        return two_sample_power(n, away, spread, alpha) - power

    high = spread
    while shortfall(high) < 0.0:
        high *= 2.0
    return margin + float(optimize.brentq(shortfall, 0.0, high, xtol=1e-12))


def repeats_in(hours: float, run_time_s: float, contenders: int) -> int:
    """Complete blocks that fit into so many hours on one machine, run after run.

    Raises
    ------
    BadInputError
        If a size is not positive.
    """
    _family(contenders)
    _check_sizes(hours=hours, run_time=run_time_s)
    return math.floor(hours * 3600.0 / (run_time_s * contenders) * (1.0 + 1e-12))


@dataclass(frozen=True)
class TimeEstimate:
    """How long runs will take, in seconds; the limits hold with a chance of 90 %, None where no
    lane has two past runs."""

    runs: int
    seconds: float
    low: float | None
    high: float | None


def estimate_time(
    durations_s: Mapping[int, Sequence[float] | FloatArray], left: Mapping[int, int]
) -> TimeEstimate | None:
    """Time that the runs left will take, from past durations.

    Parameters
    ----------
    durations_s : mapping of lane number to the durations of its past runs, seconds
    left : mapping of lane number to its runs left
        A lane without past runs is taken to be like all others together.

    Returns
    -------
    TimeEstimate or None
        None where nothing was run yet: there is nothing to tell from.

    Notes
    -----
    Sum of means; the limits add the scatter of the runs and that of the means. Source: prediction
    of a sum, as in Hahn & Meeker, Statistical Intervals, 1991, section 4.8, with Student's t.
    """
    past = {lane: as_sample(values) for lane, values in durations_s.items() if len(values)}
    if not past:
        return None
    pooled = np.concatenate(list(past.values()))
    seconds = variance = 0.0
    for lane, runs in left.items():
        own = past.get(lane, pooled)
        seconds += runs * float(own.mean())
        spread = float(own.var(ddof=1)) if own.size > 1 else float(pooled.var())
        variance += runs * spread + runs**2 * spread / own.size
    count = sum(left.values())
    free = pooled.size - len(past)
    if free < 1:
        return TimeEstimate(count, seconds, None, None)
    reach = float(stats.t.ppf(0.95, free)) * math.sqrt(variance)
    return TimeEstimate(count, seconds, max(seconds - reach, 0.0), seconds + reach)
