"""What a plan will tell and cost, before its first run."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import comb

from haremile.core.planning.outlook import MeasureOutlook, PastReadings, measure_outlook
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import metric
from haremile.core.records.procedures import procedure_of
from haremile.core.records.study import Install, split_procedure
from haremile.core.records.units import Scale, scale_for
from haremile.usecases.ports import PastRuns


@dataclass(frozen=True)
class OutlookLine:
    """One measure on one machine, with its name and the unit in which it is shown."""

    label: str
    scale: Scale
    found: MeasureOutlook


@dataclass(frozen=True)
class MachineCost:
    """How long a machine is at work; `from_past` tells whether its own runs say so, or only what a
    procedure usually takes."""

    machine: str
    runs: int
    seconds: float
    from_past: bool


@dataclass(frozen=True)
class Outlook:
    """What a plan will tell, and what it costs; `verdicts` and `false_ones` are of the headline
    measures: how many pairs are judged, and how many false verdicts to expect at most."""

    lines: Sequence[OutlookLine]
    costs: Sequence[MachineCost]
    verdicts: int
    false_ones: float


def outlook(
    past: PastRuns,
    installs: Sequence[Install],
    procedures: Sequence[str],
    blocks: int,
    margins: Mapping[str, Margin],
    looks: int,
) -> Outlook:
    """Tell it from the bench book's own readings of the same measure on the same machine.

    Raises
    ------
    BadInputError
        If a procedure is none.
    """
    lines: list[OutlookLine] = []
    costs = []
    verdicts = rows = 0
    for machine in dict.fromkeys(install.machine.name for install in installs):
        here = sum(install.machine.name == machine for install in installs)
        for text in procedures:
            lines.append(_line(past, machine, text, here, blocks, margins, looks))
            verdicts += comb(here, 2)
            rows += here > 1
        costs.append(_cost(past, machine, procedures, here * blocks))
    return Outlook(lines, costs, verdicts, 0.05 * rows)


def _line(
    past: PastRuns,
    machine: str,
    text: str,
    here: int,
    blocks: int,
    margins: Mapping[str, Margin],
    looks: int,
) -> OutlookLine:
    name, conditions = split_procedure(text)
    known = metric(procedure_of(name).headline)
    application = conditions.get("app")
    method, groups = past.spreads(machine, known.key, application)
    found = measure_outlook(
        PastReadings(known.key, method, machine, groups),
        margins.get(known.key, known.margin),
        blocks,
        here,
        max(looks, 1),
    )
    label = f"{known.label}, {application}" if application else known.label
    return OutlookLine(label, scale_for(known.unit, found.typical or found.margin or 1.0), found)


def _cost(past: PastRuns, machine: str, procedures: Sequence[str], runs: int) -> MachineCost:
    seconds, is_known = 0.0, True
    for text in procedures:
        name, _ = split_procedure(text)
        known = past.typical_s(machine, name)
        is_known = is_known and known is not None
        seconds += runs * (procedure_of(name).nominal_s if known is None else known)
    return MachineCost(machine, runs * len(procedures), seconds, is_known)
