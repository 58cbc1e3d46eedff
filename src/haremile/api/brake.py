"""Slows whoever shows keys that are none."""

import ipaddress
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass

FREE = 5
"""So many wrong keys cost nothing: people mistype."""

FIRST_S, LONGEST_S = 1.0, 60.0
MOST_DOUBLED = 10
FORGET_S = 900.0
MOST_KNOWN = 10_000


@dataclass
class _Tries:
    wrong: int
    at: float


class Brake:
    """Counts wrong keys by where they come from.

    Parameters
    ----------
    clock : callable
        Monotonic seconds.
    """

    def __init__(self, clock: Callable[[], float]):
        self._clock = clock
        self._tries: OrderedDict[str, _Tries] = OrderedDict()

    def wait_s(self, address: str) -> float:
        """How long somebody there has to wait before the next try."""
        found = self._tries.get(_whence(address))
        if found is None or found.wrong < FREE:
            return 0.0
        rest_s = min(FIRST_S * 2.0 ** min(found.wrong - FREE, MOST_DOUBLED), LONGEST_S)
        return max(found.at + rest_s - self._clock(), 0.0)

    def wrong(self, address: str) -> None:
        """Somebody there showed a wrong key."""
        where, now = _whence(address), self._clock()
        found = self._tries.pop(where, None)
        if found is None or now - found.at > FORGET_S:
            found = _Tries(0, now)
        self._tries[where] = _Tries(found.wrong + 1, now)
        while len(self._tries) > MOST_KNOWN:
            self._tries.popitem(last=False)


def _whence(address: str) -> str:
    """One host, or the network that one host is given in IPv6."""
    try:
        found = ipaddress.ip_address(address)
    except ValueError:
        return address
    if found.version == 4:
        return str(found)
    return str(ipaddress.ip_network((found, 64), strict=False))
