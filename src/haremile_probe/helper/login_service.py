"""Sleep through the login service, as the menu of a desktop does it: everybody who asked to be told
is, before and after."""

from typing import Any, Callable, Dict, Optional

from haremile_probe.message_bus import ask, call, open_at
from haremile_probe.runtime import MissingHere

PLACE = ("/org/freedesktop/login1", "org.freedesktop.login1", "org.freedesktop.login1.Manager")
SIGNAL = "PrepareForSleep"
LOOK_EVERY_S = 0.005
GAP_S = 0.5
"""So much further ahead the clock that counts sleep has to be, before it counts as one."""

FALLS_ASLEEP_S, WAKES_S = 120.0, 60.0

Clocks = Dict[str, float]


def sleep_through_login_service(clocks: Callable[[], Clocks]) -> Dict[str, Any]:
    """Have it send the machine to sleep; the clocks before and after, and when the session was told
    that it is awake.

    Raises
    ------
    OSError
        Where there is no such service, or it refuses, or the machine does not fall asleep.
    """
    try:
        bus = open_at("SYSTEM")
    except MissingHere as error:
        raise OSError("no login service: %s" % error) from None
    try:
        return _slept(bus, clocks)
    except MissingHere as error:
        raise OSError("the login service: %s" % error) from None
    finally:
        bus.close()


def _slept(bus: Any, clocks: Callable[[], Clocks]) -> Dict[str, Any]:
    from jeepney import MatchRule, message_bus

    rule = MatchRule(type="signal", interface=PLACE[2], member=SIGNAL, path=PLACE[0])
    ask(bus, message_bus.AddMatch(rule))
    before = clocks()
    ask(bus, call(*PLACE, "Suspend", "b", False))
    after: Optional[Clocks] = None
    awake: Optional[float] = None
    was_told = False
    while awake is None or after is None:
        here = clocks()
        if after is None and _asleep(here) - _asleep(before) > GAP_S:
            after = here
        told = _next(bus)
        was_told = was_told or told is True
        if told is False and was_told:
            awake = clocks()["monotonic"]
        ran = here["monotonic"] - before["monotonic"]
        if ran > FALLS_ASLEEP_S + WAKES_S or (after is None and ran > FALLS_ASLEEP_S):
            raise OSError("it did not fall asleep, or was not told that it is awake")
    return {"before": before, "after": after, "session": awake}


def _asleep(clocks: Clocks) -> float:
    return clocks["boottime"] - clocks["monotonic"]


def _next(bus: Any) -> Optional[bool]:
    """What the next signal says, within a moment: True before the sleep, False after it."""
    from jeepney import HeaderFields

    try:
        message = bus.receive(timeout=LOOK_EVERY_S)
    except TimeoutError:
        return None
    is_it = message.header.fields.get(HeaderFields.member) == SIGNAL
    return bool(message.body[0]) if is_it and message.body else None
