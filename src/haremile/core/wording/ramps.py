"""What ramps told, in words."""

from collections.abc import Mapping, Sequence

from haremile.core.load.smallest import Need
from haremile.core.records.units import MIB

GIB = 1024 * MIB


def pages_text(count: float) -> str:
    """So many pages."""
    return f"{count:g} page" if count == 1 else f"{count:g} pages"


def ramps_headline(
    carried: Mapping[int, float], at_least: Sequence[int], names: Mapping[int, str]
) -> str:
    """Who carries how many, the most first; `at_least` are those that nothing ended but the last
    page that was asked for."""
    if not carried:
        return "No ramp was carried out yet"
    ranked = sorted(carried, key=lambda lane: (-carried[lane], lane))

    def said(lane: int) -> str:
        return f"{'at least ' if lane in at_least else ''}{carried[lane]:g}"

    first, *others = ranked
    unit = "page" if carried[first] == 1 else "pages"
    told = f"{names[first]} carries {said(first)} {unit}"
    return ", ".join([told, *(f"{names[lane]} {said(lane)}" for lane in others[:2])])


def need_text(name: str, pages: int, need: Need) -> str:
    """What so many pages need, with its limits."""
    size, unit, places = (GIB, "GiB", 2) if need.typical >= GIB else (MIB, "MiB", 0)

    def shown(value: float) -> str:
        return f"{value / size:,.{places}f}"

    limits = f" ({shown(need.low)} to {shown(need.high)})" if need.low < need.high else ""
    verb = "needs" if pages == 1 else "need"
    return f"{name}: {pages_text(pages)} {verb} {shown(need.typical)} {unit}{limits}."
