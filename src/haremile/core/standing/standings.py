"""Where every system stands that was ever measured."""

import math
from collections import Counter, defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np

from haremile.core.records.metrics import GoodEnd
from haremile.core.standing.arms import Arm, LogFigures, log_figures
from haremile.core.standing.evidence import (
    Direct,
    Disagreement,
    direct_evidence,
    disagreements,
)
from haremile.core.standing.network import (
    Cells,
    IntArray,
    Network,
    difference_errors,
    network,
    parts_of,
    reach_of,
)
from haremile.core.standing.places import (
    BoolArray,
    Place,
    are_ahead,
    places,
    simultaneous_quantiles,
)
from haremile.core.statistics.validation import FloatArray

LEVEL = 0.95
BETWEEN_STUDIES = "between studies"
BETWEEN_MACHINES = "between machines"
OF_A_MACHINE = "of a machine between studies"


@dataclass(frozen=True)
class Limits:
    """From where to where."""

    low: float
    high: float


@dataclass(frozen=True)
class Standing:
    """One system's place.

    Attributes
    ----------
    value : float
        Canonical unit: its figure at the level of the machine that the list speaks of.
    interval : Limits or None
        Of `value` beside the others: the level of the machine is held. None where nothing tells
        how much studies differ and it was measured in another one.
    place : Place
    is_side_by_side : bool
        Whether a chain of studies links it; else it stands by its readings on the same machine.
    failed, runs : int
        Over all of its studies.
    studies, machines : int
    newest : datetime
    over_leader, behind_leader : float, and Limits or None
        Its figure over the leader's, a ratio, with its simultaneous interval.
    met_leader : int
        Groups in which it was measured beside the leader.
    ahead_of : tuple of str
        Those that are decidedly behind it.
    """

    system: str
    value: float
    interval: Limits | None
    place: Place
    is_side_by_side: bool
    failed: int
    runs: int
    readings: int
    studies: int
    machines: int
    newest: datetime
    over_leader: float
    behind_leader: Limits | None
    met_leader: int
    ahead_of: tuple[str, ...] = ()


@dataclass(frozen=True)
class Apart:
    """Systems that nothing links with the list, and the measurement that would.

    `own` is one of them, `beside` one of the list, `machine` where to measure both.
    """

    systems: tuple[str, ...]
    studies: int
    own: str
    beside: str
    machine: str


@dataclass(frozen=True)
class SpreadShare:
    """How much figures differ beside their readings: one standard deviation, as a share."""

    name: str
    share: float
    degrees: int


@dataclass(frozen=True)
class Standings:
    """A list of one metric, the best first.

    Attributes
    ----------
    machine : str
        At whose level the figures are.
    record : str or None
        The one that is decidedly ahead of all others.
    degrees : float or None
        As of the network; None where nothing tells how much studies differ.
    both_ways : int
        Pairs with direct and indirect evidence.
    """

    machine: str
    rows: tuple[Standing, ...]
    record: str | None
    apart: tuple[Apart, ...]
    degrees: float | None
    spreads: tuple[SpreadShare, ...]
    both_ways: int
    disagreements: tuple[Disagreement, ...]
    studies: int
    readings: int


def standings(
    arms: Sequence[Arm],
    good_end: GoodEnd,
    machine: str | None = None,
    shown: Collection[str] | None = None,
    level: float = LEVEL,
) -> Standings | None:
    """Put all systems on one list; None where there is nothing to list.

    Parameters
    ----------
    arms : sequence of Arm
        That may stand in one list, as `comparable_arms` chose them.
    good_end : GoodEnd
    machine : str or None
        At whose level figures are given; the one with most readings where it is None.
    shown : collection of str or None
        Names of those that are ranked; the others link them all the same.
    level : float
        Of all intervals.

    Notes
    -----
    Figures are compared through systems that were measured in the same study on the same machine;
    `network` tells how. What hangs together with most systems makes the list. Others join it, not
    side by side, where studies on the same machine let the machine's own spread between studies be
    known; the rest stands apart.
    """
    if not arms:
        return None
    laid = layout(arms, machine)
    sign = -1.0 if good_end is GoodEnd.HIGH else 1.0
    laid = laid if shown is None else _only(laid, arms, shown)
    if not laid.names:
        return None
    return _told(laid, arms, sign, level)


