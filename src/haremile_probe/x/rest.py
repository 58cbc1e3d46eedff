"""When a window has come to rest: what is painted changes nothing, and nothing is held up."""

import time
from typing import Any, Callable, Optional, Set

from haremile_probe.x.pixels import Shot, changed_pixels, shoot
from haremile_probe.x.starved import WAITING_SHARE, Held, held_up

STILL_S = 0.1
LOOK_AGAIN_S = 0.5
HELD_EVERY_S = 0.1
MOST_HELD_S = 7.0
"""For so long waiting may keep a window from settling: some read for ever."""


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


class HoldUp:
    """Tells until when what was launched was seen waiting for a processor or for storage."""

    def __init__(self, pids: Callable[[], Set[int]]):
        self._find, self._pids = pids, set()  # type: Callable[[], Set[int]], Set[int]
        self._before: Optional[Held] = None
        self._at = self._until = 0.0

    def until(self, now: float, changed_at: float) -> float:
        """The last such instant, 0 for none; no longer looked at `MOST_HELD_S` after a change."""
        if now - self._at < HELD_EVERY_S or now - changed_at > MOST_HELD_S:
            return self._until
        self._pids = self._pids or self._find()
        found, before, at = held_up(self._pids), self._before, self._at
        self._before, self._at = found, time.monotonic()
        if before is not None:
            share = (found.delay_s - before.delay_s) / max(now - at, HELD_EVERY_S)
            if share > WAITING_SHARE or found.read_bytes > before.read_bytes:
                self._until = now
        return self._until
