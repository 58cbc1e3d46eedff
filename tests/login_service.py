"""A stand-in of the login service, on a bus of the test's own: it tells everybody, counts its sleep
as done at once, and tells everybody again after a known while."""

import threading
import time
from contextlib import contextmanager

from jeepney import DBusAddress, HeaderFields, MessageType, new_error, new_method_return, new_signal
from jeepney.bus_messages import message_bus
from jeepney.io.blocking import open_dbus_connection

from haremile_probe.helper.login_service import PLACE, SIGNAL

NAME = PLACE[1]


class LoginService:
    """`refuses` is why it will not; `slept_s` is added to the clocks once it has slept."""

    def __init__(self, address, awake_after_s=0.3, asleep_s=28.0, refuses=None):
        self._bus = open_dbus_connection(bus=address)
        self._bus.send_and_get_reply(message_bus.RequestName(NAME))
        self._after_s, self._asleep_s, self._refuses = awake_after_s, asleep_s, refuses
        self._is_over = threading.Event()
        self.slept_s, self.told_at = 0.0, None
        self._thread = threading.Thread(target=self._serve)
        self._thread.start()

    def close(self):
        self._is_over.set()
        self._thread.join()
        self._bus.close()

    def clocks(self):
        """As the helper reads them, the sleep counted."""
        return {
            "realtime": time.time() + self.slept_s,
            "monotonic": time.monotonic(),
            "boottime": time.monotonic() + self.slept_s,
        }

    def _serve(self):
        while not self._is_over.is_set():
            try:
                asked = self._bus.receive(timeout=0.05)
            except TimeoutError:
                continue
            if asked.header.message_type is MessageType.method_call:
                self._answer(asked)

    def _answer(self, asked):
        if self._refuses or asked.header.fields.get(HeaderFields.member) != "Suspend":
            self._bus.send(new_error(asked, f"{NAME}.Refused", "s", (self._refuses or "none",)))
            return
        self._bus.send(new_method_return(asked))
        self._tell(True)
        self.slept_s += self._asleep_s
        self._is_over.wait(self._after_s)
        self.told_at = time.monotonic()
        self._tell(False)

    def _tell(self, is_before):
        emitter = DBusAddress(PLACE[0], interface=PLACE[2])
        self._bus.send(new_signal(emitter, SIGNAL, "b", (is_before,)))


@contextmanager
def login_service(address, **how):
    made = LoginService(address, **how)
    try:
        yield made
    finally:
        made.close()
