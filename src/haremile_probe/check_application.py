"""The application that the probe checks itself on: its window and paints come at known times.

It maps its window half a second after it is ready to, paints fourteen times, and writes down when
it really did: seconds on the monotonic clock, lines ``mapped SECONDS`` and ``painted SECONDS``.
"""

import os
import sys
import time

from haremile_probe.x.display import open_display

MAP_AFTER_S, PAINTS, PAINT_EVERY_S = 0.5, 14, 0.05
FILE = "HAREMILE_CHECK_FILE"
SIZE = (640, 400)


def main() -> int:
    """Map, paint, and stay until ended."""
    from Xlib import X

    display = open_display()
    begun = time.monotonic()  # what it takes to get here is the machine's, not the known time
    screen = display.screen()
    window = screen.root.create_window(
        40,
        40,
        SIZE[0],
        SIZE[1],
        0,
        screen.root_depth,
        X.InputOutput,
        X.CopyFromParent,
        background_pixel=screen.white_pixel,
        event_mask=X.ExposureMask,
    )
    window.set_wm_name("haremile check")
    pencil = window.create_gc(foreground=screen.black_pixel)
    display.sync()
    wait_until(begun + MAP_AFTER_S)
    mapped = time.monotonic()
    window.map()
    display.sync()
    painted, number = mapped, 0
    while number < PAINTS:  # so many, however late: a busy machine paints them too
        wait_until(time.monotonic() + PAINT_EVERY_S)
        painted, number = time.monotonic(), number + 1
        window.fill_rectangle(pencil, 10 * (number % 50), 20, 200, 200)
        display.sync()
    write_times(os.environ[FILE], mapped, painted)
    while True:  # until it is ended from outside
        display.next_event()


def write_times(path: str, mapped: float, painted: float) -> None:
    """Leave the known times for the probe, all at once."""
    with open(path + ".part", "w", encoding="ascii") as file:
        file.write("mapped %r\npainted %r\n" % (mapped, painted))
    os.replace(path + ".part", path)


def wait_until(moment: float) -> None:
    """Sleep until an instant of the monotonic clock."""
    while moment > time.monotonic():
        time.sleep(max(moment - time.monotonic(), 0.0))


if __name__ == "__main__":
    sys.exit(main())
