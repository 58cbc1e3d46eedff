"""Documents of a ramp as files: a copy for each step, and whether it was opened."""

import ctypes
import os
import shutil
import struct
import tempfile
from typing import Dict, Optional

from haremile_probe.load.documents import document
from haremile_probe.load.kinds import NAMES

IN_OPEN = 0x20
PREFIX = "haremile-ramp-"


class Documents:
    """Copies of documents in a folder that goes with it, and whether each was opened. What an
    earlier probe that was killed left is removed first."""

    def __init__(self, owner: Optional["tuple[int, int]"] = None, place: Optional[str] = None):
        self._place = place or tempfile.gettempdir()
        _clear_left(self._place)
        self._folder: Optional[str] = None
        self._owner = owner
        self._kernel = ctypes.CDLL(None, use_errno=True)
        self._notes = self._kernel.inotify_init1(os.O_NONBLOCK)
        if self._notes < 0:
            raise OSError(ctypes.get_errno(), "inotify_init1")
        self._watched: Dict[int, int] = {}
        self._seen: "set[int]" = set()

    def lay(self, number: int, kind: str) -> str:
        """A fresh copy for a step; its path."""
        if self._folder is None:
            self._folder = tempfile.mkdtemp(prefix="%s%d-" % (PREFIX, os.getpid()), dir=self._place)
            self._hand_over(self._folder)
        path = os.path.join(self._folder, "%d-%s" % (number, NAMES[kind]))
        with open(path, "wb") as file:
            file.write(document(kind))
        self._hand_over(path)
        watch = self._kernel.inotify_add_watch(self._notes, path.encode(), IN_OPEN)
        if watch < 0:
            raise OSError(ctypes.get_errno(), "inotify_add_watch")
        self._watched[watch] = number
        return path

    def _hand_over(self, path: str) -> None:
        if self._owner is not None:
            os.chown(path, *self._owner)

    def was_opened(self, number: int) -> bool:
        """Whether anything opened a step's copy since it was laid."""
        try:
            notes = os.read(self._notes, 65536)
        except BlockingIOError:
            notes = b""
        while notes:
            watch, _, _, length = struct.unpack_from("=iIII", notes)
            self._seen.add(self._watched.get(watch, 0))
            notes = notes[16 + length :]
        return number in self._seen

    def close(self) -> None:
        """Remove everything."""
        os.close(self._notes)
        if self._folder is not None:
            shutil.rmtree(self._folder, ignore_errors=True)


def _clear_left(place: str) -> None:
    for name in os.listdir(place):
        pid = name[len(PREFIX) :].partition("-")[0] if name.startswith(PREFIX) else ""
        if pid.isdigit() and not os.path.exists("/proc/" + pid):
            shutil.rmtree(os.path.join(place, name), ignore_errors=True)
