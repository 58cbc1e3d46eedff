"""Captures that wait for the server, kept until it has them."""

import os
from typing import Callable, List

from haremile_probe.enrolled.enrolment import outbox_folder
from haremile_probe.enrolled.server import Server, ServerRefused
from haremile_probe.wire import Capture, dump_capture


def keep(capture: Capture) -> str:
    """Keep a capture on disk, so that no loss of power loses it; return its path."""
    os.makedirs(outbox_folder(), exist_ok=True)
    path = os.path.join(outbox_folder(), capture.id + ".json")
    with open(path + ".part", "wb") as file:
        file.write(dump_capture(capture))
        file.flush()
        os.fsync(file.fileno())
    os.replace(path + ".part", path)
    return path


def waiting() -> List[str]:
    """Paths of what waits, the oldest first (ids are in order of time)."""
    try:
        names = sorted(os.listdir(outbox_folder()))
    except OSError:
        return []
    return [os.path.join(outbox_folder(), name) for name in names if name.endswith(".json")]


def hand_in(server: Server, say: Callable[[str], None]) -> int:
    """Hand everything in; return how many were taken. What the server refuses is put aside.

    Raises
    ------
    ServerAway
        What was not handed in yet stays.
    """
    taken = 0
    for path in waiting():
        with open(path, "rb") as file:
            body = file.read()
        try:
            answer = server.post("/api/rigs/captures", body)
        except ServerRefused as error:
            if error.status == 403 and "key" in str(error):
                raise  # it is this machine that is not wanted any more, not this capture
            say("the server refused %s: %s" % (os.path.basename(path), error))
            os.replace(path, path + ".refused")
            continue
        say("%s: %s" % (os.path.basename(path), answer.get("became")))
        os.remove(path)
        taken += 1
    return taken
