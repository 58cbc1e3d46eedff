"""Stands between an application and its compositor: hands everything on, and follows it.

What it costs is one copy of each message, well under a millisecond; ``check`` tells how much.
"""

import array
import os
import select
import socket
import time
from collections import deque
from typing import Deque, Dict, List, Optional, Tuple

from haremile_probe.launching.start import SMALL_AREA, DisplayGone
from haremile_probe.runtime import MissingHere
from haremile_probe.session_user import SessionUser
from haremile_probe.wayland.surfaces import Conversation, NotUnderstood, Surface

CHUNK = 65536
MOST_FILES = 253
"""The kernel passes no more with one message (SCM_MAX_FD)."""

MOST_WAITING = 8 * 2**20
NAME = "haremile-%d"


def compositor_path() -> Optional[str]:
    """The socket of the session's compositor; None where this is no Wayland session."""
    name = os.environ.get("WAYLAND_DISPLAY")
    folder = os.environ.get("XDG_RUNTIME_DIR")
    if not name or not (folder or name.startswith("/")):
        return None
    return name if name.startswith("/") else os.path.join(str(folder), name)


class _Side:
    """One end of a connection, and what waits to be sent to it."""

    def __init__(self, link: socket.socket):
        self.link = link
        self.waiting: Deque[Tuple[bytes, List[int]]] = deque()
        self.size = 0

    def send(self) -> None:
        """As much as it takes."""
        while self.waiting:
            data, files = self.waiting[0]
            passed = [(socket.SOL_SOCKET, socket.SCM_RIGHTS, array.array("i", files))]
            try:
                sent = self.link.sendmsg([data], passed if files else [])
            except BlockingIOError:
                return
            for file in files:
                os.close(file)
            self.size -= sent
            if sent == len(data):
                self.waiting.popleft()
            else:
                self.waiting[0] = (data[sent:], [])

    def add(self, data: bytes, files: List[int]) -> None:
        """Hand on, or keep until it can be."""
        self.waiting.append((data, files))
        self.size += len(data)
        self.send()

    def close(self) -> None:
        """End it; what still waits is lost with it."""
        self.link.close()
        for _, files in self.waiting:
            for file in files:
                os.close(file)
        self.waiting.clear()


class _Link:
    """An application's connection and the one to the compositor that stands for it."""

    def __init__(self, client: socket.socket, path: str, small_area: int):
        server = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM | socket.SOCK_CLOEXEC)
        try:
            server.connect(path)
        except OSError:
            server.close()
            raise
        for one in (client, server):
            one.setblocking(False)
        self.client, self.server = _Side(client), _Side(server)
        self.followed: Optional[Conversation] = Conversation(small_area)

    def close(self) -> None:
        self.client.close()
        self.server.close()
        if self.followed is not None:
            self.followed.close()


