"""The application that the probe checks itself on in a Wayland session: pictures at known times.

It hands over its first picture half a second after it is ready to, thirteen more after that, and
writes down when it really did, as its counterpart of X does.
"""

import mmap
import os
import socket
import struct
import sys
import time
from typing import Dict, List, Tuple

from haremile_probe.check_application import (
    FILE,
    MAP_AFTER_S,
    PAINT_EVERY_S,
    PAINTS,
    SIZE,
    wait_until,
    write_times,
)
from haremile_probe.wayland.proxy import compositor_path

WORD = struct.Struct("=I")
WIDTH, HEIGHT = SIZE
STRIDE = 4 * WIDTH
DISPLAY, REGISTRY, SYNC = 1, 2, 3
COMPOSITOR, SHM, BASE, POOL, FIRST_BUFFER, SURFACE, SHELL, WINDOW = 4, 5, 6, 7, 8, 10, 11, 12
"""Numbers of objects, in the order in which they are made: a compositor takes no others."""

XRGB = 1
WANTED = {"wl_compositor": (COMPOSITOR, 4), "wl_shm": (SHM, 1), "xdg_wm_base": (BASE, 1)}


class Talk:
    """A connection to the compositor: numbers and texts out, messages in."""

    def __init__(self, path: str):
        self.link = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        self.link.connect(path)
        self._come = b""

    def say(self, number: int, opcode: int, *words: object, file: int = -1) -> None:
        """One request."""
        body = b"".join(
            _text(word) if isinstance(word, str) else WORD.pack(int(str(word)) & 0xFFFFFFFF)
            for word in words
        )
        message = WORD.pack(number) + WORD.pack((8 + len(body)) << 16 | opcode) + body
        files = [(socket.SOL_SOCKET, socket.SCM_RIGHTS, WORD.pack(file))] if file >= 0 else []
        self.link.sendmsg([message], files)

    def hear(self) -> List[Tuple[int, int, bytes]]:
        """The messages that have come; waits for one at least."""
        found: List[Tuple[int, int, bytes]] = []
        while not found:
            data = self.link.recv(65536)
            if not data:
                raise SystemExit("the compositor ended the connection")
            self._come += data
            while len(self._come) >= 8:
                number, second = struct.unpack_from("=II", self._come)
                if len(self._come) < second >> 16:
                    break
                found.append((number, second & 0xFFFF, self._come[8 : second >> 16]))
                self._come = self._come[second >> 16 :]
        return found

    def answer(self, messages: List[Tuple[int, int, bytes]]) -> bool:
        """Answer what has to be answered; whether the window was told its size."""
        is_told = False
        for number, opcode, words in messages:
            if (number, opcode) == (BASE, 0):
                self.say(BASE, 3, WORD.unpack(words)[0])
            elif (number, opcode) == (SHELL, 0):
                self.say(SHELL, 4, WORD.unpack(words)[0])
                is_told = True
        return is_told


def _text(word: str) -> bytes:
    body = word.encode() + b"\0"
    return WORD.pack(len(body)) + body + b"\0" * (-len(body) % 4)


def _bind(talk: Talk) -> None:
    talk.say(DISPLAY, 1, REGISTRY)
    talk.say(DISPLAY, 0, SYNC)
    known: Dict[str, int] = {}
    is_over = False
    while not is_over:
        for number, opcode, words in talk.hear():
            is_over = is_over or number == SYNC
            if (number, opcode) == (REGISTRY, 0):
                name, length = struct.unpack_from("=II", words)
                known[words[8 : 8 + length - 1].decode()] = name
    for interface, (number, version) in WANTED.items():
        talk.say(REGISTRY, 0, known[interface], interface, version, number)


def main() -> int:
    """Show, paint, and stay until ended."""
    path = compositor_path()
    if path is None:
        raise SystemExit("no Wayland session")
    talk = Talk(path)
    _bind(talk)
    file = os.memfd_create("haremile-check")
    size = STRIDE * HEIGHT
    os.ftruncate(file, 2 * size)
    talk.say(SHM, 0, POOL, 2 * size, file=file)
    for place in range(2):
        talk.say(POOL, 0, FIRST_BUFFER + place, place * size, WIDTH, HEIGHT, STRIDE, XRGB)
    talk.say(COMPOSITOR, 0, SURFACE)
    talk.say(BASE, 2, SHELL, SURFACE)
    talk.say(SHELL, 1, WINDOW)
    talk.say(WINDOW, 2, "haremile check")
    talk.say(SURFACE, 6)
    while not talk.answer(talk.hear()):
        pass
    shared = mmap.mmap(file, 2 * size)
    begun = time.monotonic()
    wait_until(begun + MAP_AFTER_S)
    times = []
    for number in range(1 + PAINTS):
        place = number % 2
        shade = bytes([40 + 10 * number]) * (STRIDE * HEIGHT // 4)
        shared[place * size : place * size + len(shade)] = shade
        times.append(time.monotonic())
        talk.say(SURFACE, 1, FIRST_BUFFER + place, 0, 0)
        talk.say(SURFACE, 2, 0, 0, WIDTH, HEIGHT)
        talk.say(SURFACE, 6)
        wait_until(time.monotonic() + PAINT_EVERY_S)
    write_times(os.environ[FILE], times[0], times[-1])
    while True:  # until it is ended from outside
        talk.answer(talk.hear())


if __name__ == "__main__":
    sys.exit(main())
