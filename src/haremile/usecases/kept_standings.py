"""Lists of standings, calculated once for the same figures."""

import threading
from collections import OrderedDict
from collections.abc import Collection, Sequence

from haremile.core.records.metrics import GoodEnd
from haremile.core.standing.arms import Arm
from haremile.core.standing.standings import Standings, standings

MOST_KEPT = 48

_kept: OrderedDict[tuple[object, ...], tuple[Sequence[Arm], Standings | None]] = OrderedDict()
"""By the very arms: they are handed out again as long as nothing happened in their study, and kept
here, so that no other takes their place in memory."""

_guard = threading.Lock()


def kept_standings(
    arms: Sequence[Arm],
    good_end: GoodEnd,
    machine: str | None = None,
    shown: Collection[str] | None = None,
) -> Standings | None:
    """As `standings`, calculated where these very arms were not asked for before."""
    names = None if shown is None else frozenset(shown)
    key = (tuple(map(id, arms)), good_end, machine, names)
    with _guard:
        if key in _kept:
            _kept.move_to_end(key)
            return _kept[key][1]
    found = standings(arms, good_end, machine, names)
    with _guard:
        _kept[key] = (tuple(arms), found)
        while len(_kept) > MOST_KEPT:
            _kept.popitem(last=False)
    return found