@dataclass(frozen=True)
class Layout:
    """All that stand in a list, without an order.

    `effects`, shape (k,), are logarithms around `level`, the logarithm at the level of `machine`,
    with their `covariance`, shape (k, k); `aside` are those that were not measured side by side;
    `main` are the positions of the arms that stand in it, `apart` those of the rest, and `kept` the
    figures of all of them.
    """

    kept: LogFigures
    machine: str
    net: Network | None
    names: tuple[str, ...]
    effects: FloatArray
    covariance: FloatArray
    level: float
    degrees: float | None
    aside_degrees: float | None
    aside: frozenset[str]
    apart: tuple[tuple[int, ...], ...]
    main: tuple[int, ...]
    level_spread: SpreadShare | None = None


def layout(arms: Sequence[Arm], machine: str | None = None) -> Layout:
    """Put all systems that something links on one scale; `arms` and `machine` as of `standings`."""
    kept = log_figures(arms)
    systems = [arm.name for arm in arms]
    parts = parts_of([arm.group for arm in arms], systems)
    main = np.array(parts[0])
    place = _level_machine([arms[at] for at in main], machine)
    laid = _main_list(arms, kept, main, place)
    for part in parts[1:]:
        laid = _joined(laid, arms, part)
    return laid


def _level_machine(arms: Sequence[Arm], asked: str | None) -> str:
    counts: Counter[str] = Counter()
    for arm in arms:
        counts[arm.machine] += len(arm.values)
    if asked in counts:
        return str(asked)
    return max(sorted(counts), key=lambda name: counts[name])


def _cells(arms: Sequence[Arm]) -> Cells | None:
    """Systems differ from machine to machine, where there are several."""
    if len({arm.machine for arm in arms}) == 1:
        return None
    return Cells(BETWEEN_MACHINES, [(arm.name, arm.machine) for arm in arms])


def _main_list(arms: Sequence[Arm], kept: LogFigures, main: IntArray, machine: str) -> Layout:
    figures, variances = kept.figures, kept.variances
    own = [arms[at] for at in main]
    names = tuple(dict.fromkeys(arm.name for arm in own))
    if len(names) == 1:
        level = float(np.mean([figures[at] for at in main if arms[at].machine == machine]))
        alone = np.zeros((1, 1))
        return Layout(
            kept,
            machine,
            None,
            names,
            np.zeros(1),
            alone,
            level,
            None,
            None,
            frozenset(),
            (),
            tuple(int(at) for at in main),
        )
    net = network(
        figures[main],
        variances[main],
        [arm.group for arm in own],
        [arm.name for arm in own],
        BETWEEN_STUDIES,
        _cells(own),
    )
    levels = dict(zip(net.bases, net.levels, strict=True))
    level = float(np.mean([levels[arm.group] for arm in own if arm.machine == machine]))
    return Layout(
        kept,
        machine,
        net,
        net.systems,
        net.effects,
        net.covariance,
        level,
        net.degrees,
        None,
        frozenset(),
        (),
        tuple(int(at) for at in main),
    )


