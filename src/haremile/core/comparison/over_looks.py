"""Verdicts that are read at several looks, and what an early end does to an estimate."""

import hashlib
import math
import threading
from collections import OrderedDict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

import numpy as np
from scipy import special

from haremile.core.comparison.verdict import (
    ERROR_AHEAD,
    Form,
    PairVerdict,
    VerdictRule,
    pair_verdicts,
    paired_verdict,
)
from haremile.core.records.interim_looks import InterimLooks, Look
from haremile.core.statistics.contrast import Contrast, Estimate
from haremile.core.statistics.families import error_of_pair
from haremile.core.statistics.lane_statistics import Interval
from haremile.core.statistics.sequential import (
    Ended,
    median_unbiased,
    nominal_errors,
    spent_before_last,
)
from haremile.core.statistics.validation import FloatArray

MOST_KEPT = 100_000
"""Pairs at looks that are known to be open."""


def most_error(looks: InterimLooks | None) -> float:
    """What all looks together may spend, as a share: 1 for a plan that was kept."""
    if looks is None:
        return 1.0
    last = 1.0 - spent_before_last(looks.planned)
    return 1.0 + last * (1.0 - 0.5 ** len(looks.extensions))


class _KnownOpen:
    """Pairs that an earlier look left open: a study is read again after each of its runs, and what
    was open at a look stays so while its readings stand."""

    def __init__(self) -> None:
        self._names: OrderedDict[bytes, None] = OrderedDict()
        self._guard = threading.Lock()

    def holds(self, name: bytes) -> bool:
        with self._guard:
            return name in self._names

    def keep(self, names: Iterable[bytes]) -> None:
        with self._guard:
            for name in names:
                self._names[name] = None
            while len(self._names) > MOST_KEPT:
                self._names.popitem(last=False)


_known_open = _KnownOpen()


def _name(rule: VerdictRule, look: Look | None, form: Form, a: FloatArray, b: FloatArray) -> bytes:
    """What stands for two lanes as a look reads them."""
    whole = hashlib.blake2b(f"{hash((rule, look, form))} {a.size}".encode(), digest_size=16)
    whole.update(a.tobytes())
    whole.update(b.tobytes())
    return whole.digest()


def verdicts_over_looks(
    at_looks: Sequence[tuple[Look | None, Mapping[int, FloatArray]]],
    pairs: Sequence[tuple[int, int]],
    rule: VerdictRule,
    form: Form = Form.RANKS,
) -> dict[tuple[int, int], PairVerdict]:
    """The verdict of each pair at the first look that reaches one, which stands; else that of the
    last.

    Parameters
    ----------
    at_looks : sequence of (look, readings by lane)
        The looks taken so far, in order, each with the readings of its blocks; one without a look
        where verdicts are read once.
    pairs : sequence of (a, b)
        Lanes; b is set against a.
    rule : VerdictRule
    form : Form
        One for all looks; in pairs the i-th readings of lanes belong together.
    """
    found: dict[tuple[int, int], PairVerdict] = {}
    read: dict[tuple[int, int], tuple[FloatArray, FloatArray]] = {}
    left = list(pairs)
    for place, (look, lanes) in enumerate(at_looks):
        is_last = place == len(at_looks) - 1
        if look is not None and not is_last and rule.errors(look, form)[0] <= 0.0:
            continue
        there = [(a, b) for a, b in left if a in lanes and b in lanes]
        named = () if look is None else there
        names = {(a, b): _name(rule, look, form, lanes[a], lanes[b]) for a, b in named}
        asked = [pair for pair in there if is_last or not _known_open.holds(names[pair])]
        samples = [(lanes[a], lanes[b]) for a, b in asked]
        if form is Form.PAIRS:
            judged = [paired_verdict(a, b, rule, look) for a, b in samples]
        else:
            judged = pair_verdicts(samples, rule, look)
        found |= zip(asked, judged, strict=True)
        read |= zip(asked, samples, strict=True)
        left = [pair for pair in left if pair not in found or found[pair].is_open]
        _known_open.keep(name for pair, name in names.items() if pair in left)
    return {pair: _corrected(one, rule, form, read[pair]) for pair, one in found.items()}


def _corrected(
    pair: PairVerdict, rule: VerdictRule, form: Form, sample: tuple[FloatArray, FloatArray]
) -> PairVerdict:
    """With the estimate that belongs to a plan of several looks: what was told early looked larger
    than it is."""
    look, shift = pair.look, pair.contrast.shift
    half = shift.interval.width / 2.0
    if look is None or not 0.0 < half < math.inf or not math.isfinite(shift.value):
        return pair
    deciding = rule.deciding_looks(look.planned, form)
    before = [blocks for blocks in deciding if blocks < look.blocks]
    error = rule.errors(look, form)[0]
    if not before or error <= 0.0:
        return pair
    ahead = error_of_pair(ERROR_AHEAD, rule.lanes)
    limits = [-float(special.ndtri(one / 2.0)) for one in (*nominal_errors(ahead, deciding), error)]
    limits = [*limits[: len(before)], limits[-1]]
    typical = min(float(np.median(lane)) for lane in sample)
    unit = half / limits[-1] * math.sqrt(look.blocks)
    ended = Ended(
        (*before, look.blocks),
        tuple(limits),
        round(rule.margin.width(typical) / unit, 3),
        round(shift.value / unit, 3),
    )
    share = unit * median_unbiased(ended) / shift.value if shift.value else 1.0
    return replace(
        pair,
        contrast=_moved(pair.contrast, share),
        inner=_moved(pair.inner, share),
        is_corrected=True,
    )


def _moved(found: Contrast, share: float) -> Contrast:
    """With estimates that are so many times as large, those of the ratio on logarithms; never
    beyond the interval."""
    ratio = found.ratio
    if ratio is not None and ratio.value > 0.0:
        ratio = _placed(math.exp(math.log(ratio.value) * share), ratio.interval)
    shift = _placed(found.shift.value * share, found.shift.interval)
    return replace(found, shift=shift, ratio=ratio)


def _placed(value: float, interval: Interval) -> Estimate:
    return Estimate(min(max(value, interval.low), interval.high), interval)
