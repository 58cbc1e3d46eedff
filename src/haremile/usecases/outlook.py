"""What a plan will tell and cost, before its first run."""

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from math import comb
from uuid import UUID

from haremile.core.comparison.comparability import RULES, Difference, fair_start
from haremile.core.planning.outlook import (
    POWER,
    MeasureOutlook,
    PastReadings,
    measure_outlook,
)
from haremile.core.planning.repeats import cost_of_looks
from haremile.core.planning.run_sheet import visits_of
from haremile.core.records.draft import BY_HAND, SWITCHING, Order
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import CATALOGUE, Metric, metric
from haremile.core.records.procedures import headline_of, procedure_of
from haremile.core.records.study import Install, split_procedure
from haremile.core.records.units import Scale, scale_for
from haremile.usecases.ports import PastRuns, PastSpread

MOST_KEPT = 16


@dataclass(frozen=True)
class OutlookLine:
    """One measure on one machine, with its name and the unit in which it is shown; `is_headline`
    tells whether it stands for its procedure."""

    label: str
    scale: Scale
    is_headline: bool
    found: MeasureOutlook


@dataclass(frozen=True)
class MachineCost:
    """How long a machine is at work; `from_past` tells whether its own runs say so, or only what a
    procedure usually takes. `turns` is how often a person has to turn it to a contender, 0 where it
    turns by itself."""

    machine: str
    runs: int
    seconds: float
    from_past: bool
    turns: int
    turns_in_blocks: int


@dataclass(frozen=True)
class PersonCheck:
    """What only a person can see before the first run; by the condition that it is about."""

    key: str
    says: str


CHECKS = (
    PersonCheck("power", "Every machine is on mains power, with the same power settings."),
    PersonCheck("recorder", "No screen recorder runs, or it runs on all alike."),
    PersonCheck("background", "Nothing else runs beside the measurement: no download, no browser."),
    PersonCheck("updates_pending", "Every system is up to date, and was restarted since."),
    PersonCheck("autologin", "All log in alike: by themselves, or all by hand."),
)


@dataclass(frozen=True)
class FairStart:
    """What differs before the first run, by the newest run of each contender; `unknown` names those
    that never ran here, `checks` what nothing here states and a person has to see to."""

    differences: Sequence[Difference]
    unknown: Sequence[str]
    checks: Sequence[PersonCheck]


@dataclass(frozen=True)
class Outlook:
    """What a plan will tell, and what it costs.

    Attributes
    ----------
    verdicts, false_ones
        How many pairs are judged in the lines told here, and how many false rows of verdicts to
        expect at most.
    seconds, waits_for
        How long the whole takes if started now, and the machine that it waits for.
    order : Order
        The one asked for, or the usual one.
    looks_most, looks_typical : float
        What the looks cost against reading once: repeats planned for the same chance, and repeats
        at which such a difference is told on average, both as multiples; 1 with one look.
    """

    lines: Sequence[OutlookLine]
    costs: Sequence[MachineCost]
    verdicts: int
    false_ones: float
    seconds: float
    waits_for: str
    order: Order
    fair: FairStart
    looks_most: float
    looks_typical: float


@dataclass(frozen=True)
class Asked:
    """A plan as far as it is typed."""

    installs: Sequence[Install]
    procedures: Sequence[str]
    blocks: int
    margins: Mapping[str, Margin] = field(default_factory=dict)
    looks: int = 1
    order: Order | None = None


@dataclass(frozen=True)
class _Past:
    spreads: Sequence[PastSpread]
    typical_s: Mapping[tuple[str, str], float]


class Outlooks:
    """Tells it from the bench book's own readings of the same measure on the same machine.

    Parameters
    ----------
    past : PastRuns
    newest : callable
        What is other as soon as anything happened: until then, what was looked up stands.
    """

    def __init__(self, past: PastRuns, newest: Callable[[], object]):
        self._past, self._newest = past, newest
        self._kept: dict[tuple[object, tuple[str, ...]], _Past] = {}

    def tell(self, asked: Asked) -> Outlook:
        """What a plan will tell. Raises BadInputError if a procedure or a metric is none."""
        machines = list(dict.fromkeys(one.machine.name for one in asked.installs))
        past = self._looked_up(tuple(machines))
        lines: list[OutlookLine] = []
        costs = []
        verdicts = rows = 0
        order = asked.order or usual_order(asked.installs)
        for machine in machines:
            here = [one for one in asked.installs if one.machine.name == machine]
            told = _lines(past, machine, len(here), asked)
            lines += told
            verdicts += comb(len(here), 2) * len(told)
            rows += (len(here) > 1) * len(told)
            costs.append(_cost(past, here, asked, order))
        seconds, waits_for = _end(asked.installs, costs)
        most = max(Counter(one.machine.name for one in asked.installs).values())
        looks = cost_of_looks(asked.looks, max(most, 2), POWER)
        return Outlook(
            lines=lines,
            costs=costs,
            verdicts=verdicts,
            false_ones=0.05 * rows,
            seconds=seconds,
            waits_for=waits_for,
            order=order,
            fair=self._fair(asked.installs),
            looks_most=looks.most,
            looks_typical=looks.typical,
        )

    def _looked_up(self, machines: tuple[str, ...]) -> _Past:
        key = (self._newest(), machines)
        known = self._kept.get(key)
        if known is None:
            known = _Past(self._past.spreads(machines), self._past.typical_s(machines))
            if len(self._kept) >= MOST_KEPT:
                self._kept.clear()
            self._kept[key] = known
        return known

    def _fair(self, installs: Sequence[Install]) -> FairStart:
        keys = [install.id for install in installs if install.id is not None]
        known = self._past.beginnings(keys)
        by_machine: dict[str, dict[int, list[Mapping[str, str]]]] = {}
        unknown = []
        for lane_no, install in enumerate(installs, start=1):
            conditions = known.get(install.id or UUID(int=0))
            if conditions is None:
                unknown.append(f"{install.system.name} on {install.machine.name}")
                continue
            lanes = by_machine.setdefault(install.machine.name, {})
            lanes[lane_no] = [{k: v for k, v in conditions.items() if k in RULES}]
        found: dict[tuple[str, tuple[str | None, ...]], Difference] = {}
        for lanes in by_machine.values():
            for difference in fair_start(lanes) if len(lanes) > 1 else ():
                found.setdefault((difference.key, difference.values), difference)
        stated = [set(one) for one in known.values()]
        all_state = set.intersection(*stated) if stated and not unknown else set()
        checks = [check for check in CHECKS if check.key not in all_state]
        if all(install.machine.kind == "virtual" for install in installs):
            checks = [check for check in checks if check.key in ("background", "updates_pending")]
        return FairStart(list(found.values()), unknown, checks)


