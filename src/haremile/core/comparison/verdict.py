"""The verdict on two lanes, and on a row of several."""

import math
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import lru_cache

from haremile.core.records.interim_looks import Look
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd
from haremile.core.statistics.contrast import (
    Contrast,
    Estimate,
    chances,
    contrasts,
    exact_contrast,
    mirrored,
    stretched,
)
from haremile.core.statistics.dependence import LEAST_IN_A_ROW, upper_dependence, widening
from haremile.core.statistics.families import error_of_pair
from haremile.core.statistics.installs import Installs, contrast_of_installs
from haremile.core.statistics.lane_statistics import Interval
from haremile.core.statistics.large_lanes import Pairs
from haremile.core.statistics.paired import least_pairs, paired_contrast
from haremile.core.statistics.rank_sum import least_repeats
from haremile.core.statistics.sequential import (
    nominal_errors,
    spent_before_last,
)
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
    is_corrected : bool
        Whether the estimate allows for earlier looks, at which it could have ended.
    """

    verdict: Verdict
    lean: Verdict | None
    contrast: Contrast
    inner: Contrast
    repeats_needed: int | None
    look: Look | None = None
    dependence: float | None = None
    is_corrected: bool = False

    @property
    def is_open(self) -> bool:
        """Whether a later look may still decide it."""
        return self.verdict is Verdict.UNDECIDED


class Form(StrEnum):
    """How two lanes are compared."""

    RANKS = "ranks"
    PAIRS = "pairs"

    def attainable(self, repeats: int) -> float:
        """The smallest two-sided error that so many repeats of each can reach."""
        if self is Form.PAIRS:
            return min(2.0 ** (1 - repeats), 1.0)
        return min(2.0 / math.comb(2 * repeats, repeats), 1.0)


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

    def errors(self, look: Look | None, form: Form) -> tuple[float, float]:
        """Two-sided errors of a pair for *ahead* and *behind*, and for *level*, at a look (None
        where verdicts are read once); 0 at a look that is too early for any."""
        ahead, level = (error_of_pair(error, self.lanes) for error in (ERROR_AHEAD, ERROR_LEVEL))
        if look is None:
            return ahead, level
        deciding = self.deciding_looks(look.planned, form)
        if look.is_extension:
            part = (1.0 - spent_before_last(deciding)) / 2.0**look.extension
            return ahead * part, level * part
        if look.blocks not in deciding:
            return 0.0, 0.0
        place = deciding.index(look.blocks)
        return nominal_errors(ahead, deciding)[place], nominal_errors(level, deciding)[place]

    def deciding_looks(self, planned: tuple[int, ...], form: Form) -> tuple[int, ...]:
        """Those of the planned looks that are not too early to reach the level."""
        return _deciding_looks(self.lanes, planned, form)


@lru_cache(maxsize=512)
def _deciding_looks(lanes: int, planned: tuple[int, ...], form: Form) -> tuple[int, ...]:
    error = error_of_pair(ERROR_AHEAD, lanes)
    pairs = _not_too_early(error, planned, Form.PAIRS)
    waits = len(planned) == planned[-1] > 1 and bool(pairs) and pairs[0] <= planned[-1] / 2
    # after every block, the form is chosen where pairs can decide too; ranks wait for that
    return pairs if waits or form is Form.PAIRS else _not_too_early(error, planned, form)


def _not_too_early(error: float, planned: tuple[int, ...], form: Form) -> tuple[int, ...]:
    attainable = tuple(form.attainable(blocks) for blocks in planned)
    found = nominal_errors(error, planned, attainable)
    return tuple(blocks for blocks, one in zip(planned, found, strict=True) if one > 0.0)


def pair_verdict(
    a: FloatArray, b: FloatArray, rule: VerdictRule, look: Look | None = None
) -> PairVerdict:
    """Read the verdict of B against A.

    Parameters
    ----------
    a, b : ndarray, shapes (n_a,) and (n_b,)
        Readings in the metric's canonical unit, in run order; +infinity for a run slower than its
        time limit.
    rule : VerdictRule
    look : Look, optional
        At which it is read.
    """
    return pair_verdicts([(a, b)], rule, look)[0]


def pair_verdicts(pairs: Pairs, rule: VerdictRule, look: Look | None = None) -> list[PairVerdict]:
    """As `pair_verdict`, of many pairs (a, b) at once."""
    levels = _levels(rule, look, Form.RANKS)
    found = contrasts(pairs, levels, rule.resolution)
    return [
        _at_look(_ranked_verdict(pair, outer, inner, rule, levels[0]), rule, look, Form.RANKS)
        for pair, (outer, inner) in zip(pairs, found, strict=True)
    ]


def _levels(rule: VerdictRule, look: Look | None, form: Form) -> tuple[float, float]:
    """Of the intervals for *ahead* and *level*; those of a single look where it is too early."""
    errors = rule.errors(look, form)
    ahead, level = errors if errors[0] > 0.0 else rule.errors(None, form)
    return 1.0 - ahead, 1.0 - level


def _at_look(found: PairVerdict, rule: VerdictRule, look: Look | None, form: Form) -> PairVerdict:
    """As read at this look, which may be too early for any verdict."""
    if look is None or rule.errors(look, form)[0] > 0.0:
        return replace(found, look=look)
    deciding = rule.deciding_looks(look.planned, form)
    needed = deciding[0] if deciding else found.repeats_needed or look.blocks + 1
    return replace(found, verdict=Verdict.UNDECIDED, lean=None, repeats_needed=needed, look=look)


def _ranked_verdict(
    pair: tuple[FloatArray, FloatArray],
    outer: Contrast,
    inner: Contrast,
    rule: VerdictRule,
    level: float,
) -> PairVerdict:
    least = least_repeats(level)
    if not rule.is_in_a_row:
        return _read(outer, inner, rule, level, least)
    dependence = upper_dependence(pair)
    if dependence is None:
        return PairVerdict(Verdict.UNDECIDED, None, outer, inner, max(least, LEAST_IN_A_ROW))
    factor = widening(dependence)
    outer, inner = stretched(outer, factor), stretched(inner, factor)
    return replace(_read(outer, inner, rule, level, least), dependence=dependence)


def paired_verdict(
    a: FloatArray, b: FloatArray, rule: VerdictRule, look: Look | None = None
) -> PairVerdict:
    """As `pair_verdict`, from pairs: the i-th readings belong together, shape (n,)."""
    levels = _levels(rule, look, Form.PAIRS)
    lower, higher = chances(a, b)
    found = []
    for level in levels:
        pairs = paired_contrast(a, b, level, rule.resolution)
        found.append(
            Contrast(
                n_a=a.size,
                n_b=b.size,
                shift=pairs.shift,
                ratio=pairs.ratio,
                probability_b_lower=lower + (1.0 - higher - lower) / 2.0,
                cliffs_delta=higher - lower,
                method="signed rank",
            )
        )
    read = _read(found[0], found[1], rule, levels[0], least_pairs(levels[0]))
    return _at_look(read, rule, look, Form.PAIRS)


def installs_verdict(a: Installs, b: Installs, rule: VerdictRule) -> PairVerdict:
    """As `pair_verdict`, from several installs of each system; a is their readings by install."""
    levels = _levels(rule, None, Form.RANKS)
    outer, inner = (contrast_of_installs(a, b, level) for level in levels)
    return _read(outer, inner, rule, levels[0], 2)


def counted_verdict(a: FloatArray, b: FloatArray, rule: VerdictRule) -> PairVerdict:
    """As `pair_verdict` for counts that are exact for these installs: no repeat is needed.

    Both lanes must be constant, as `is_exact` tells.
    """
    exact = exact_contrast(a, b)
    return _read(exact, exact, rule, 1.0, 1)


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
        is_corrected=found.is_corrected,
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


def interval_verdict(outer: Interval, inner: Interval, width: float, good_end: GoodEnd) -> Verdict:
    """What the intervals of any difference b − a say, with a margin of this width; as of shifts."""
    if outer.high < -width:
        return _side(-1, good_end) or Verdict.UNDECIDED
    if outer.low > width:
        return _side(+1, good_end) or Verdict.UNDECIDED
    is_level = -width < inner.low and inner.high < width
    return Verdict.LEVEL if is_level else Verdict.UNDECIDED


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