def _joined(laid: Layout, arms: Sequence[Arm], part: Sequence[int]) -> Layout:
    """The list with a part that no study links, by its readings on the same machine, where the
    machine's own spread between studies is known; else it stays apart."""
    listed = Counter(arms[at].machine for at in laid.main if arms[at].name not in laid.aside)
    machine = max(sorted({arms[at].machine for at in part}), key=lambda name: listed[name])
    own = tuple(at for at in part if arms[at].machine == machine)
    new = list(dict.fromkeys(arms[at].name for at in own))
    here = [
        at
        for at, arm in enumerate(arms)
        if arm.machine == machine and (at in laid.main or at in own)
    ]
    anchors = [
        name
        for name in laid.names
        if name not in laid.aside and any(arms[at].name == name for at in here)
    ]
    if not new or not anchors:
        return _set_apart(laid, part)
    found = network(
        laid.kept.figures[here],
        laid.kept.variances[here],
        [machine for _ in here],
        [arms[at].name for at in here],
        BETWEEN_STUDIES,
        Cells(OF_A_MACHINE, [arms[at].study for at in here]),
    )
    studies = next((one for one in found.spreads if one.name == OF_A_MACHINE), None)
    if studies is None or found.degrees is None:
        return _set_apart(laid, part)
    at = {name: place for place, name in enumerate(found.systems)}
    picked = np.zeros((len(new), len(found.systems)))
    for row, name in enumerate(new):
        picked[row, at[name]] = 1.0
        picked[row, [at[one] for one in anchors]] -= 1.0 / len(anchors)
    middle = np.array([1.0 / len(anchors) if one in anchors else 0.0 for one in laid.names])
    gaps = picked @ found.effects
    shared = laid.covariance @ middle
    corner = picked @ found.covariance @ picked.T + float(middle @ shared)
    # elsewhere each of both may lie otherwise than on this machine
    corner += _between_machines(laid) * (np.eye(len(new)) + 1.0 / len(anchors))
    side = np.tile(shared[:, None], (1, len(new)))
    return Layout(
        laid.kept,
        laid.machine,
        laid.net,
        (*laid.names, *new),
        np.concatenate([laid.effects, float(middle @ laid.effects) + gaps]),
        np.block([[laid.covariance, side], [side.T, corner]]),
        laid.level,
        laid.degrees,
        min(studies.degrees, found.degrees, laid.aside_degrees or math.inf),
        laid.aside | set(new),
        laid.apart,
        (*laid.main, *own),
        SpreadShare(OF_A_MACHINE, math.expm1(math.sqrt(studies.variance)), studies.degrees),
    )


def _between_machines(laid: Layout) -> float:
    """Variance of a system's deviation on one machine."""
    spreads = laid.net.spreads if laid.net else ()
    return sum(one.variance for one in spreads if one.name == BETWEEN_MACHINES)


def _only(laid: Layout, arms: Sequence[Arm], shown: Collection[str]) -> Layout:
    """The list of some of them; what is known of the others stays behind it."""
    at = [place for place, name in enumerate(laid.names) if name in shown]
    return replace(
        laid,
        names=tuple(laid.names[place] for place in at),
        effects=laid.effects[at],
        covariance=laid.covariance[np.ix_(at, at)],
        apart=tuple(
            part for part in laid.apart if any(arms[place].name in shown for place in part)
        ),
    )


def _set_apart(laid: Layout, part: Sequence[int]) -> Layout:
    return replace(laid, apart=(*laid.apart, tuple(part)))


_Direct = Mapping[tuple[str, str], Direct]


@dataclass(frozen=True)
class _Compared:
    """All pairs of a list, shape (k, k): who is ahead, how far intervals of differences reach, and
    which of them may be read; `is_aside`, shape (k,), are those not measured side by side."""

    ahead: BoolArray
    reach: FloatArray
    readable: BoolArray
    is_aside: BoolArray


def _compared(laid: Layout, direct: _Direct, sign: float, level: float) -> _Compared:
    is_aside = np.array([name in laid.aside for name in laid.names])
    is_pair_aside = is_aside[:, None] | is_aside[None, :]
    quantiles = simultaneous_quantiles(
        laid.covariance, (laid.degrees, _lesser(laid.degrees, laid.aside_degrees)), level
    )
    errors = difference_errors(laid.covariance)
    reach = errors * np.where(is_pair_aside, quantiles[1], quantiles[0])
    readable = _readable(laid, direct)
    return _Compared(are_ahead(sign * laid.effects, reach, readable), reach, readable, is_aside)


def _told(laid: Layout, arms: Sequence[Arm], sign: float, level: float) -> Standings:
    listed = [arms[at] for at in laid.main]
    net = laid.net
    spread = sum(one.variance for one in net.spreads) if net else 0.0
    direct = direct_evidence(
        laid.kept.figures[list(laid.main)],
        laid.kept.variances[list(laid.main)],
        [arm.group for arm in listed],
        [arm.name for arm in listed],
        spread,
    )
    pairs = _compared(laid, direct, sign, level)
    found = places(pairs.ahead)
    order = sorted(range(len(found)), key=lambda at: sign * laid.effects[at])
    own: dict[str, list[Arm]] = defaultdict(list)
    for arm in listed:
        own[arm.name].append(arm)
    rows = tuple(
        _row(laid, pairs, direct, own[laid.names[at]], found[at], (at, order[0]), level)
        for at in order
    )
    both, odd = disagreements(net, direct) if net else (0, ())
    is_record = len(rows) > 1 and rows[0].place.last == 1
    return Standings(
        machine=laid.machine,
        rows=rows,
        record=rows[0].system if is_record else None,
        apart=tuple(_apart([arms[at] for at in part], listed) for part in laid.apart),
        degrees=laid.degrees,
        spreads=_shares(laid),
        both_ways=both,
        disagreements=odd,
        studies=len({arm.study for arm in listed}),
        readings=sum(len(arm.values) for arm in listed),
    )


