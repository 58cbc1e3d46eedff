"""Numbers of conductors: who can be known to be dead."""

import os
import subprocess

from haremile.store import conductor_ids
from haremile.store.conductor_ids import OWN_BITS, PID_BITS, conductor_id, has_ended, place


def of(where, pid):
    return (where << PID_BITS | pid) << OWN_BITS


def test_conductors_of_one_process_differ_and_fit():
    found = {conductor_id() for _ in range(1000)}
    assert len(found) == 1000
    assert max(found) < 2**63
    assert not any(map(has_ended, found))


def test_one_whose_process_has_ended_here_is_known():
    gone = subprocess.Popen(["true"])
    left = subprocess.Popen(["sleep", "1000"])
    gone.wait()
    try:
        assert has_ended(of(place(), gone.pid))
        assert not has_ended(of(place(), left.pid))
    finally:
        left.kill()
        left.wait()


def test_of_another_machine_or_boot_nothing_is_known(monkeypatch):
    gone = subprocess.Popen(["true"])
    gone.wait()
    assert not has_ended(of(place() ^ 1, gone.pid))
    elsewhere = of(place(), os.getpid())
    monkeypatch.setattr(conductor_ids, "place", lambda: 7)
    assert not has_ended(elsewhere)
