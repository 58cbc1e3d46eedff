"""Differences of two contenders, so that direction and per cent are never ambiguous."""

import math
from collections.abc import Sequence

from haremile.core.comparison.verdict import PairVerdict, Verdict
from haremile.core.records.interim_looks import Look
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import Metric
from haremile.core.records.units import Scale, scale_for
from haremile.core.statistics.contrast import Contrast
from haremile.core.wording.numbers import POSSESSED, direction, in_points, range_of, share_text
from haremile.core.wording.verdicts import verdict_text


def margin_text(margin: Margin, unit: str) -> str:
    """The margin in words: ``0.5 s or 3 %, whichever is wider``."""
    parts = []
    if margin.amount is not None:
        scale = scale_for(unit, margin.amount)
        figure = f"{margin.amount / scale.factor:.{scale.decimals}f}"
        figure = figure.rstrip("0").rstrip(".") if "." in figure else figure
        parts.append(f"{figure} {scale.label}".rstrip())
    if margin.share is not None:
        parts.append(f"{margin.share * 100:g} %")
    if not parts:
        return "none stated"
    return parts[0] if len(parts) == 1 else f"{parts[0]} or {parts[1]}, whichever is wider"


def shift_text(metric: Metric, found: Contrast, scale: Scale) -> str:
    """The shift of B against A: ``typically 3.7 s sooner (3.5 to 4.0)``."""
    value, scale = found.shift.value, in_points(metric, scale)
    if value == math.inf:
        return f"typically beyond the time limit, {direction(metric, value)}"
    if value == -math.inf:
        return f"typically {direction(metric, value)}: the other is beyond the time limit"
    if value == 0:
        return f"typically no difference ({range_of(found.shift, scale)})"
    size = scale.at_least_one_step(value)
    return f"typically {size} {direction(metric, value)} ({range_of(found.shift, scale)})"


def difference_text(metric: Metric, a: str, b: str, found: Contrast, scale: Scale) -> str:
    """B against A with estimate, interval and per cent, without a full stop."""
    text = f"{b} against {a}: {shift_text(metric, found, scale)}"
    if found.ratio is not None and math.isfinite(found.shift.value):
        what = POSSESSED.get(metric.unit, "amount")
        verb = "takes" if metric.unit in POSSESSED else "has"
        text += f"; it {verb} {share_text(found.ratio.value, f'{a}’s {what}')}"
    return text


def difference_sentence(
    metric: Metric, a: str, b: str, found: Contrast, scale: Scale, incidents: Sequence[str] = ()
) -> str:
    """B against A where no margin was stated, so that nothing is judged."""
    return "; ".join([difference_text(metric, a, b, found, scale), *incidents]) + "."


def pair_sentence(
    metric: Metric, a: str, b: str, pair: PairVerdict, scale: Scale, incidents: Sequence[str] = ()
) -> str:
    """B against A with estimate, interval, per cent, verdict, and failures beside it."""
    read = pair.inner if pair.verdict is Verdict.LEVEL else pair.contrast
    text = difference_text(metric, a, b, read, scale)
    judged = "; ".join([_judgement(metric, pair), *incidents])
    return f"{text}. {judged}."


def _judgement(metric: Metric, pair: PairVerdict) -> str:
    if pair.repeats_needed is not None:
        text = f"Too few repeats for a verdict: it takes {pair.repeats_needed} of each"
    elif pair.verdict is Verdict.UNDECIDED:
        lean = f", leaning to {verdict_text(pair.lean, metric)}" if pair.lean else ""
        text = f"Undecided{lean}"
    else:
        text = verdict_text(pair.verdict, metric).capitalize()
    return text if pair.look is None else text + _look_text(pair.look, pair.verdict)


def _look_text(look: Look, verdict: Verdict) -> str:
    """At which look it was read, and that an extension was needed."""
    read = "still undecided" if verdict is Verdict.UNDECIDED else "read"
    extended = ", extended" if look.is_extension else ""
    return f", {read} after block {look.blocks}{extended}"
