"""What ramps told, in words."""

from collections.abc import Mapping, Sequence

from haremile.core.load.smallest import Need
from haremile.core.records.units import MIB

GIB = 1024 * MIB


def count_text(count: float, noun: str) -> str:
    """So many pages, or steps."""
    return f"{count:g} {noun.removesuffix('s')}" if count == 1 else f"{count:g} {noun}"


def ramps_headline(
    carried: Mapping[int, float],
    at_least: Sequence[int],
    names: Mapping[int, str],
    noun: str = "pages",
) -> str:
    """Who carries how many, the most first; `at_least` are those that nothing ended but the last
    one that was asked for; `noun` is what was opened."""
    if not carried:
        return "No ramp was carried out yet"
    ranked = sorted(carried, key=lambda lane: (-carried[lane], lane))

    def said(lane: int) -> str:
        return f"{'at least ' if lane in at_least else ''}{carried[lane]:g}"

    first, *others = ranked
    unit = noun.removesuffix("s") if carried[first] == 1 else noun
    told = f"{names[first]} carries {said(first)} {unit}"
    return ", ".join([told, *(f"{names[lane]} {said(lane)}" for lane in others[:2])])


def need_text(name: str, pages: int, need: Need, noun: str = "pages") -> str:
    """What so many of them need, with its limits."""
    size, unit, places = (GIB, "GiB", 2) if need.typical >= GIB else (MIB, "MiB", 0)

    def shown(value: float) -> str:
        return f"{value / size:,.{places}f}"

    limits = f" ({shown(need.low)} to {shown(need.high)})" if need.low < need.high else ""
    verb = "needs" if pages == 1 else "need"
    return f"{name}: {count_text(pages, noun)} {verb} {shown(need.typical)} {unit}{limits}."
