"""The helper's side of the socket: root listens, for one user."""

import json
import os
import pwd
import signal
import socket
import struct
from typing import Any, Callable, Dict, Optional

from haremile_probe.helper import SOCKET
from haremile_probe.helper.verbs import Asker, VerbError, done
from haremile_probe.runtime import MissingHere

MOST_ASKED = 64 * 1024
PATIENCE_S = 10.0


def peer_of(link: socket.socket) -> Asker:
    """Who is at the other end, as the kernel tells."""
    size = struct.calcsize("3i")
    _, uid, _ = struct.unpack("3i", link.getsockopt(socket.SOL_SOCKET, socket.SO_PEERCRED, size))
    return Asker(uid)


def answer(text: bytes, asker: Asker, root: str = "") -> Dict[str, Any]:
    """What is answered to one request: the facts, or why not and of which of three kinds."""
    try:
        asked = json.loads(text)
        verb, facts = asked["verb"], asked.get("facts", {})
    except (ValueError, TypeError, KeyError, RecursionError):
        return {"refused": "a request is an object with a verb and facts"}
    try:
        return {"facts": done(verb, asker, facts, root)}
    except VerbError as error:
        return {"refused": str(error)}
    except (OSError, MissingHere) as error:
        return {"failed": str(error), "errno": getattr(error, "errno", None)}


class HelperServer:
    """Answers one user's requests, one after the other.

    Parameters
    ----------
    user : str
        The only one besides root that may ask.
    path : str
        Where the socket is made.
    """

    def __init__(self, user: str, path: str = SOCKET, root: str = ""):
        try:
            entry = pwd.getpwnam(user)
        except KeyError:
            raise MissingHere("there is no user %s on this machine" % user) from None
        self._allowed, self._path, self._root = (0, entry.pw_uid), path, root
        folder = os.path.dirname(path)
        os.makedirs(folder, mode=0o755, exist_ok=True)
        if os.path.lexists(path):
            os.remove(path)
        self._listener = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        before = os.umask(0o177)
        try:
            self._listener.bind(path)
        finally:
            os.umask(before)
        os.chown(path, entry.pw_uid, entry.pw_gid)
        self._listener.listen(4)

    def serve(self, say: Callable[[str], None]) -> None:
        """Until a signal ends it."""
        signal.signal(signal.SIGTERM, lambda *_: self._listener.close())
        try:
            while True:
                link, _ = self._listener.accept()
                with link:
                    self._one(link, say)
        except OSError:
            pass  # the listener was closed: it is over
        finally:
            if os.path.lexists(self._path):
                os.remove(self._path)

    def _one(self, link: socket.socket, say: Callable[[str], None]) -> None:
        link.settimeout(PATIENCE_S)
        asker = peer_of(link)
        try:
            text = _line(link)
            if asker.uid not in self._allowed:
                say("user %d was refused" % asker.uid)
                told: Dict[str, Any] = {"refused": "this helper is not for you"}
            else:
                told = answer(text, asker, self._root) if text else {"refused": "too long"}
            link.settimeout(None)
            link.sendall(json.dumps(told).encode() + b"\n")
        except OSError as error:
            say("a request was lost: %s" % error)


def _line(link: socket.socket) -> Optional[bytes]:
    """One line of the request; None where it is too long, or cut short."""
    parts, size = [], 0
    while size <= MOST_ASKED:
        part = link.recv(8192)
        if not part:
            return None
        parts.append(part)
        size += len(part)
        if part.endswith(b"\n"):
            return b"".join(parts)
    return None