class WaylandWatch:
    """A socket for applications in place of the compositor's. Made before anything is started.

    Raises MissingHere where there is no compositor.
    """

    def __init__(self, user: Optional[SessionUser] = None):
        path = compositor_path()
        if path is None:
            raise MissingHere(
                "no Wayland session: WAYLAND_DISPLAY and XDG_RUNTIME_DIR are not both set"
            )
        self.path = path
        with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as trial:
            try:
                trial.connect(path)
            except OSError as error:
                raise MissingHere(
                    "the compositor at %s does not answer: %s" % (path, error)
                ) from None
        self.name = os.path.join(os.path.dirname(path), NAME % os.getpid())
        self._listening = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM | socket.SOCK_CLOEXEC)
        self._listening.bind(self.name)
        os.chmod(self.name, 0o600)
        if user is not None:
            os.chown(self.name, user.uid, user.gid)
        self._listening.listen(16)
        self._listening.setblocking(False)
        self._poll = select.epoll()
        self._poll.register(self._listening, select.EPOLLIN)
        self._links: Dict[int, Tuple[_Link, bool]] = {}
        self._every: List[_Link] = []
        self._small_area = SMALL_AREA

    def _check_there(self) -> None:
        """Whether it ended one application's connection, or is gone itself: raises DisplayGone."""
        with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as trial:
            try:
                trial.connect(self.path)
            except OSError as error:
                raise DisplayGone("the compositor went away: %s" % error) from None

    def clear(self, small_area: int = SMALL_AREA) -> None:
        """End every connection and forget what was seen; from now on a change of no more than so
        many pixels is none."""
        self._small_area = small_area
        for link in self._every:
            self._end(link)
        self._every = []

    def close(self) -> None:
        """End everything; the socket is gone."""
        self.clear()
        self._poll.close()
        self._listening.close()
        os.unlink(self.name)

    def fileno(self) -> int:
        """A descriptor for polling."""
        return self._poll.fileno()

    @property
    def was_spoken_to(self) -> bool:
        """Whether any application connected since it was cleared, and was understood."""
        return any(link.followed is not None for link in self._every)

    def windows(self) -> List[Surface]:
        """Every window that was there, in the order in which they came."""
        found = [w for link in self._every if link.followed for w in link.followed.windows]
        return sorted(found, key=lambda window: window.mapped or 0.0)

    def take(self) -> None:
        """Take what has come, and hand it on."""
        for number, event in self._poll.poll(0):
            if number == self._listening.fileno():
                self._accept()
                continue
            link, is_client = self._links.get(number, (None, False))
            if link is None:
                continue
            try:
                self._serve(link, is_client, event)
            except (OSError, EOFError):
                self._end(link)
                if not is_client:
                    self._check_there()

    def _accept(self) -> None:
        client, _ = self._listening.accept()
        try:
            link = _Link(client, self.path, self._small_area)
        except OSError as error:
            client.close()
            raise DisplayGone("the compositor went away: %s" % error) from None
        self._every.append(link)
        for side, is_client in ((link.client, True), (link.server, False)):
            self._links[side.link.fileno()] = (link, is_client)
            self._poll.register(side.link, select.EPOLLIN)

    def _serve(self, link: _Link, is_client: bool, event: int) -> None:
        own, other = (link.client, link.server) if is_client else (link.server, link.client)
        if event & select.EPOLLOUT:
            own.send()
        if event & (select.EPOLLIN | select.EPOLLHUP | select.EPOLLERR):
            data, files = _received(own.link)
            at = time.monotonic()
            copies = [os.dup(file) for file in files] if is_client and link.followed else []
            other.add(data, files)
            self._follow(link, is_client, data, copies, at)
        for side in (own, other):
            wanted = select.EPOLLIN if (other if side is own else own).size < MOST_WAITING else 0
            self._poll.modify(side.link, wanted | (select.EPOLLOUT if side.waiting else 0))

    @staticmethod
    def _follow(link: _Link, is_client: bool, data: bytes, copies: List[int], at: float) -> None:
        if link.followed is None:
            return
        try:
            if is_client:
                link.followed.said(data, copies, at)
            else:
                link.followed.answered(data)
        except NotUnderstood:
            link.followed.close()  # it goes on; its windows are not seen
            link.followed = None

    def _end(self, link: _Link) -> None:
        if link.client.link.fileno() < 0:
            return
        if link.followed is not None:
            link.followed.gone(time.monotonic())
        for side in (link.client, link.server):
            self._links.pop(side.link.fileno(), None)
            self._poll.unregister(side.link)
        link.close()


def _received(link: socket.socket) -> Tuple[bytes, List[int]]:
    """What came, and the files that came with it. Raises EOFError at the end."""
    data, passed, _, _ = link.recvmsg(CHUNK, socket.CMSG_SPACE(MOST_FILES * 4))
    files = array.array("i")
    for level, kind, body in passed:
        if level == socket.SOL_SOCKET and kind == socket.SCM_RIGHTS:
            files.frombytes(body[: len(body) - len(body) % files.itemsize])
    if not data:
        for file in files:
            os.close(file)
        raise EOFError
    return data, list(files)
