"""What one application says to its compositor: its windows, and when each had a new picture.

Messages are a 32-bit object, 16 bits of opcode, 16 bits of length, and arguments (Wayland's wire
format, in the machine's byte order). Only what tells of windows is understood; all else is passed.
"""

import os
import stat
import struct
from typing import Dict, List, NamedTuple, Optional, Tuple

from haremile_probe.launching.pixels import BYTES_PER_PIXEL, MOST_PIXELS, Shot, changed_pixels

HEAD = struct.Struct("=II")
WORD = struct.Struct("=I")
DISPLAY = 1
MOST_BUFFERED = 2**20
MOST_PAINTS = 200_000
MOST_FILES = 64

GLOBALS = frozenset(
    ("wl_compositor", "wl_subcompositor", "wl_shm", "xdg_wm_base"),
)
"""What leads to windows; other globals are not looked at."""


class NotUnderstood(Exception):
    """This is no Wayland message."""


class Pool:
    """Memory that the application shares with its compositor; let go of with the last buffer."""

    def __init__(self, file: int):
        self.file = file

    def __del__(self) -> None:
        os.close(self.file)


class Buffer(NamedTuple):
    """A picture in shared memory: where, and how wide its rows are in bytes."""

    pool: Pool
    offset: int
    stride: int
    height: int


class Surface:
    """Something with a picture: a window, or a part of one. Times on the monotonic clock.

    `mapped` is when a window was first handed over with a picture, `unmapped` when it was taken
    away; `paints` are the instants of pictures that differ by more than a small area.
    """

    def __init__(self, number: int):
        self.number = number
        self.parent: Optional["Surface"] = None
        self.is_window = False
        self.of_window = False
        self.title = ""
        self.mapped: Optional[float] = None
        self.unmapped: Optional[float] = None
        self.paints: List[float] = []
        self.attached: Optional[Tuple[Optional[Buffer], bool]] = None
        self.damaged = 0
        self.picture: Optional[Shot] = None
        self.is_read = True

    def window(self) -> "Surface":
        """The surface that it is a part of in the end."""
        return self if self.parent is None else self.parent.window()


