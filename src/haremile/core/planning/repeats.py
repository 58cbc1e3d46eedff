"""How many repeats a verdict takes, and what given repeats can tell."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy import optimize, special, stats

from haremile.core.comparison.verdict import ERROR_AHEAD, ERROR_LEVEL
from haremile.core.planning.scatter import Scatter
from haremile.core.planning.simulated_rule import (
    SIMULATED_UP_TO,
    called_level,
    leader_from,
    told,
    told_from,
)
from haremile.core.statistics.families import error_of_pair
from haremile.core.statistics.rank_sum import least_repeats
from haremile.core.statistics.sequential import LooksCost, looks_cost
from haremile.core.statistics.validation import FloatArray, as_sample
from haremile.errors import BadInputError

MOST_REPEATS = 100_000
MOST_LOOKS = 60
MIDDLES = 20_000
"""Draws of all lanes' middles at once."""


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
    once, typical : int or None
        What one look would take, and at how many the looks tell such a difference on average; None
        with a single look, or where the aim is ``level``.
    """

    aim: str
    repeats: int | None
    family: int
    looks: int = 1
    once: int | None = None
    typical: int | None = None


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


def _error(error: float, contenders: int) -> float:
    """Two-sided error of a pair."""
    _family(contenders)
    return error_of_pair(error, contenders)


def cost_of_looks(
    looks: int, contenders: int, power: float, aim_error: float = ERROR_AHEAD
) -> LooksCost:
    """What so many looks, evenly spread over the repeats, cost against reading once; more than 60
    are taken to cost what 60 do.

    Raises
    ------
    BadInputError
        If there is no look, or there are fewer than two contenders.
    """
    if looks < 1:
        raise BadInputError(f"a plan needs one look at least, not {looks}")
    every = tuple(range(1, min(looks, MOST_LOOKS) + 1))
    return looks_cost(_error(aim_error, contenders), every, power)


def two_sample_power(n: float, difference: float, sd: float, alpha: float = 0.05) -> float:
    """Chance that a two-sided t test at `alpha` finds `difference` with n in each lane.

    The tiny chance of rejecting on the wrong side is left out. Source: Cohen, Statistical Power
    Analysis, 2nd ed., chapter 2; noncentral t.
    """
    df = 2.0 * (n - 1.0)
    limit = -float(special.stdtrit(df, alpha / 2.0))
    away = abs(difference) / sd * math.sqrt(n / 2.0)
    missed = float(special.nctdtr(df, away, limit))
    if math.isnan(missed):  # beyond what that series reaches
        return float(stats.nct.sf(limit, df, away))
    return 1.0 - missed


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
    tail: float = 0.0,
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
    tail : float
        Of the scatter, as in `Scatter`.

    Raises
    ------
    BadInputError
        If a size is not positive, a share not between 0 and 1, or a count too small.

    Notes
    -----
    *Ahead* needs the interval of the family's 95 % beyond the margin, *level* both ends of that of
    its 90 % inside: what is missed at either end adds up. The t test's figures are raised by the
    cost of ranks; up to 30 repeats the rule itself is simulated.
    """
    family = _family(contenders)
    _check_sizes(spread=spread, margin=margin)
    _check_shares(power=power)
    size = abs(difference)
    away = size - margin
    aim = "ahead" if away > 0 else "level"
    if abs(away) < 1e-9 * margin:
        return RepeatsPlan("ahead", None, family, looks)
    aim_error = ERROR_AHEAD if away > 0 else ERROR_LEVEL
    alpha = _error(aim_error, contenders)
    cost = cost_of_looks(looks, contenders, power, aim_error)
    least = least_repeats(1.0 - _error(ERROR_AHEAD, contenders))
    first = _at_one_look(Scatter(spread, tail), margin, size, power, alpha, least)
    if first is None:
        return RepeatsPlan(aim, None, family, looks)
    if looks == 1:
        return RepeatsPlan(aim, first, family)
    typical = math.ceil(first * cost.typical) if away > 0 else None
    return RepeatsPlan(aim, math.ceil(first * cost.most), family, looks, first, typical)


def _at_one_look(
    scatter: Scatter, margin: float, size: float, power: float, alpha: float, least: int
) -> int | None:
    """Repeats where the verdict is read once; None where it takes more than may be planned."""
    spread = scatter.sd
    if size > margin:
        needed = two_sample_repeats(size - margin, spread, power, alpha)
    else:
        needed = _level_repeats(margin, size, spread, power, alpha)
    repeats = math.ceil(needed * scatter.rank_cost)
    if repeats > MOST_REPEATS:
        return None
    first = max(repeats, least)
    if first <= SIMULATED_UP_TO:
        shape = (margin / spread, size / spread, scatter.tail)
        first = _by_the_rule(first, least, alpha, power, shape)
    return first


