"""The verdict on two lanes, and on a row of several."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from haremile.core.records.interim_looks import Look
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd
from haremile.core.statistics.contrast import (
    Contrast,
    Estimate,
    contrast,
    contrasts,
    exact_contrast,
    mirrored,
    stretched,
)
from haremile.core.statistics.dependence import LEAST_IN_A_ROW, upper_dependence, widening
from haremile.core.statistics.families import error_of_pair
from haremile.core.statistics.installs import Installs, contrast_of_installs
from haremile.core.statistics.lane_statistics import Interval
from haremile.core.statistics.paired import least_pairs, paired_contrast
from haremile.core.statistics.rank_sum import least_repeats
from haremile.core.statistics.validation import FloatArray

ERROR_AHEAD = 0.05
ERROR_LEVEL = 0.10


class Verdict(StrEnum):
    """What may be said. *Lower* and *higher* stand where a metric has no good end."""

    AHEAD = "ahead"
    BEHIND = "behind"
    LOWER = "lower"
    HIGHER = "higher"
    LEVEL = "level"
    UNDECIDED = "undecided"
    NOT_COMPARABLE = "not comparable"

    @property
    def mirrored(self) -> "Verdict":
        """The verdict of A against B, given that of B against A."""
        return _MIRROR.get(self, self)

    @property
    def is_decided_difference(self) -> bool:
        """Whether the two lanes were told apart."""
        return self in _MIRROR


_MIRROR = {
    Verdict.AHEAD: Verdict.BEHIND,
    Verdict.BEHIND: Verdict.AHEAD,
    Verdict.LOWER: Verdict.HIGHER,
    Verdict.HIGHER: Verdict.LOWER,
}


@dataclass(frozen=True)
class PairVerdict:
    """B against A within a family of pairs.

    Attributes
    ----------
    verdict : Verdict
    lean : Verdict or None
        For an open pair whose interval excludes zero: the side it leans to.
    contrast : Contrast
        At the level from which *ahead* and *behind* are read.
    inner : Contrast
        At the (lower) level from which *level* is read.
    repeats_needed : int or None
        Where the level cannot be achieved with these repeats: how many it takes.
    look : Look or None
        The look at which the verdict was reached, or the last one taken; None where no looks
        are declared.
    dependence : float or None
        The upper limit of the lag-1 autocorrelation by which the intervals were widened; None
        where runs were shuffled, or are too few in a row.
    """

    verdict: Verdict
    lean: Verdict | None
    contrast: Contrast
    inner: Contrast
    repeats_needed: int | None
    look: Look | None = None
    dependence: float | None = None


@dataclass(frozen=True)
class VerdictRule:
    """What a verdict is read by.

    Attributes
    ----------
    margin : Margin
        Its amount in the metric's canonical unit.
    good_end : GoodEnd
    lanes : int
        How many lanes the family holds; the error is shared out over all their pairs from one
        joint distribution, so that picture, sentence and any change of baseline agree.
    resolution : float or None
        The instrument's step. The margin is never taken finer.
    is_in_a_row : bool
        Whether each lane's runs followed one another, unshuffled: nothing is decided by fewer than
        20 of them, and the intervals of more are widened by how far one may resemble the next.
    """

    margin: Margin
    good_end: GoodEnd
    lanes: int = 2
    resolution: float | None = None
    is_in_a_row: bool = False

    def levels(self, share: float = 1.0) -> tuple[float, float]:
        """For *ahead* and *behind*, and for *level*, at a look with this share of the error."""
        return (
            1.0 - error_of_pair(ERROR_AHEAD * share, self.lanes),
            1.0 - error_of_pair(ERROR_LEVEL * share, self.lanes),
        )


def pair_verdict(
    a: FloatArray, b: FloatArray, rule: VerdictRule, share: float = 1.0
) -> PairVerdict:
    """Read the verdict of B against A.

    Parameters
    ----------
    a, b : ndarray, shapes (n_a,) and (n_b,)
        Readings in the metric's canonical unit, in run order; +infinity for a run slower than its
        time limit.
    rule : VerdictRule
    share : float
        Of the error, that this look may spend.
    """
    levels = rule.levels(share)
    outer, inner = contrasts(a, b, levels, rule.resolution)
    least = least_repeats(levels[0])
    if not rule.is_in_a_row:
        return _read(outer, inner, rule, levels[0], least)
    dependence = upper_dependence([a, b])
    if dependence is None:
        return PairVerdict(Verdict.UNDECIDED, None, outer, inner, max(least, LEAST_IN_A_ROW))
    factor = widening(dependence)
    outer, inner = stretched(outer, factor), stretched(inner, factor)
    return replace(_read(outer, inner, rule, levels[0], least), dependence=dependence)


def paired_verdict(
    a: FloatArray, b: FloatArray, rule: VerdictRule, share: float = 1.0
) -> PairVerdict:
    """As `pair_verdict`, from pairs: the i-th readings belong together, shape (n,)."""
    levels = rule.levels(share)
    found = []
    for level in levels:
        pairs = paired_contrast(a, b, level, rule.resolution)
        plain = contrast(a, b, level, rule.resolution)
        found.append(replace(plain, shift=pairs.shift, ratio=pairs.ratio, method="signed rank"))
    return _read(found[0], found[1], rule, levels[0], least_pairs(levels[0]))


def installs_verdict(a: Installs, b: Installs, rule: VerdictRule) -> PairVerdict:
    """As `pair_verdict`, from several installs of each system; a is their readings by install."""
    outer, inner = (contrast_of_installs(a, b, level) for level in rule.levels())
    return _read(outer, inner, rule, rule.levels()[0], 2)


def counted_verdict(a: FloatArray, b: FloatArray, rule: VerdictRule) -> PairVerdict:
    """As `pair_verdict` for counts that are exact for these installs: no repeat is needed.

    Both lanes must be constant, as `is_exact` tells.
    """
    exact = exact_contrast(a, b)
    return _read(exact, exact, rule, 1.0, 1)


def verdict_over_looks(
    readings: Sequence[tuple[Look, FloatArray, FloatArray]],
    rule: VerdictRule,
    are_pairs: bool = False,
) -> PairVerdict:
    """The verdict at the first look that reaches one, which stands; else that of the last.

    Parameters
    ----------
    readings : sequence of (look, a, b)
        The looks taken so far, in order, each with the readings of its blocks.
    rule : VerdictRule
    are_pairs : bool
        Whether the i-th readings belong together; one form for all looks.
    """
    judge = paired_verdict if are_pairs else pair_verdict
    for look, a, b in readings:
        found = replace(judge(a, b, rule, look.share), look=look)
        if found.verdict is not Verdict.UNDECIDED:
            break
    return found


def _read(
    outer: Contrast, inner: Contrast, rule: VerdictRule, level: float, least: int
) -> PairVerdict:
    achieved = outer.shift.interval.level >= level - 1e-12
    verdict, lean = Verdict.UNDECIDED, None
    if achieved and rule.margin.is_stated:
        limits = _zone(rule.margin, rule.resolution)
        verdict = _decide(outer, inner, limits, rule.good_end)
    if verdict is Verdict.UNDECIDED and achieved:
        lean = _side(_sign(outer.shift.interval), rule.good_end)
    return PairVerdict(verdict, lean, outer, inner, None if achieved else least)


def mirrored_pair(found: PairVerdict) -> PairVerdict:
    """The verdict on A against B, from that on B against A."""
    return PairVerdict(
        verdict=found.verdict.mirrored,
        lean=found.lean and found.lean.mirrored,
        contrast=mirrored(found.contrast),
        inner=mirrored(found.inner),
        repeats_needed=found.repeats_needed,
        look=found.look,
        dependence=found.dependence,
    )


@dataclass(frozen=True)
class _Zone:
    amount: float | None
    share: float | None


def _zone(margin: Margin, resolution: float | None) -> _Zone:
    amount = margin.amount
    if amount is not None and resolution:
        amount = max(amount, resolution)
    return _Zone(amount, margin.share)


def _bounds(found: Contrast, zone: _Zone) -> list[tuple[Estimate, float, float]]:
    bounds = []
    if zone.amount is not None:
        bounds.append((found.shift, -zone.amount, zone.amount))
    if zone.share is not None and found.ratio is not None:
        bounds.append((found.ratio, 1.0 / (1.0 + zone.share), 1.0 + zone.share))
    return bounds


def deciding_interval(pair: PairVerdict, rule: VerdictRule) -> tuple[str, Interval]:
    """The interval from which *level* is read, on the scale of the wider margin.

    Returns
    -------
    (scale, interval)
        ``amount``, in the unit of the readings, or ``ratio``; ``amount`` also where no margin is
        stated. Where both kinds of margin are stated: the one
        that holds the interval, else ``amount``.
    """
    zone, found = _zone(rule.margin, rule.resolution), pair.inner
    if zone.share is None or found.ratio is None:
        return "amount", found.shift.interval
    if zone.amount is None:
        return "ratio", found.ratio.interval
    inside = {
        "amount": _is_inside(found.shift, -zone.amount, zone.amount),
        "ratio": _is_inside(found.ratio, 1.0 / (1.0 + zone.share), 1.0 + zone.share),
    }
    if inside["ratio"] and not inside["amount"]:
        return "ratio", found.ratio.interval
    return "amount", found.shift.interval


def _is_inside(estimate: Estimate, low: float, high: float) -> bool:
    return low < estimate.interval.low and estimate.interval.high < high


def _decide(outer: Contrast, narrow: Contrast, zone: _Zone, good_end: GoodEnd) -> Verdict:
    wide, close = _bounds(outer, zone), _bounds(narrow, zone)
    if wide and all(estimate.interval.high < low for estimate, low, _ in wide):
        return _side(-1, good_end) or Verdict.UNDECIDED
    if wide and all(estimate.interval.low > high for estimate, _, high in wide):
        return _side(+1, good_end) or Verdict.UNDECIDED
    for estimate, low, high in close:
        if _is_inside(estimate, low, high):
            return Verdict.LEVEL
    return Verdict.UNDECIDED


def _sign(interval: Interval) -> int:
    return int(interval.low > 0) - int(interval.high < 0)


def _side(sign: int, good_end: GoodEnd) -> Verdict | None:
    if sign == 0:
        return None
    if good_end is GoodEnd.NONE:
        return Verdict.LOWER if sign < 0 else Verdict.HIGHER
    good = (sign < 0) == (good_end is GoodEnd.LOW)
    return Verdict.AHEAD if good else Verdict.BEHIND


@dataclass(frozen=True)
class RowVerdict:
    """What a row of several lanes says.

    `leader` is the lane ahead of (or lower than) every other, else None. `first_group` holds the
    lanes that no other is decidedly ahead of, in lane order.
    """

    verdict: Verdict
    leader: int | None
    first_group: tuple[int, ...]


def _both_ways(pairs: Mapping[tuple[int, int], PairVerdict]) -> dict[tuple[int, int], Verdict]:
    against = {(a, b): found.verdict for (a, b), found in pairs.items()}
    for (a, b), verdict in list(against.items()):
        against.setdefault((b, a), verdict.mirrored)
    return against


def row_verdict(lanes: Sequence[int], pairs: Mapping[tuple[int, int], PairVerdict]) -> RowVerdict:
    """Put all pair verdicts of a row together.

    Parameters
    ----------
    lanes : sequence of int
        Lane numbers with readings.
    pairs : mapping of (a, b) to the verdict of b against a
        Each unordered pair once or twice.
    """
    against = _both_ways(pairs)
    wins = (Verdict.AHEAD, Verdict.LOWER)
    for lane in lanes:
        others = [against[(other, lane)] for other in lanes if other != lane]
        if others and all(verdict in wins for verdict in others):
            return RowVerdict(others[0], lane, (lane,))
    first = tuple(
        lane
        for lane in lanes
        if not any(against[(lane, other)] in wins for other in lanes if other != lane)
    )
    every = [against[(a, b)] for a in lanes for b in lanes if a != b]
    level = bool(every) and all(verdict is Verdict.LEVEL for verdict in every)
    return RowVerdict(Verdict.LEVEL if level else Verdict.UNDECIDED, None, first)


@dataclass(frozen=True)
class Standing:
    """Places that a lane may hold among all, given what is decided."""

    lane: int
    best: int
    worst: int


def standings(
    lanes: Sequence[int], pairs: Mapping[tuple[int, int], PairVerdict]
) -> tuple[Standing, ...]:
    """From 1 + those decidedly ahead to k − those decidedly behind, in order of lanes.

    Parameters
    ----------
    lanes : sequence of int
    pairs : mapping of (a, b) to the verdict of b against a
        Each unordered pair once or twice, all from one family.
    """
    against = _both_ways(pairs)
    wins, losses = (Verdict.AHEAD, Verdict.LOWER), (Verdict.BEHIND, Verdict.HIGHER)
    places = []
    for lane in lanes:
        mine = [against[(other, lane)] for other in lanes if other != lane]
        ahead_of_it = sum(verdict in losses for verdict in mine)
        behind_it = sum(verdict in wins for verdict in mine)
        places.append(Standing(lane, 1 + ahead_of_it, len(lanes) - behind_it))
    return tuple(places)
