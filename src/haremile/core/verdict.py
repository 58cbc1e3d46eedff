"""The verdict on two lanes, and on a row of several."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from haremile.core.contrast import Contrast, Estimate, contrasts, mirrored, negated
from haremile.core.lane_statistics import Interval
from haremile.core.margin import Margin
from haremile.core.metrics import GoodEnd
from haremile.core.rank_sum import least_repeats
from haremile.core.sample import FloatArray

ERROR_AHEAD = 0.05
ERROR_LEVEL = 0.10


class Verdict(StrEnum):
    """What may be said. *Lower* and *higher* stand where a metric has no good end."""

    AHEAD = "ahead"
    BEHIND = "behind"
    LOWER = "lower"
    HIGHER = "higher"
    LEVEL = "level"
    OPEN = "open"
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
    inner : Interval
        Of the shift, at the (lower) level from which *level* is read.
    repeats_needed : int or None
        Where the level cannot be achieved with these repeats: how many it takes.
    """

    verdict: Verdict
    lean: Verdict | None
    contrast: Contrast
    inner: Interval
    repeats_needed: int | None


def pair_verdict(
    a: FloatArray,
    b: FloatArray,
    margin: Margin,
    good_end: GoodEnd,
    pairs: int = 1,
    resolution: float | None = None,
) -> PairVerdict:
    """Read the verdict of B against A.

    Parameters
    ----------
    a, b : ndarray, shapes (n_a,) and (n_b,)
        Readings in the metric's canonical unit.
    margin : Margin
        Its amount in the same unit.
    pairs : int
        How many pairs the family holds; errors are shared out over them (Bonferroni), so that
        the picture, the sentence and any change of baseline agree.
    resolution : float, optional
        The instrument's step. The margin is never taken finer.
    """
    level_ahead = 1.0 - ERROR_AHEAD / pairs
    levels = (level_ahead, 1.0 - ERROR_LEVEL / pairs)
    outer, narrow = contrasts(a, b, levels, resolution)
    needed = (
        least_repeats(level_ahead) if min(a.size, b.size) < least_repeats(level_ahead) else None
    )
    achieved = outer.shift.interval.level >= level_ahead - 1e-12
    verdict = Verdict.OPEN
    lean = None
    if achieved and margin.is_stated:
        limits = _zone(margin, resolution)
        verdict = _decide(outer, narrow, limits, good_end)
    if verdict is Verdict.OPEN and achieved:
        lean = _side(_sign(outer.shift.interval), good_end)
    unreached = None if achieved else (needed or least_repeats(level_ahead))
    return PairVerdict(verdict, lean, outer, narrow.shift.interval, unreached)


def mirrored_pair(found: PairVerdict) -> PairVerdict:
    """The verdict on A against B, from that on B against A."""
    return PairVerdict(
        verdict=found.verdict.mirrored,
        lean=found.lean and found.lean.mirrored,
        contrast=mirrored(found.contrast),
        inner=negated(found.inner),
        repeats_needed=found.repeats_needed,
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


def _decide(outer: Contrast, narrow: Contrast, zone: _Zone, good_end: GoodEnd) -> Verdict:
    wide, close = _bounds(outer, zone), _bounds(narrow, zone)
    if wide and all(estimate.interval.high < low for estimate, low, _ in wide):
        return _side(-1, good_end) or Verdict.OPEN
    if wide and all(estimate.interval.low > high for estimate, _, high in wide):
        return _side(+1, good_end) or Verdict.OPEN
    for estimate, low, high in close:
        if low < estimate.interval.low and estimate.interval.high < high:
            return Verdict.LEVEL
    return Verdict.OPEN


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
    return RowVerdict(Verdict.LEVEL if level else Verdict.OPEN, None, first)


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
