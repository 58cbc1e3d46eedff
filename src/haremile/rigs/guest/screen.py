"""Ready as seen on the screen: when pictures stop changing."""

import base64
import re
import struct
import time
import zlib
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

Frame = NDArray[np.uint8]
"""Shape (height, width, 3)."""

EVERY_S = 0.5
MOST_SAMPLES = 40_000
LEAST_LIT = 0.3
LEAST_LINES = 3
MOST_LINE_HEIGHT = 48
LEAST_CHANGED = 0.003
MOST_UNLIKE = 0.02
"""Share of the pixels in which a screen may differ from the reference picture: a clock, a caret."""

SMALL_WIDTH, MOST_SMALL = 320, 24
"""Small pictures of the way to ready: so wide, and so many; of more every second one goes."""

HOLDS_S = 1.0
"""For so long it has to be like the reference."""

PPM_HEAD = re.compile(rb"P6\s+(\d{1,6})\s+(\d{1,6})\s+255\s")
STEP = 12
"""By how much a colour has to differ to count as changed, of 255."""


@dataclass(frozen=True)
class ScreenRule:
    """When a screen counts as ready: lit or with lines of text, and nothing changed on it for
    `quiet_s`; or, where there is a `reference` picture, when it first looks like that."""

    quiet_s: float = 15.0
    least_lit: float = LEAST_LIT
    least_changed: float = LEAST_CHANGED
    reference: Frame | None = field(default=None, compare=False)

    @property
    def text(self) -> str:
        """The rule as a condition value."""
        if self.reference is not None:
            return f"screen like its reference picture, but for {MOST_UNLIKE:.0%}"
        return (
            f"screen quiet {self.quiet_s:g} s, {self.least_lit:.0%} lit or text, "
            f"changes from {self.least_changed:.1%}"
        )


class ScreenWatch:
    """Takes one frame after the other; pure but for what it is handed."""

    def __init__(self, rule: ScreenRule):
        self._rule = rule
        self._last: Frame | None = None
        self.changed_at: float | None = None

    def add(self, at_s: float, frame: Frame) -> bool:
        """Take a frame; tell whether the screen has been ready since `changed_at`.

        A frame of another size counts as changed: the resolution was switched.
        """
        seen = sampled(frame)
        if self._rule.reference is not None:
            return self._is_like(at_s, seen, sampled(self._rule.reference))
        if changed_share(self._last, seen) > self._rule.least_changed:
            self.changed_at, self._last = at_s, seen
        is_lit = lit_share(seen) >= self._rule.least_lit or text_lines(frame) >= LEAST_LINES
        if not is_lit or self.changed_at is None:
            return False
        return at_s - self.changed_at >= self._rule.quiet_s

    def _is_like(self, at_s: float, seen: Frame, reference: Frame) -> bool:
        if changed_share(reference, seen) > MOST_UNLIKE:
            self.changed_at = None
            return False
        self.changed_at = at_s if self.changed_at is None else self.changed_at
        return at_s - self.changed_at >= HOLDS_S


def changed_share(before: Frame | None, seen: Frame) -> float:
    """Share of the pixels that differ; all of another size, or of none."""
    if before is None or before.shape != seen.shape:
        return 1.0
    apart = np.abs(seen.astype(np.int16) - before.astype(np.int16)).max(axis=2) > STEP
    return float(apart.mean())


def sampled(frame: Frame) -> Frame:
    """Every so many pixels of a frame, a few ten thousand at most."""
    step = max(1, int(np.ceil(np.sqrt(frame.shape[0] * frame.shape[1] / MOST_SAMPLES))))
    return frame[::step, ::step]


def lit_share(frame: Frame) -> float:
    """Share of the pixels that are not black."""
    return float((frame.max(axis=2) > STEP).mean())


def text_lines(frame: Frame) -> int:
    """Lines of text on a dark screen: bands of rows in which something is lit, parted by dark ones,
    none much higher than a line is. 0 where the screen is no such one."""
    lit = (frame.max(axis=2) > STEP).any(axis=1)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], lit.astype(np.int8), [0]])))
    heights = edges[1::2] - edges[::2]
    return len(heights) if heights.size and heights.max() <= MOST_LINE_HEIGHT else 0


def parse_ppm(body: bytes) -> Frame:
    """A binary PPM picture. Raises ValueError where it is none, or cut short."""
    head = PPM_HEAD.match(body)
    if head is None:
        raise ValueError("no binary PPM picture of 8 bits")
    width, height = int(head[1]), int(head[2])
    if not 0 < width * height <= 2**27 or len(body) < width * height * 3:
        raise ValueError(f"a picture of {width} x {height} that is cut short")
    pixels = np.frombuffer(body[-width * height * 3 :], np.uint8)
    return pixels.reshape(height, width, 3)


class Screen(Protocol):
    """What shows a guest's screen."""

    def frame(self) -> bytes:
        """The present picture, PPM."""

    def picture(self) -> bytes:
        """The present picture, PNG."""


class Small(NamedTuple):
    """A small picture of the screen (PNG), and when it appeared, seconds of the clock."""

    at: float
    png: bytes


class Seen(NamedTuple):
    """When the last picture of a screen appeared (seconds of the clock), that picture (PNG,
    base64), the newest one (PPM), which may serve as a reference, and small ones of the way there,
    each from when it appeared."""

    at: float
    picture: str
    newest: bytes
    way: list[Small]


def await_quiet(
    screen: Screen,
    rule: ScreenRule,
    is_over: Callable[[], bool],
    clock: Callable[[], float] = time.monotonic,
    sleep: Callable[[float], object] = time.sleep,
    own_from: Callable[[], float] = lambda: -np.inf,
) -> Seen | None:
    """Watch until the screen is ready; None where it was over first. A picture that appeared
    before `own_from` (seconds of the clock, asked anew each time) is none of the system's."""
    watch, picture = ScreenWatch(rule), ""
    kept_for: float | None = None
    way: list[Small] = []
    while not is_over():
        at, newest = clock(), screen.frame()
        frame = parse_ppm(newest)
        is_ready = watch.add(at, frame)
        if watch.changed_at is not None and kept_for != watch.changed_at:
            picture, kept_for = base64.b64encode(screen.picture()).decode(), watch.changed_at
            way.append(Small(at, small_png(frame)))
            if len(way) > MOST_SMALL:
                del way[1:-1:2]
        if is_ready and watch.changed_at is not None and watch.changed_at > own_from():
            return Seen(watch.changed_at, picture, newest, way)
        sleep(max(0.0, EVERY_S - (clock() - at)))
    return None


def small_png(frame: Frame) -> bytes:
    """The frame as a picture of at most SMALL_WIDTH pixels across.

    Source: Portable Network Graphics specification, second edition: signature, header of 8-bit
    colours, one compressed run of unfiltered rows, end.
    """
    step = max(1, -(-frame.shape[1] // SMALL_WIDTH))
    small = frame[::step, ::step]
    height, width, _ = small.shape
    rows = np.concatenate([np.zeros((height, 1), np.uint8), small.reshape(height, -1)], axis=1)
    parts = (
        (b"IHDR", struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)),
        (b"IDAT", zlib.compress(rows.tobytes(), 6)),
        (b"IEND", b""),
    )
    return b"\x89PNG\r\n\x1a\n" + b"".join(
        struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))
        for kind, body in parts
    )
