"""When a window has come to rest: what is painted changes nothing, and nothing is held up."""

import time
from typing import Any, Optional

from haremile_probe.launching.pixels import BYTES_PER_PIXEL, MOST_PIXELS, Shot, changed_pixels

EVERY_PLANE = 0xFFFFFFFF
STILL_S = 0.1
LOOK_AGAIN_S = 0.5


class Rest:
    """Tells when a window's picture last changed by more than a caret does.

    Until the window first keeps still every paint counts; from then on its picture is held against
    the one before. Where its picture cannot be had, what is damaged tells alone. A paint that is
    heard of only after a picture was taken may be in it: it counts where that picture was new.
    """

    def __init__(self, display: Any, window_id: int, small_area: int):
        self._display, self._window_id, self._small_area = display, window_id, small_area
        self._still: Optional[Shot] = None
        self._judged = self._looked = self._taken = 0.0
        self._is_new = False
        self.changed_at = 0.0

    def judge(self, newest: float, now: float) -> bool:
        """Take the newest paint (of more than a small area) into account; whether it is judged."""
        if self._still is None:
            self.changed_at = self._judged = newest
            if now - newest >= STILL_S:
                self._still, self._is_new = self._shot(), True
            return True
        if newest == self._judged:
            return True
        if self._is_new and newest <= self._taken:
            self.changed_at = newest
        if now - newest < STILL_S and now - self._looked < LOOK_AGAIN_S:
            return False
        self._looked = now
        picture, small = self._shot(), self._small_area
        self._is_new = picture is None or changed_pixels(self._still, picture, small) > small
        if self._is_new:
            self.changed_at, self._still = newest, picture
        self._judged = newest
        return True

    def _shot(self) -> Optional[Shot]:
        found = shoot(self._display, self._window_id)
        self._taken = time.monotonic()
        return found


def shoot(display: Any, window_id: int) -> Optional[Shot]:
    """The window's picture; None where it cannot be had (it is gone, or partly off the screen)."""
    from Xlib import X, error

    window = display.create_resource_object("window", window_id)
    try:
        size = window.get_geometry()
        if not 0 < size.width * size.height <= MOST_PIXELS or size.depth < 24:
            return None
        found = window.get_image(0, 0, size.width, size.height, X.ZPixmap, EVERY_PLANE)
    except error.XError:
        return None
    data = bytes(found.data)
    if len(data) != size.width * size.height * BYTES_PER_PIXEL:
        return None
    return Shot(size.width, data)
