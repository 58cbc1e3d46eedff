"""Figures, shares, ranges and lists as they stand in sentences."""

import math
from collections.abc import Sequence
from dataclasses import replace

from haremile.core.records.metrics import Metric
from haremile.core.records.units import Scale
from haremile.core.statistics.contrast import Estimate

_COMPARED = {"s": ("sooner", "later"), "B": ("less", "more"), "1": ("fewer", "more")}


POSSESSED = {"s": "time", "counted_s": "work"}


def direction(metric: Metric, sign: float) -> str:
    """Which way a difference goes, in the word of its unit: ``sooner``, ``less``, ``lower``."""
    low, high = _COMPARED.get(metric.unit, ("lower", "higher"))
    return low if sign < 0 else high


def share_text(ratio: float, of_what: str) -> str:
    """A ratio as whole per cent, said both ways: ``82 % of A’s time (18 % less)``."""
    if math.isinf(ratio):
        return f"more than any share of {of_what}"
    whole = round(ratio * 100)
    if whole == 100:
        return f"about 100 % of {of_what}"
    return f"{whole} % of {of_what} ({abs(whole - 100)} % {'less' if whole < 100 else 'more'})"


def range_of(estimate: Estimate, scale: Scale) -> str:
    """Limits in the direction of the estimate: sizes if both lie on its side, else signed."""
    low, high = estimate.interval.low, estimate.interval.high
    if math.isinf(low) or math.isinf(high):
        return _open_ended(low, high, scale)
    scale = finer_scale(scale, low, high)
    if estimate.value != 0.0 and (low >= 0 or high <= 0):
        sizes = sorted((abs(low), abs(high)))
        return f"{scale.number(sizes[0])} to {scale.number(sizes[1])}"
    return f"{_signed(low, scale)} to {_signed(high, scale)}"


MORE_DECIMALS = 3


def finer_scale(scale: Scale, *values: float) -> Scale:
    """With as many decimals as it takes that no value but zero is written as zero."""
    for more in range(MORE_DECIMALS):
        finer = replace(scale, decimals=scale.decimals + more)
        if not any(value and not float(_figure(finer, value)) for value in values):
            return finer
    return replace(scale, decimals=scale.decimals + MORE_DECIMALS)


def _figure(scale: Scale, value: float) -> str:
    return f"{abs(value) / scale.factor:.{scale.decimals}f}"


def _open_ended(low: float, high: float, scale: Scale) -> str:
    """Where runs that timed out leave a limit open."""
    if math.isinf(low) and math.isinf(high):
        return "no limit either way"
    if math.isinf(high):
        return f"{_signed(low, scale)} or higher"
    return f"{_signed(high, scale)} or lower"


def _signed(value: float, scale: Scale) -> str:
    text = scale.number(value)
    return text if value <= 0 or text.startswith("−") else f"+{text}"


def in_points(metric: Metric, scale: Scale) -> Scale:
    """Differences of shares are points: per cent of what, otherwise?"""
    return replace(scale, label="points") if metric.unit == "share" else scale


def size_text(metric: Metric, shift: float, scale: Scale) -> str:
    """A difference as a size, with its unit."""
    return (
        "more than the limit"
        if math.isinf(shift)
        else in_points(metric, scale).at_least_one_step(shift)
    )


def listed(names: Sequence[str]) -> str:
    """Names in a row: ``A, B and C``."""
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def count(number: int, what: str) -> str:
    """A number of things: ``1 row``, ``2 rows``."""
    return f"{number} {what}" if number == 1 else f"{number} {what}s"


def of_runs(number: int, runs: str) -> str:
    """So many runs by their name: ``1 boot``, ``20 launches``."""
    if number != 1:
        return f"{number} {runs}"
    return f"1 {runs.removesuffix('es') if runs.endswith('ches') else runs.removesuffix('s')}"


def capital(text: str) -> str:
    """With a capital first letter."""
    return text[:1].upper() + text[1:]


def duration_text(seconds: float) -> str:
    """Whole seconds below two minutes, minutes below three hours, else hours."""
    if seconds < 120:
        return f"{seconds:.0f} s"
    return f"{seconds / 60:.0f} min" if seconds < 3 * 3600 else f"{seconds / 3600:.1f} h"
