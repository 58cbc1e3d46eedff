"""All pair verdicts of a row put together."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from haremile.core.comparison.verdict import PairVerdict, Verdict


@dataclass(frozen=True)
class RowVerdict:
    """What a row of several lanes says.

    `leader` is the lane ahead of (or lower than) every other, else None. `first_group` holds the
    lanes that no other is decidedly ahead of, in lane order. Where these are several, all level
    with one another, and not all there are, the first place `is_shared`.
    """

    verdict: Verdict
    leader: int | None
    first_group: tuple[int, ...]
    is_shared: bool = False


def _both_ways(pairs: Mapping[tuple[int, int], PairVerdict]) -> dict[tuple[int, int], Verdict]:
    against = {(a, b): found.verdict for (a, b), found in pairs.items()}
    for (a, b), verdict in list(against.items()):
        against.setdefault((b, a), verdict.mirrored)
    return against


def row_verdict(lanes: Sequence[int], pairs: Mapping[tuple[int, int], PairVerdict]) -> RowVerdict:
    """Put all pair verdicts of a row together.

    Parameters
    ----------
    lanes : sequence of int
        Lane numbers with readings.
    pairs : mapping of (a, b) to the verdict of b against a
        Each unordered pair once or twice.
    """
    against = _both_ways(pairs)
    wins = (Verdict.AHEAD, Verdict.LOWER)
    for lane in lanes:
        others = [against[(other, lane)] for other in lanes if other != lane]
        if others and all(verdict in wins for verdict in others):
            return RowVerdict(others[0], lane, (lane,))
    first = tuple(
        lane
        for lane in lanes
        if not any(against[(lane, other)] in wins for other in lanes if other != lane)
    )
    among = [against[(a, b)] for a in first for b in first if a != b]
    is_level = bool(among) and all(verdict is Verdict.LEVEL for verdict in among)
    if is_level and len(first) == len(lanes):
        return RowVerdict(Verdict.LEVEL, None, first)
    return RowVerdict(Verdict.UNDECIDED, None, first, is_level)


@dataclass(frozen=True)
class Standing:
    """Places that a lane may hold among all, given what is decided."""

    lane: int
    best: int
    worst: int


def standings(
    lanes: Sequence[int], pairs: Mapping[tuple[int, int], PairVerdict]
) -> tuple[Standing, ...]:
    """From 1 + those decidedly ahead to k − those decidedly behind, in order of lanes.

    Parameters
    ----------
    lanes : sequence of int
    pairs : mapping of (a, b) to the verdict of b against a
        Each unordered pair once or twice, all from one family.
    """
    against = _both_ways(pairs)
    wins, losses = (Verdict.AHEAD, Verdict.LOWER), (Verdict.BEHIND, Verdict.HIGHER)
    places = []
    for lane in lanes:
        mine = [against[(other, lane)] for other in lanes if other != lane]
        ahead_of_it = sum(verdict in losses for verdict in mine)
        behind_it = sum(verdict in wins for verdict in mine)
        places.append(Standing(lane, 1 + ahead_of_it, len(lanes) - behind_it))
    return tuple(places)