def usual_order(installs: Sequence[Install]) -> Order:
    """Visits where a person has to act between the contenders of a machine, else blocks."""
    machines = [install.machine.name for install in installs]
    for install in installs:
        is_by_hand = install.recipe.get(SWITCHING) in BY_HAND
        if is_by_hand and machines.count(install.machine.name) > 1:
            return Order.VISITS
    return Order.BLOCKS


def measures_of(procedure: str, conditions: Mapping[str, str]) -> list[Metric]:
    """What runs of a procedure under these conditions give, what stands for it first."""
    headline = metric(headline_of(procedure, conditions))
    others = [one for one in CATALOGUE.values() if procedure in one.procedures]
    return [headline, *(one for one in others if one is not headline)]


def _lines(past: _Past, machine: str, here: int, asked: Asked) -> list[OutlookLine]:
    found: dict[tuple[str, str], OutlookLine] = {}
    for text in asked.procedures:
        name, conditions = split_procedure(text)
        app, start = conditions.get("app", ""), conditions.get("start", "")
        for place, known in enumerate(measures_of(name, conditions)):
            method, groups = _groups(past.spreads, machine, known.key, app, start)
            if place and not groups and known.key not in asked.margins:
                continue
            key = (known.key, f"{app} {start}")
            if key in found and not (place == 0 and not found[key].is_headline):
                continue
            readings = PastReadings(known.key, method, machine, groups)
            margin = asked.margins.get(known.key, known.margin)
            told = measure_outlook(readings, margin, asked.blocks, here, asked.looks)
            label = f"{known.label}, {app} {start}" if app else known.label
            scale = scale_for(known.unit, told.typical or told.margin or 1.0)
            found[key] = OutlookLine(label, scale, place == 0, told)
    return list(found.values())


def _groups(
    spreads: Sequence[PastSpread], machine: str, metric_key: str, app: str, start: str
) -> tuple[str, list[tuple[int, float, float, float]]]:
    """The method with the most readings, and number, mean, variance and third central moment of
    each install."""
    by_method: dict[str, list[tuple[int, float, float, float]]] = {}
    for one in spreads:
        if (one.machine, one.metric) != (machine, metric_key):
            continue
        if app and (one.app, one.start) != (app, start):
            continue
        by_method.setdefault(one.method, []).append((one.n, one.mean, one.variance, one.third))
    if not by_method:
        return "", []
    method = max(by_method, key=lambda name: sum(n for n, *_ in by_method[name]))
    return method, by_method[method]


def _cost(past: _Past, here: Sequence[Install], asked: Asked, order: Order) -> MachineCost:
    machine, runs = here[0].machine.name, len(here) * asked.blocks
    seconds, is_known = 0.0, True
    for text in asked.procedures:
        name, _ = split_procedure(text)
        known = past.typical_s.get((machine, name))
        is_known = is_known and known is not None
        seconds += runs * (procedure_of(name).nominal_s if known is None else known)
    is_by_hand = any(install.recipe.get(SWITCHING) in BY_HAND for install in here)
    turns = in_blocks = 0
    if is_by_hand:
        turns = visits_of(len(here), asked.blocks, order is Order.VISITS)
        in_blocks = visits_of(len(here), asked.blocks, False)
    return MachineCost(machine, runs * len(asked.procedures), seconds, is_known, turns, in_blocks)


def _end(installs: Sequence[Install], costs: Sequence[MachineCost]) -> tuple[float, str]:
    """How long the host takes that is at work longest, and its longest machine: one host does one
    run at a time."""
    hosts = {one.machine.name: one.machine.host or one.machine.name for one in installs}
    by_host: dict[str, list[MachineCost]] = {}
    for cost in costs:
        by_host.setdefault(hosts[cost.machine], []).append(cost)
    if not by_host:
        return 0.0, ""
    longest = max(by_host.values(), key=lambda every: sum(one.seconds for one in every))
    return sum(one.seconds for one in longest), max(longest, key=lambda one: one.seconds).machine