def _level_repeats(margin: float, size: float, spread: float, power: float, alpha: float) -> float:
    """Repeats by which both ends of the interval lie inside the margin with this chance: what is
    missed at the near end and what is missed at the far one add up."""

    def missed(n: float) -> float:
        near = 1.0 - two_sample_power(n, margin - size, spread, alpha)
        is_middle = size == 0.0
        far = near if is_middle else 1.0 - two_sample_power(n, margin + size, spread, alpha)
        return near + far - (1.0 - power)

    if missed(2.0) <= 0.0:
        return 2.0
    high = 4.0
    while missed(high) > 0.0:
        high *= 2.0
        if high > 2.0 * MOST_REPEATS:
            return high
    return float(optimize.brentq(missed, max(high / 2.0, 2.0), high, xtol=1e-4))


def _by_the_rule(
    first: int, least: int, alpha: float, power: float, shape: tuple[float, float, float]
) -> int:
    """The fewest repeats, near those that the formula gives, with which the rule itself has this
    chance; `shape` is margin and difference in standard deviations, and the tail."""
    margin, size, tail = shape

    def keeps(n: int) -> bool:
        if n > SIMULATED_UP_TO:
            return True
        if size > margin:
            return told(n, alpha, size - margin, tail) >= power
        return called_level(n, alpha, margin, size, tail) >= power

    repeats = first
    while repeats > least and keeps(repeats - 1):
        repeats -= 1
    while not keeps(repeats):
        repeats += 1
    return repeats


def smallest_difference(
    spread: float,
    margin: float,
    repeats: int,
    power: float = 0.9,
    contenders: int = 2,
    looks: int = 1,
    tail: float = 0.0,
) -> float | None:
    """Smallest true difference of a pair that `repeats` of each contender tell apart with `power`.

    None where so few can never reach the level. Up to 30 repeats by simulating the rule, beyond
    them by the t test's power raised by the cost of ranks.
    """
    alpha, is_possible = _shared_error(spread, margin, repeats, power, contenders)
    most = cost_of_looks(looks, contenders, power).most
    if not is_possible:
        return None
    if repeats <= SIMULATED_UP_TO:
        return margin + spread * told_from(repeats, alpha, power, tail) * math.sqrt(most)
    n = repeats / (Scatter(spread, tail).rank_cost * most)

    def shortfall(away: float) -> float:
        return two_sample_power(n, away, spread, alpha) - power

    high = spread
    while shortfall(high) < 0.0:
        high *= 2.0
    return margin + float(optimize.brentq(shortfall, 0.0, high, xtol=1e-12))


def leader_difference(
    spread: float,
    margin: float,
    repeats: int,
    power: float = 0.9,
    contenders: int = 2,
    looks: int = 1,
    tail: float = 0.0,
) -> float | None:
    """How far a leader has to lie from every other contender to be told from all of them at once
    with `power`; as `smallest_difference`. Beyond 30 repeats by drawing the lanes' middles."""
    alpha, is_possible = _shared_error(spread, margin, repeats, power, contenders)
    most = cost_of_looks(looks, contenders, power).most
    if not is_possible:
        return None
    if repeats <= SIMULATED_UP_TO:
        away = leader_from(repeats, contenders, alpha, power, tail)
        return margin + spread * away * math.sqrt(most)
    generator = np.random.default_rng([repeats, contenders])
    cost = Scatter(spread, tail).rank_cost * most / repeats
    middles = generator.normal(size=(MIDDLES, contenders)) * math.sqrt(cost)
    reach = float(stats.t.isf(alpha / 2.0, 2.0 * (repeats - 1.0)))
    low = middles[:, 1:].min(axis=1) - middles[:, 0] - reach * math.sqrt(2.0 * cost)
    return margin + spread * max(float(np.quantile(-low, power)), 0.0)


def _shared_error(
    spread: float, margin: float, repeats: int, power: float, contenders: int
) -> tuple[float, bool]:
    """The error of one interval, and whether so many repeats can reach its level."""
    _check_shares(power=power)
    _check_sizes(spread=spread, margin=margin)
    alpha = _error(ERROR_AHEAD, contenders)
    return alpha, repeats >= least_repeats(1.0 - alpha)


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
