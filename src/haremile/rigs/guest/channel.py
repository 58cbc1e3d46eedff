"""One line-wise channel of a guest, every line stamped with the host's monotonic clock."""

import re
import socket
import threading
import time
from collections.abc import Callable, Iterator
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

    def __init__(
        self,
        name: str,
        path: Path,
        deadline: float,
        is_over: Callable[[], bool] = lambda: False,
    ):
        self.name = name
        self.lines: list[StampedLine] = []
        self._changed = threading.Condition()
        self._closed = False
        self._rest = StampedLine(0.0, "")
        self._socket = _connect(path, deadline, is_over)
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
                self._rest = StampedLine(at, rest.decode("utf-8", "replace"))
                self._changed.notify_all()

    def follow(self, deadline: float, prompts: str | None = None) -> Iterator[StampedLine]:
        """Yield lines from the first on, waiting for more until `deadline` (monotonic seconds).

        A line that is not ended yet counts as soon as it holds `prompts`, as one that asks for a
        name does.

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
                line = self._awaited(place, deadline, prompts)
                is_whole = place < len(self.lines)
            place += is_whole
            prompts = prompts if is_whole else None
            panic = PANIC.search(line.text)
            if panic:
                raise GuestPanickedError(f"the guest's kernel panicked: {panic[1]}")
            yield line

    def _awaited(self, place: int, deadline: float, prompts: str | None) -> StampedLine:
        """The line at a place, or the unfinished one that holds `prompts`; with the lock held."""
        while place >= len(self.lines):
            if prompts is not None and prompts in self._rest.text:
                return self._rest
            if self._closed:
                raise GuestDiedError(f"the guest ended while its {self.name} was awaited")
            left = deadline - time.monotonic()
            if left <= 0:
                raise GuestHungError(f"nothing awaited came on its {self.name} in time")
            self._changed.wait(left)
        return self.lines[place]

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


def _connect(path: Path, deadline: float, is_over: Callable[[], bool]) -> socket.socket:
    while True:
        end = socket.socket(socket.AF_UNIX)
        try:
            end.connect(str(path))
            return end
        except OSError as error:
            end.close()
            if is_over() or time.monotonic() > deadline:
                raise GuestDiedError(f"the guest's channel {path.name} never opened") from error
            time.sleep(0.005)
