"""The application that the probe checks the accessibility bus by: it tells of a window, and when.

It shows none. Half a second after it is ready to, it says that a window was created, and writes
down when it really did.
"""

import os
import sys
import time

from haremile_probe.accessibility.watch import EVENTS, open_bus
from haremile_probe.check_application import FILE, MAP_AFTER_S, wait_until, write_times


def main() -> int:
    """Tell, and stay until ended."""
    from jeepney import DBusAddress, new_signal

    bus = open_bus()
    window = DBusAddress("/org/a11y/atspi/accessible/root", interface=EVENTS)
    signal = new_signal(window, "Create", "siiva{sv}", ("", 0, 0, ("i", 0), {}))
    wait_until(time.monotonic() + MAP_AFTER_S)
    told = time.monotonic()
    bus.send(signal)
    write_times(os.environ[FILE], told, told)
    while True:  # until it is ended from outside
        time.sleep(3600)


if __name__ == "__main__":
    sys.exit(main())