class Conversation:
    """One application's connection, followed."""

    def __init__(self, small_area: int):
        self._small_area = small_area
        self._objects: Dict[int, Tuple[str, object]] = {DISPLAY: ("wl_display", None)}
        self._said = b""
        self._answered = b""
        self._files: List[int] = []
        self.windows: List[Surface] = []
        self._paints = 0

    def close(self) -> None:
        """Let go of all shared memory."""
        for file in self._files:
            os.close(file)
        self._files, self._objects = [], {}

    def gone(self, at: float) -> None:
        """The connection ended, and every window with it."""
        for window in self.windows:
            _away(window, at)

    def said(self, data: bytes, files: List[int], at: float) -> None:
        """Follow what the application said, `files` being copies of what it handed over."""
        self._files += files
        while len(self._files) > MOST_FILES:
            os.close(self._files.pop(0))
        self._said += data
        while True:
            message, self._said = _first_of(self._said)
            if message is None:
                break
            self._request(*message, at)

    def answered(self, data: bytes) -> None:
        """Follow what the compositor said: numbers that are free again."""
        self._answered += data
        while True:
            message, self._answered = _first_of(self._answered)
            if message is None:
                break
            number, opcode, words = message
            if number == DISPLAY and opcode == 1:
                self._objects.pop(_word(words, 0), None)

    def _request(self, number: int, opcode: int, words: bytes, at: float) -> None:
        kind, item = self._objects.get(number, ("", None))
        act = getattr(self, "_of_" + kind, None)
        if act is not None:
            act(opcode, words, item, at)

    def _of_wl_display(self, opcode: int, words: bytes, _item: object, _at: float) -> None:
        if opcode == 1:
            self._objects[_word(words, 0)] = ("wl_registry", None)

    def _of_wl_registry(self, opcode: int, words: bytes, _item: object, _at: float) -> None:
        length = _word(words, 4)
        name = words[8 : 8 + length].rstrip(b"\0").decode("ascii", "replace")
        if opcode == 0 and name in GLOBALS:
            self._objects[_word(words, len(words) - WORD.size)] = (name, None)

    def _of_wl_compositor(self, opcode: int, words: bytes, _item: object, _at: float) -> None:
        if opcode == 0:
            number = _word(words, 0)
            self._objects[number] = ("wl_surface", Surface(number))

    def _of_wl_subcompositor(self, opcode: int, words: bytes, _item: object, _at: float) -> None:
        if opcode == 1:
            part, whole = self._surface(_word(words, 4)), self._surface(_word(words, 8))
            if part is not None and whole is not None and whole.window() is not part:
                part.parent = whole

    def _of_xdg_wm_base(self, opcode: int, words: bytes, _item: object, _at: float) -> None:
        if opcode == 2:
            self._objects[_word(words, 0)] = ("xdg_surface", self._surface(_word(words, 4)))

    def _of_xdg_surface(self, opcode: int, words: bytes, item: object, _at: float) -> None:
        if opcode == 1 and isinstance(item, Surface):
            self._objects[_word(words, 0)] = ("xdg_toplevel", item)
            item.is_window = True

    def _of_xdg_toplevel(self, opcode: int, words: bytes, item: object, at: float) -> None:
        if not isinstance(item, Surface):
            return
        if opcode == 0:
            _away(item, at)
        elif opcode == 1:
            item.of_window = _word(words, 0) != 0
        elif opcode == 2:
            item.title = words[4 : 4 + _word(words, 0)].rstrip(b"\0").decode("utf-8", "replace")

    def _of_wl_shm(self, opcode: int, words: bytes, _item: object, _at: float) -> None:
        if opcode == 0:
            size = _word(words, 4)
            while self._files:
                file = self._files.pop(0)
                facts = os.fstat(file)
                if stat.S_ISREG(facts.st_mode) and facts.st_size >= size:
                    self._objects[_word(words, 0)] = ("wl_shm_pool", Pool(file))
                    return
                os.close(file)

    def _of_wl_shm_pool(self, opcode: int, words: bytes, item: object, _at: float) -> None:
        if opcode == 0 and isinstance(item, Pool):
            offset, _, height, stride = (_word(words, at) for at in (4, 8, 12, 16))
            self._objects[_word(words, 0)] = ("wl_buffer", Buffer(item, offset, stride, height))

    def _of_wl_surface(self, opcode: int, words: bytes, item: object, at: float) -> None:
        assert isinstance(item, Surface)
        if opcode == 0:
            _away(item, at)
        elif opcode == 1:
            number = _word(words, 0)
            _, found = self._objects.get(number, ("", None))
            item.attached = (found if isinstance(found, Buffer) else None, number != 0)
        elif opcode in (2, 9):
            width, height = (_signed(words, place) for place in (8, 12))
            item.damaged += max(width, 0) * max(height, 0)
        elif opcode == 6:
            self._commit(item, at)

    def _commit(self, surface: Surface, at: float) -> None:
        attached, surface.attached = surface.attached, None
        damaged, surface.damaged = surface.damaged, 0
        if attached is None:
            return  # nothing new is shown
        buffer, is_there = attached
        if not is_there:
            _away(surface, at)
            return
        is_first = surface.is_window and surface.mapped is None
        if is_first:
            surface.mapped = at
            self.windows.append(surface)
        surface.unmapped = None
        picture = None if buffer is None else _picture(buffer)
        surface.is_read = picture is not None
        is_new = is_first or self._is_new(surface, picture, damaged)
        if is_new and self._paints < MOST_PAINTS:
            self._paints += 1
            surface.picture = picture
            surface.window().paints.append(at)

    def _is_new(self, surface: Surface, picture: Optional[Shot], damaged: int) -> bool:
        """Whether more of its picture changed than a caret does; where it cannot be read, whether
        more is said to have."""
        small = self._small_area
        if picture is None:
            return damaged > small
        if surface.picture is None:
            return True
        return changed_pixels(surface.picture, picture, small) > small

    def _surface(self, number: int) -> Optional[Surface]:
        _, item = self._objects.get(number, ("", None))
        return item if isinstance(item, Surface) else None


def _away(surface: Surface, at: float) -> None:
    if surface.mapped is not None and surface.unmapped is None:
        surface.unmapped = at


def _picture(buffer: Buffer) -> Optional[Shot]:
    """What the buffer holds now; read, not mapped: the application may shorten it at any time."""
    width, size = buffer.stride // BYTES_PER_PIXEL, buffer.stride * buffer.height
    if not 0 < width * buffer.height <= MOST_PIXELS:
        return None
    try:
        data = os.pread(buffer.pool.file, size, buffer.offset)
    except OSError:
        return None
    return Shot(width, data) if len(data) == size and buffer.stride % BYTES_PER_PIXEL == 0 else None


Message = Tuple[int, int, bytes]


def _first_of(data: bytes) -> Tuple[Optional[Message], bytes]:
    """The first whole message and what follows; None where it is not all there yet.

    Raises
    ------
    NotUnderstood
    """
    if len(data) < HEAD.size:
        return None, data
    number, second = HEAD.unpack_from(data)
    opcode, length = second & 0xFFFF, second >> 16
    if length < HEAD.size or len(data) > MOST_BUFFERED:
        raise NotUnderstood("a message of %d bytes" % length)
    if len(data) < length:
        return None, data
    return (number, opcode, data[HEAD.size : length]), data[length:]


def _word(words: bytes, at: int) -> int:
    if not 0 <= at <= len(words) - WORD.size:
        raise NotUnderstood("a message that is cut short")
    return int(WORD.unpack_from(words, at)[0])


def _signed(words: bytes, at: int) -> int:
    word = _word(words, at)
    return word - 2**32 if word >= 2**31 else word
