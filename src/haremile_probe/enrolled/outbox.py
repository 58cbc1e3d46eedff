"""Captures that wait for the server, kept until it has them."""

import os
from typing import Callable, List

from haremile_probe.enrolled.enrolment import outbox_folder
from haremile_probe.enrolled.server import Server, ServerRefused
from haremile_probe.keeping import write_whole
from haremile_probe.wire import Capture, dump_capture


def keep(capture: Capture) -> str:
    """Keep a capture on disk, so that no loss of power loses it; return its path.

    Raises OSError where there is no room; nothing is left of it then.
    """
    os.makedirs(outbox_folder(), exist_ok=True)
    path = os.path.join(outbox_folder(), capture.id + ".json")
    write_whole(path, dump_capture(capture))
    return path


def waiting() -> List[str]:
    """Paths of what waits, the oldest first (ids are in order of time)."""
    try:
        names = sorted(os.listdir(outbox_folder()))
    except OSError:
        return []
    return [os.path.join(outbox_folder(), name) for name in names if name.endswith(".json")]


def hand_in(server: Server, say: Callable[[str], None], held: List[Capture]) -> int:
    """Hand everything in: what is on disk, and what was `held` in memory because that had no room
    (taken out of the list as it goes). Return how many were taken. What the server refuses is put
    aside.

    Raises
    ------
    ServerAway
        What was not handed in yet stays.
    """
    taken = 0
    for path in waiting():
        with open(path, "rb") as file:
            body = file.read()
        name = os.path.basename(path)
        if _took(server, say, name, body):
            os.remove(path)
            taken += 1
        else:
            os.replace(path, path + ".refused")
    while held:
        taken += _took(server, say, held[0].id, dump_capture(held[0]))
        held.pop(0)
    return taken


def _took(server: Server, say: Callable[[str], None], name: str, body: bytes) -> bool:
    """Whether the server took a capture; ServerAway and what ends this machine's work go on up."""
    try:
        answer = server.post("/api/rigs/captures", body)
    except ServerRefused as error:
        if error.status == 403 and "key" in str(error):
            raise  # it is this machine that is not wanted any more, not this capture
        say("the server refused %s: %s" % (name, error))
        return False
    say("%s: %s" % (name, answer.get("became")))
    return True
