"""Asking the helper, from the probe that runs as the session's user."""

import errno
import json
import os
import socket
from typing import Any, Dict

from haremile_probe.helper import SOCKET

PATH_VARIABLE = "HAREMILE_PROBE_HELPER"
PATIENCE_S = 900.0
"""A walk over all files takes its time."""

MOST_TOLD = 64 * 2**20


class HelperRefused(Exception):
    """The helper will not do this, whoever asks."""


def ask(verb: str, **facts: Any) -> Dict[str, Any]:
    """What the helper answers; as root, what it would: the same list stands in this very process.

    Raises
    ------
    OSError
        PermissionError where there is no helper for this user, else what it met.
    HelperRefused
        If the verb is none, or what it is given is refused.
    """
    if os.geteuid() == 0 and PATH_VARIABLE not in os.environ:
        from haremile_probe.helper.verbs import Asker, VerbError, done

        try:
            return done(verb, Asker(0), facts)
        except VerbError as error:
            raise HelperRefused(str(error)) from None
    told = _exchange(json.dumps({"verb": verb, "facts": facts}).encode() + b"\n", verb)
    if "refused" in told:
        raise HelperRefused(str(told["refused"]))
    if "failed" in told:
        raise OSError(told.get("errno") or errno.EIO, str(told["failed"]))
    found = told["facts"]
    return dict(found) if isinstance(found, dict) else {}


def _exchange(request: bytes, verb: str) -> Dict[str, Any]:
    path = os.environ.get(PATH_VARIABLE, SOCKET)
    parts, size = [], 0
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as link:
        link.settimeout(PATIENCE_S)
        try:
            link.connect(path)
        except OSError:
            raise PermissionError(
                errno.EACCES, "%s needs root, and no helper runs here for this user" % verb
            ) from None
        link.sendall(request)
        while size < MOST_TOLD:
            part = link.recv(65536)
            if not part:
                break
            parts.append(part)
            size += len(part)
    try:
        told = json.loads(b"".join(parts))
        if isinstance(told, dict):
            return told
    except ValueError:
        pass  # cut short: told as a failure below
    raise OSError(errno.EIO, "the helper gave no answer to %s" % verb)
