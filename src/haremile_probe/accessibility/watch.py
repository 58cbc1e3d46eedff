"""The accessibility bus: what applications say there of their windows, and when it came."""

import os
import time
from typing import Any, Dict, List, NamedTuple, Optional

from haremile_probe.launching.start import DisplayGone
from haremile_probe.message_bus import ask, call, open_at
from haremile_probe.runtime import MissingHere
from haremile_probe.session_user import SessionUser

EVENTS = "org.a11y.atspi.Event.Window"
BEGINS = ("create", "activate")
"""Toolkits say the one or the other: that it is there, or that it has the keyboard."""


class Told(NamedTuple):
    """A window event: when it came (monotonic, seconds), what it is, and whose it is."""

    at: float
    what: str
    sender: str


class AccessibilityWatch:
    """Listens to window events. Made before anything is started.

    Raises MissingHere where no accessibility bus runs, or it is another user's.
    """

    def __init__(self, user: Optional[SessionUser] = None):
        if user is not None:
            raise MissingHere(
                "%s's accessibility bus answers %s alone; launch as that user"
                % (user.name, user.name)
            )
        self._bus, self._asking = open_bus(), open_bus()
        self._pids: Dict[str, Optional[int]] = {}
        self.told: List[Told] = []
        self._listen()

    def _listen(self) -> None:
        from jeepney import MatchRule, message_bus

        rule = MatchRule(type="signal", interface=EVENTS)
        ask(self._bus, message_bus.AddMatch(rule))
        registry = "/org/a11y/atspi/registry", "org.a11y.atspi.Registry"
        # what nobody listens for is not said
        for what in BEGINS:
            event = "window:" + what
            ask(self._bus, call(*registry, "org.a11y.atspi.Registry", "RegisterEvent", "s", event))

    def clear(self) -> None:
        """Forget what was told so far."""
        self.take()
        self.told, self._pids = [], {}

    def close(self) -> None:
        """End the connections."""
        self._bus.close()
        self._asking.close()

    def fileno(self) -> int:
        """A descriptor for polling."""
        return int(self._bus.sock.fileno())

    def take(self) -> None:
        """Take what has come."""
        from jeepney import HeaderFields

        while True:
            try:
                message = self._bus.receive(timeout=0)
            except TimeoutError:
                return
            except OSError as error:
                raise DisplayGone("the accessibility bus went away: %s" % error) from None
            fields = message.header.fields
            if fields.get(HeaderFields.interface) == EVENTS:
                what, sender = fields[HeaderFields.member], fields[HeaderFields.sender]
                self.told.append(Told(time.monotonic(), what.lower(), sender))

    def pid_of(self, sender: str) -> Optional[int]:
        """The process that said something; None once it is gone."""
        if sender not in self._pids:
            from jeepney import message_bus

            try:
                body = ask(self._asking, message_bus.GetConnectionUnixProcessID(sender))
                self._pids[sender] = int(body[0])
            except MissingHere:
                self._pids[sender] = None
        return self._pids[sender]


def open_bus() -> Any:
    """Connect to the session's accessibility bus. Raises MissingHere."""
    address = os.environ.get("DBUS_SESSION_BUS_ADDRESS")
    if not address:
        raise MissingHere("no session bus: DBUS_SESSION_BUS_ADDRESS is not set")
    opened = open_at(address)
    try:
        place = "/org/a11y/bus", "org.a11y.Bus", "org.a11y.Bus"
        (there,) = ask(opened, call(*place, "GetAddress"))
    finally:
        opened.close()
    return open_at(there)
