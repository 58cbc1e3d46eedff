"""What the seed bank measures beside everything else, and what is true of it where a machine is
simulated."""

from collections.abc import Mapping
from dataclasses import replace

from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd
from haremile.core.records.own_measure import OwnMeasure
from haremile.core.simulation.machine import LaneTruth, MetricTruth
from haremile.usecases.ports import OwnMeasures

SORT = OwnMeasure(
    "Sort the seed list",
    "s",
    GoodEnd.LOW,
    0.01,
    Margin(amount=0.3),
    "the list of a million seeds, from the disk to a sorted file",
)
AT_THE_WALL = OwnMeasure(
    "Power at the wall",
    "W",
    GoodEnd.LOW,
    0.1,
    Margin(amount=0.5),
    "read off the meter once the desktop rests",
)
TYPICAL = {"Tarnwick": (4.1, 5.6), "Thistlow": (4.4, 5.9), "Mossgate": (5.3, 6.8)}
"""By desktop: seconds for the list, watts at the wall."""


def define_measures(measures: OwnMeasures) -> None:
    """Define what is not defined yet."""
    known = {one.key for one in measures.all()}
    for one in (SORT, AT_THE_WALL):
        if one.key not in known:
            measures.keep(one)


def with_own(truths: Mapping[str, LaneTruth]) -> dict[str, LaneTruth]:
    """The truths, with what is true of the seed bank's own measures by desktop."""
    return {name: replace(truth, own=_own(name)) for name, truth in truths.items()}


def _own(name: str) -> dict[str, MetricTruth]:
    sort, power = next(
        (pair for desktop, pair in TYPICAL.items() if name.endswith(desktop)), (4.7, 6.2)
    )
    return {
        SORT.key: MetricTruth(sort, 0.12, skew=0.4, step=0.01),
        AT_THE_WALL.key: MetricTruth(power, 0.15, step=0.1),
    }
