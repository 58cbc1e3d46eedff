"""Speaking on a message bus: connecting, calling, and having the answer."""

from typing import Any

from haremile_probe.runtime import MissingHere

ANSWER_S = 5.0


def open_at(address: str) -> Any:
    """Connect to the bus at an address, or to the one called ``SYSTEM``. Raises MissingHere."""
    try:
        from jeepney.io.blocking import open_dbus_connection
    except ImportError:
        raise MissingHere(
            "the bus client is not here; use haremile-probe.pyz, which holds it"
        ) from None
    try:
        return open_dbus_connection(bus=address)
    except (OSError, RuntimeError, ValueError) as error:
        raise MissingHere("the bus at %s does not answer: %s" % (address, error)) from None


def call(path: str, name: str, interface: str, method: str, kinds: str = "", *words: Any) -> Any:
    """A call of a method on the bus."""
    from jeepney import DBusAddress, new_method_call

    return new_method_call(DBusAddress(path, name, interface), method, kinds or None, words)


def ask(bus: Any, message: Any) -> Any:
    """Call, and have the answer's arguments. Raises MissingHere where there is none."""
    from jeepney import MessageType

    try:
        reply = bus.send_and_get_reply(message, timeout=ANSWER_S)
    except (OSError, TimeoutError) as error:
        raise MissingHere("the bus does not answer: %s" % (error or "in time")) from None
    if reply.header.message_type is MessageType.error:
        raise MissingHere("the bus refuses: %s" % str(reply.body)[:200])
    return reply.body
