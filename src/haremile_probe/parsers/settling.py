"""When a machine has settled after boot."""

from typing import NamedTuple, Optional, Sequence

from haremile_probe.parsers import UnreadableError

FEWEST = 4
"""Numbers that every probe has written down of its rule."""


class SettleRule(NamedTuple):
    """Settled when, over the last window, level and range keep still.

    `slope_share` is the largest drift over the window (Theil–Sen slope times window) and
    `range_share` the largest range within it, as shares of the level; `timeout_s` says when waiting
    ends, seconds after the first sample.
    """

    window_s: float = 60.0
    slope_share: float = 0.005
    range_share: float = 0.02
    timeout_s: float = 300.0

    @property
    def text(self) -> str:
        """The rule as a condition value."""
        return "window %g s, drift %.1f%%, range %.1f%%, at most %g s" % (
            self.window_s,
            100 * self.slope_share,
            100 * self.range_share,
            self.timeout_s,
        )

    @property
    def record(self) -> str:
        """The rule as it is written down with the samples; `parse_rule` reads it."""
        return " ".join("%r" % number for number in self) + "\n"


def parse_rule(text: str) -> SettleRule:
    """Read the settle rule as it was written down. Raises UnreadableError.

    A number that records of an earlier probe have not keeps its default: it was not asked for then.
    """
    words = text.split()
    try:
        if not FEWEST <= len(words) <= len(SettleRule._fields):
            raise ValueError("so many numbers")
        return SettleRule(*[float(word) for word in words])
    except ValueError:
        raise UnreadableError("not a settle rule: %r" % text[:80]) from None


class Settling(NamedTuple):
    """Where a curve settled.

    `at_s` is the time of the last sample of the window; `pick` the position of the window's sample
    whose level is the window's (lower) median: one instant from which all definitions are read;
    `first` the position at which the window begins.
    """

    at_s: float
    pick: int
    first: int


def settled(
    times_s: Sequence[float], levels: Sequence[float], rule: SettleRule
) -> Optional[Settling]:
    """Whether the curve is settled at its last sample; None while it is not.

    `times_s` increase, in seconds; `levels` are bytes in use. Slope: Theil–Sen (Sen, JASA 63,
    1968).
    """
    start = times_s[-1] - rule.window_s
    if times_s[0] > start:
        return None
    first = max(i for i, at in enumerate(times_s) if at <= start)
    window_t, window_v = times_s[first:], levels[first:]
    level = middle(window_v)
    if max(window_v) - min(window_v) > rule.range_share * level:
        return None
    if abs(theil_sen(window_t, window_v)) * rule.window_s > rule.slope_share * level:
        return None
    order = sorted(range(len(window_v)), key=lambda i: (window_v[i], i))
    return Settling(times_s[-1], first + order[(len(order) - 1) // 2], first)


def theil_sen(times_s: Sequence[float], values: Sequence[float]) -> float:
    """Median of the slopes between all pairs of samples; 0 for a single one."""
    slopes = [
        (values[j] - values[i]) / (times_s[j] - times_s[i])
        for i in range(len(values))
        for j in range(i + 1, len(values))
        if times_s[j] > times_s[i]
    ]
    return middle(slopes) if slopes else 0.0


def middle(values: Sequence[float]) -> float:
    """The median; the standard library's own takes longer to import than a whole reading."""
    ordered, half = sorted(values), len(values) // 2
    return ordered[half] if len(ordered) % 2 else (ordered[half - 1] + ordered[half]) / 2.0