def _row(
    laid: Layout,
    pairs: _Compared,
    direct: _Direct,
    mine: Sequence[Arm],
    place: Place,
    at_and_leader: tuple[int, int],
    level: float,
) -> Standing:
    """One system with its figure, and what it is against the leader."""
    at, leader = at_and_leader
    name, is_aside = laid.names[at], bool(pairs.is_aside[at])
    value = math.exp(laid.level + laid.effects[at])
    free = _lesser(laid.degrees, laid.aside_degrees) if is_aside else laid.degrees
    half = reach_of(free, level) * math.sqrt(max(laid.covariance[at, at], 0.0))
    over = float(laid.effects[at] - laid.effects[leader])
    wide = float(pairs.reach[at, leader])
    can_tell = bool(pairs.readable[at, leader]) and at != leader
    net = laid.net
    is_known = net is not None and (laid.degrees is not None or len(net.bases) == 1)
    return Standing(
        system=name,
        value=value,
        interval=Limits(value * math.exp(-half), value * math.exp(half))
        if is_known or is_aside
        else None,
        place=place,
        is_side_by_side=not is_aside,
        failed=sum(arm.failed for arm in mine),
        runs=sum(arm.runs for arm in mine),
        readings=sum(len(arm.values) for arm in mine),
        studies=len({arm.study for arm in mine}),
        machines=len({arm.machine for arm in mine}),
        newest=max(arm.newest for arm in mine),
        over_leader=math.exp(over),
        behind_leader=Limits(math.exp(over - wide), math.exp(over + wide)) if can_tell else None,
        met_leader=_met(direct, name, laid.names[leader]),
        ahead_of=tuple(laid.names[other] for other in np.flatnonzero(pairs.ahead[at])),
    )


def _shares(laid: Layout) -> tuple[SpreadShare, ...]:
    found = [
        SpreadShare(one.name, math.expm1(math.sqrt(one.variance)), one.degrees)
        for one in (laid.net.spreads if laid.net else ())
    ]
    return (*found, *((laid.level_spread,) if laid.level_spread else ()))


def _lesser(one: float | None, other: float | None) -> float | None:
    known = [free for free in (one, other) if free is not None]
    return min(known) if known else None


def _readable(laid: Layout, direct: _Direct) -> BoolArray:
    """Of which pairs a difference may be read: of all, but where nothing tells how much studies
    differ of those only that one study holds."""
    count = len(laid.names)
    if laid.degrees is not None:
        return np.ones((count, count), dtype=bool)
    found = np.zeros((count, count), dtype=bool)
    for i, a in enumerate(laid.names):
        for j, b in enumerate(laid.names):
            found[i, j] = (min(a, b), max(a, b)) in direct
            if laid.aside_degrees is not None and (a in laid.aside or b in laid.aside):
                found[i, j] = True
    return found


def _met(direct: _Direct, a: str, b: str) -> int:
    found = direct.get((min(a, b), max(a, b)))
    return found.groups if found else 0


def _apart(own: Sequence[Arm], listed: Sequence[Arm]) -> Apart:
    """Who is apart, and what would link them: on a machine that both know if there is one, the
    best known of each."""
    machines = Counter(arm.machine for arm in listed)
    shared = [name for name, _ in machines.most_common() if any(a.machine == name for a in own)]
    place = shared[0] if shared else machines.most_common(1)[0][0]
    return Apart(
        systems=tuple(dict.fromkeys(arm.name for arm in own)),
        studies=len({arm.study for arm in own}),
        own=_best_known(own, place),
        beside=_best_known(listed, place),
        machine=place,
    )


def _best_known(arms: Sequence[Arm], machine: str) -> str:
    counts: dict[str, tuple[int, int]] = defaultdict(lambda: (0, 0))
    for arm in arms:
        here, runs = counts[arm.name]
        counts[arm.name] = (here + (arm.machine == machine), runs + len(arm.values))
    return max(sorted(counts), key=lambda name: counts[name])
