"""A command of the tester's own, run once: bounded in time and in what it prints, never through a
shell."""

import os
import selectors
import signal
import subprocess
import tempfile
import time
from functools import partial
from typing import Any, Dict, Optional, Sequence

from haremile_probe.session_user import SessionUser, become, environment_for

MOST_OUTPUT = 65536
"""Bytes that are read of each of its two streams; who prints more is ended."""

GRACE_S = 2.0


def run_command(
    words: Sequence[str], limit_s: float, user: Optional[SessionUser] = None
) -> Dict[str, Any]:
    """Run it in an empty folder of its own, as that user, and tell what became of it.

    Returns
    -------
    dict
        ``code`` (negative for a signal), ``took_s``, ``output``, ``errors``, ``ended`` (why we
        ended it: ``limit`` or ``flood``, else None) and ``absent`` (why it could not be begun).
    """
    told: Dict[str, Any] = {"code": None, "took_s": None, "output": "", "errors": ""}
    told.update(ended=None, absent=None)
    with tempfile.TemporaryDirectory(prefix="haremile-own-") as folder:
        if user is not None:
            os.chown(folder, user.uid, user.gid)
        begun = time.monotonic()
        try:
            child = subprocess.Popen(
                list(words),
                cwd=folder,
                env=environment_for(user, dict(os.environ)),
                stdin=subprocess.DEVNULL,
                stdout=subprocess.PIPE,
                stderr=subprocess.PIPE,
                start_new_session=True,
                preexec_fn=None if user is None else partial(become, user),  # noqa: PLW1509  # the probe has no threads
            )
        except OSError as error:
            told["absent"] = "%s: %s" % (words[0], os.strerror(error.errno or 0))
            return told
        try:
            told["ended"] = _heard(child, begun + limit_s, told)
            told["took_s"] = time.monotonic() - begun
        finally:
            _end(child)
        told["code"] = child.returncode
    return told


def _heard(child: "subprocess.Popen[bytes]", deadline: float, told: Dict[str, Any]) -> Any:
    """Read both streams until the command is over; why it has to be ended before, if it has."""
    assert child.stdout is not None and child.stderr is not None
    heard = {"output": bytearray(), "errors": bytearray()}
    ended = None
    with selectors.DefaultSelector() as ready:
        ready.register(child.stdout, selectors.EVENT_READ, "output")
        ready.register(child.stderr, selectors.EVENT_READ, "errors")
        while ready.get_map() and ended is None:
            events = ready.select(max(deadline - time.monotonic(), 0.0))
            if not events:
                ended = "limit"
            for key, _ in events:
                part = os.read(key.fd, 4096)
                heard[key.data] += part
                if not part:
                    ready.unregister(key.fileobj)
                elif len(heard[key.data]) > MOST_OUTPUT:
                    ended = "flood"
    for name, text in heard.items():
        told[name] = bytes(text[:MOST_OUTPUT]).decode("utf-8", "replace")
    if ended is None:
        try:
            child.wait(max(deadline - time.monotonic(), 0.0))
        except subprocess.TimeoutExpired:
            ended = "limit"  # it closed its streams and went on
    return ended


def _end(child: "subprocess.Popen[bytes]") -> None:
    """End what is left of it and of everything that it started in its session."""
    for number in (signal.SIGTERM, signal.SIGKILL):
        try:
            os.killpg(child.pid, number)
        except (ProcessLookupError, PermissionError):
            break
        if child.poll() is None:
            try:
                child.wait(GRACE_S)
            except subprocess.TimeoutExpired:
                continue
    child.wait()
    for stream in (child.stdout, child.stderr):
        if stream is not None:
            stream.close()
