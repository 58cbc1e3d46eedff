"""From a key that is sent to a window, or to the session for its menu, until the first pixels
change."""

import random
import select
import time
from typing import List, NamedTuple, Optional, Sequence

from haremile_probe.runtime import MissingHere
from haremile_probe.x.watch import CLOCK_S, Paint, Window, WindowWatch

LOOK_EVERY_S = 0.005
LEARN_S = 2.5
"""So long a window is looked at before the first key: what blinks there is no answer to one."""

STILL_S = 0.08
"""After a key's answer nothing may change for so long before the next is sent."""

PAUSES_S = (0.12, 0.38)
JUST_AFTER_S = (0.01, 0.04)
"""Where something blinks, keys are sent so long after it did, and answers come before it does so
again."""

BLINK_SHARE = 0.8
PAIRS = {"letter": ("x", "BackSpace"), "arrow": ("Down", "Up")}
"""Keys that are pressed in turn; the second takes back what the first did."""

MENU = "menu:"
MENUS = {
    "super": ("Super_L",),
    "menu": ("Menu",),
    "alt-f1": ("Alt_L", "F1"),
    "ctrl-escape": ("Control_L", "Escape"),
    "super-space": ("Super_L", "space"),
}
"""Keys that open a session's own menu, held down in this order; Escape closes it."""

CLOSES = ("Escape",)
KEY_PRESS, KEY_RELEASE = 2, 3


class KeysPlan(NamedTuple):
    """How many keys, of which pair or for which menu, and after how long one counts as not
    answered."""

    keys: int = 60
    pair: str = "letter"
    limit_s: float = 2.0
    menu: Optional[str] = None


class Blinking(NamedTuple):
    """What changes in a window by itself: how often, and how large it is at most."""

    period_s: float
    area: int


class Keys:
    """Sends keys to one window, which has to be at rest; without a window to the session, for its
    menu, which is closed again after each."""

    def __init__(self, watch: WindowWatch, window: Optional[Window], plan: KeysPlan):
        self._watch, self._window, self._plan = watch, window, plan
        if not watch.display.query_extension("XTEST"):
            raise MissingHere("this X server has no XTEST extension; no key can be sent to it")
        pair = [(name,) for name in PAIRS[plan.pair]]
        self._chords = [self._codes(keys) for keys in ([MENUS[plan.menu]] if plan.menu else pair)]
        self._closes = self._codes(CLOSES) if plan.menu else None
        self._chance = random.Random(plan.keys)
        self._taken = 0
        if window is not None:
            self._give_focus(window)
        self.blinking = self._learn()

    def answers(self) -> List[Optional[float]]:
        """Seconds from each key to the first pixels that changed; None where nothing did."""
        found = []
        for number in range(self._plan.keys):
            found.append(self._answer(self._chords[number % len(self._chords)]))
            if self._closes:
                self._settle(self._send(self._closes))
        return found

    def _codes(self, names: Sequence[str]) -> List[int]:
        """The keys of these names on this keyboard; raises MissingHere."""
        from Xlib import XK

        display = self._watch.display
        found = [display.keysym_to_keycode(XK.string_to_keysym(name)) for name in names]
        if not all(found):
            raise MissingHere("the keyboard of this session has no key %s" % "-".join(names))
        return found

    def _give_focus(self, of: Window) -> None:
        from Xlib import X

        display = self._watch.display
        window = display.create_resource_object("window", of.id)
        window.set_input_focus(X.RevertToParent, X.CurrentTime)
        display.sync()

    def _paints(self) -> List[Paint]:
        """What was painted of the window, or of the whole screen, since this was last asked."""
        self._watch.take()
        own = self._window.paints if self._window is not None else []
        every: Sequence[Paint] = own or self._watch.root_paints
        new = list(every[self._taken :])
        self._taken = len(every)
        return new

    def _until(self, moment: float) -> List[Paint]:
        found: List[Paint] = []
        while time.monotonic() < moment:
            select.select([self._watch.fileno()], [], [], LOOK_EVERY_S)
            found += self._paints()
        return found

    def _learn(self) -> Optional[Blinking]:
        """What the window does by itself; None for nothing."""
        self._paints()
        found = self._until(time.monotonic() + LEARN_S)
        times = sorted({paint.at for paint in found})
        gaps = sorted(b - a for a, b in zip(times, times[1:]) if b - a > STILL_S)
        if not gaps:
            return None
        area = max(paint.width * paint.height for paint in found)
        return Blinking(gaps[len(gaps) // 2], area)

    def _begin(self) -> Optional[float]:
        """Wait for the moment of a key; when it last blinked, where it does."""
        if self.blinking is None:
            low, high = PAUSES_S
            self._until(time.monotonic() + self._chance.uniform(low, high))
            return None
        deadline = time.monotonic() + 3.0 * self.blinking.period_s
        while time.monotonic() < deadline:
            seen = self._until(time.monotonic() + LOOK_EVERY_S)
            if seen:
                self._until(time.monotonic() + self._chance.uniform(*JUST_AFTER_S))
                return max(paint.at for paint in seen)
        return None  # it keeps still while keys are pressed, as some carets do

    def _answer(self, codes: Sequence[int]) -> Optional[float]:
        blinked = self._begin()
        self._paints()
        sent = self._send(codes)
        found = None
        while found is None and time.monotonic() - sent < self._plan.limit_s:
            select.select([self._watch.fileno()], [], [], LOOK_EVERY_S)
            answers = [one for one in self._paints() if self._is_answer(one, sent, blinked)]
            found = min((one.at for one in answers), default=None)
        self._settle(sent)
        return None if found is None else max(found - sent, 0.0)

    def _settle(self, sent: float) -> None:
        """Wait until nothing changes any more after a key."""
        while self._until(time.monotonic() + STILL_S):
            if time.monotonic() - sent > 2.0 * self._plan.limit_s:
                break  # it changes for ever; the next key is sent all the same

    def _send(self, codes: Sequence[int]) -> float:
        """Press them in order, let them go in one go; when that was."""
        from Xlib.ext import xtest

        display = self._watch.display
        sent = time.monotonic()
        for code in codes:
            xtest.fake_input(display, KEY_PRESS, code)
        for code in reversed(codes):
            xtest.fake_input(display, KEY_RELEASE, code)
        display.flush()
        return sent

    def _is_answer(self, paint: Paint, sent: float, blinked: Optional[float]) -> bool:
        if paint.at < sent - CLOCK_S:
            return False
        if self.blinking is None or blinked is None:
            return True
        is_due = paint.at - blinked > BLINK_SHARE * self.blinking.period_s
        return not (is_due and paint.width * paint.height <= self.blinking.area)
