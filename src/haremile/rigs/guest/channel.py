"""One line-wise channel of a guest, every line stamped with the host's monotonic clock."""

import re
import socket
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from haremile.errors import GuestDiedError, GuestHungError, GuestPanickedError

PANIC = re.compile(r"Kernel panic - not syncing: (.*)")


class StampedLine(NamedTuple):
    """A line and the instant its last byte arrived, seconds on the monotonic clock."""

    at: float
    text: str


class Channel:
    """Reads a unix socket in a thread of its own."""

    def __init__(self, name: str, path: Path, deadline: float):
        self.name = name
        self.lines: list[StampedLine] = []
        self._changed = threading.Condition()
        self._closed = False
        self._socket = _connect(path, deadline)
        self._thread = threading.Thread(target=self._read, name=f"guest-{name}", daemon=True)
        self._thread.start()

    def _read(self) -> None:
        rest = b""
        while True:
            try:
                data = self._socket.recv(65536)
            except OSError:
                data = b""
            at = time.monotonic()
            with self._changed:
                if not data:
                    self._closed = True
                    self._changed.notify_all()
                    return
                *whole, rest = (rest + data).split(b"\n")
                for line in whole:
                    text = line.decode("utf-8", "replace").rstrip("\r")
                    self.lines.append(StampedLine(at, text))
                self._changed.notify_all()

    def follow(self, deadline: float) -> Iterator[StampedLine]:
        """Yield lines from the first on, waiting for more until `deadline` (monotonic seconds).

        Raises
        ------
        GuestHungError
            When the deadline passes.
        GuestDiedError
            When the guest closes the channel.
        GuestPanickedError
            When the kernel says that it gave up.
        """
        place = 0
        while True:
            with self._changed:
                while place >= len(self.lines):
                    if self._closed:
                        raise GuestDiedError(f"the guest ended while its {self.name} was awaited")
                    left = deadline - time.monotonic()
                    if left <= 0:
                        raise GuestHungError(f"nothing awaited came on its {self.name} in time")
                    self._changed.wait(left)
                line = self.lines[place]
            place += 1
            panic = PANIC.search(line.text)
            if panic:
                raise GuestPanickedError(f"the guest's kernel panicked: {panic[1]}")
            yield line

    def send(self, word: str) -> None:
        """Write one line to the guest."""
        try:
            self._socket.sendall(word.encode() + b"\n")
        except OSError as error:
            raise GuestDiedError(f"the guest's {self.name} is gone: {error}") from error

    def text(self) -> str:
        """Everything that was read so far."""
        with self._changed:
            return "\n".join(line.text for line in self.lines)

    def close(self) -> None:
        """Close the socket and wait for the reading thread."""
        try:
            self._socket.shutdown(socket.SHUT_RDWR)
        except OSError:
            pass  # the other end closed first
        self._socket.close()
        self._thread.join(5)


def _connect(path: Path, deadline: float) -> socket.socket:
    while True:
        end = socket.socket(socket.AF_UNIX)
        try:
            end.connect(str(path))
            return end
        except OSError as error:
            end.close()
            if time.monotonic() > deadline:
                raise GuestDiedError(f"the guest's channel {path.name} never opened") from error
            time.sleep(0.005)
