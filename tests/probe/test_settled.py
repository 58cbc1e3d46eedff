"""When a whole desktop has come to rest, before one known application each."""

import subprocess
import sys
from contextlib import contextmanager
from pathlib import Path

from haremile_probe.collect.sources import Sources
from haremile_probe.x.settled import read_settled_desktop

KNOWN = [sys.executable, str(Path(__file__).with_name("x_applications.py"))]


@contextmanager
def beside(behaviour):
    with subprocess.Popen([*KNOWN, behaviour]) as started:
        try:
            yield
        finally:
            started.kill()


def read(quiet_s, limit_s):
    sources = Sources()
    read_settled_desktop(sources, quiet_s, limit_s)
    return sources


def test_a_clock_that_is_painted_anew_does_not_keep_a_desktop_from_its_rest(display):
    begun = Sources().clock()
    with beside("repaint"):
        found = read(2.0, 60.0)
    (record,) = found.records
    assert record.name == "desktop-settled"
    assert begun < float(record.text) < Sources().clock() - 2.0
    assert found.faults == []


def test_a_desktop_without_rest_is_said_to_be_with_the_place_that_changes(display):
    with beside("restless"):
        found = read(5.0, 10.0)
    assert found.records == []
    (fault,) = found.faults
    assert fault.kind == "timed-out"
    assert "still changed after 10 s, most often 200 × 200 pixels at 35, 35" in fault.what


def test_what_was_at_rest_before_it_was_looked_at_is_told_with_that(display):
    found = read(0.5, 10.0)
    assert len(found.records) == 1
    (fault,) = found.faults
    assert fault.kind == "absent"
    assert "nothing changed after it was first looked at" in fault.what
