"""Units as people write them, turned into the canonical ones, and back for display."""

import re
from dataclasses import dataclass

from haremile.errors import UnitError

CANONICAL = ("s", "B", "B/s", "1/s", "1", "share", "counted_s", "°C", "Hz")

MIB = 2.0**20

_FACTORS: dict[str, tuple[str, float]] = {
    "s": ("s", 1.0),
    "ms": ("s", 1e-3),
    "min": ("s", 60.0),
    "B": ("B", 1.0),
    "kB": ("B", 1e3),
    "MB": ("B", 1e6),
    "GB": ("B", 1e9),
    "KiB": ("B", 2.0**10),
    "MiB": ("B", MIB),
    "GiB": ("B", 2.0**30),
    "B/s": ("B/s", 1.0),
    "MB/s": ("B/s", 1e6),
    "MiB/s": ("B/s", MIB),
    "1/s": ("1/s", 1.0),
    "1": ("1", 1.0),
    "share": ("share", 1.0),
    "%": ("share", 0.01),
    "counted_s": ("counted_s", 1.0),
    "°C": ("°C", 1.0),
    "Hz": ("Hz", 1.0),
    "MHz": ("Hz", 1e6),
    "GHz": ("Hz", 1e9),
}

UNITS = tuple(_FACTORS)
"""As they may be written."""


def units_of(canonical: str) -> list[str]:
    """In which units an amount of this one may be written."""
    return [unit for unit, (meant, _) in _FACTORS.items() if meant == canonical] or [canonical]


def in_unit(value: float, written: str, unit: str) -> float:
    """`value` as written, in the unit in which something is measured: a canonical one, or a word of
    a tester's own, which stands for itself alone.

    Raises
    ------
    UnitError
        If what is written is of another unit, or none that is known.
    """
    if written == unit:
        return float(value)
    converted, canonical = to_canonical(value, written)
    if canonical != unit:
        raise UnitError(f"it is measured in {unit}, not in {written}")
    return converted


_AMOUNT = re.compile(r"^\s*([0-9]+(?:\.[0-9]+)?)\s*([A-Za-z/%1]+)\s*$")


def to_canonical(value: float, unit: str) -> tuple[float, str]:
    """Turn `value` in `unit` as written into the canonical unit.

    Returns
    -------
    (value, unit)
        The value in one of `CANONICAL`, and that unit.

    Raises
    ------
    UnitError
        If the unit is not known.
    """
    try:
        canonical, factor = _FACTORS[unit]
    except KeyError:
        raise UnitError(f"unknown unit: {unit}; expected one of {', '.join(_FACTORS)}") from None
    return value * factor, canonical


def parse_amount(text: str) -> tuple[float, str]:
    """Read an amount such as ``0.5s``, ``15MiB`` or ``3%`` into its canonical unit."""
    match = _AMOUNT.match(text)
    if match is None:
        raise UnitError(f"not an amount with a unit: {text}; write for example 0.5s, 15MiB or 3%")
    return to_canonical(float(match[1]), match[2])


@dataclass(frozen=True)
class Scale:
    """How the figures of one row are written: all of them alike, so that a reader can subtract.

    Attributes
    ----------
    label : str
        Unit shown behind the figure, empty for plain counts.
    factor : float
        Canonical units in one shown unit.
    decimals : int
        Decimals shown.
    """

    label: str
    factor: float
    decimals: int

    def number(self, value: float) -> str:
        """`value` (canonical unit) as a figure without its unit; a true minus sign."""
        text = f"{abs(value) / self.factor:.{self.decimals}f}"
        negative = value < 0 and float(text) != 0
        return f"−{text}" if negative else text

    def amount(self, value: float) -> str:
        """`value` (canonical unit) as a figure with its unit."""
        return f"{self.number(value)} {self.label}".rstrip()

    def at_least_one_step(self, value: float) -> str:
        """Size of a difference, never written as zero when it is not zero."""
        step = self.factor * 10.0**-self.decimals
        if value and not float(f"{abs(value) / self.factor:.{self.decimals}f}"):
            return f"less than {self.amount(step)}"
        return self.amount(abs(value))


LONG_S = 3 * 3600.0
"""From here on times are written in hours."""

_TIME = ((100.0, 0), (10.0, 1), (0.1, 2))
_BYTES = (("GiB", 2.0**30, 2.0), ("MiB", MIB, 1.0), ("KiB", 2.0**10, 1.0))


_ALWAYS = {
    "share": Scale("%", 0.01, 1),
    "°C": Scale("°C", 1.0, 1),
    "Hz": Scale("GHz", 1e9, 2),
}
"""Units whose figures are written alike, whatever their size."""


def scale_for(unit: str, typical: float, is_whole: bool = True) -> Scale:
    """Choose how figures around `typical` (canonical `unit`) are written.

    What has no unit is counted and written in whole numbers, unless it comes in fractions
    (`is_whole` is false), as measures of a tester's own do.
    """
    size = abs(typical)
    if unit in ("s", "counted_s"):
        return _time_scale(size, unit == "s")
    if unit in ("B", "B/s"):
        tail = unit[1:]
        for label, factor, least in _BYTES:
            if size >= least * factor:
                return Scale(label + tail, factor, _decimals(size / factor))
        return Scale("B" + tail, 1.0, 0)
    if unit in _ALWAYS:
        return _ALWAYS[unit]
    if unit not in CANONICAL:
        return Scale(unit, 1.0, _decimals(size / 10.0))
    return Scale("/s" if unit == "1/s" else "", 1.0, 0 if is_whole else _decimals(size / 10.0))


def _time_scale(size: float, is_time: bool) -> Scale:
    if is_time and size >= LONG_S:
        return Scale("h", 3600.0, 2)
    label = "s" if is_time else "counted s"
    for least, decimals in _TIME:
        if size >= least:
            return Scale(label, 1.0, decimals)
    return Scale("ms", 1e-3, 1) if is_time else Scale(label, 1.0, 3)


def _decimals(shown: float) -> int:
    if shown >= 100:
        return 0
    return 1 if shown >= 10 else 2
