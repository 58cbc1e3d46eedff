"""Launches as the accessibility bus tells of them, on a bus and a display of the test's own."""

import os
import statistics

import pytest

from ground_truth import APPLICATIONS
from haremile.processes import child_environment
from haremile_probe.accessibility.launch import launch
from haremile_probe.accessibility.watch import AccessibilityWatch
from haremile_probe.check_application import FILE
from haremile_probe.launching.process_tree import become_subreaper
from haremile_probe.launching.sight import CHECKED
from haremile_probe.launching.start import LaunchPlan, Outcome
from haremile_probe.runtime import MissingHere
from haremile_probe.session_user import SessionUser
from haremile_probe.verbs.check import own_command
from haremile_probe.x.launch import launch as launch_on_x
from haremile_probe.x.watch import WindowWatch
from helpers import running

REPEATS = 5
SAYS = APPLICATIONS["gtk4"]
"""GTK 3 says nothing in one launch of six: it has the keyboard before it knows who listens."""

NEAR_S = 0.1
"""An application says that it has the keyboard about when its window is there."""


@pytest.fixture
def bus(window_manager, tmp_path, monkeypatch):
    """A session bus, on which the accessibility bus starts when it is asked for."""
    os.chmod(tmp_path, 0o700)
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(tmp_path))
    words = ["dbus-daemon", "--session", "--nofork", "--print-address"]
    surroundings = {**child_environment(), "DISPLAY": os.environ["DISPLAY"]}
    with running(words, {**surroundings, "XDG_RUNTIME_DIR": str(tmp_path)}) as daemon:
        monkeypatch.setenv("DBUS_SESSION_BUS_ADDRESS", daemon.stdout.readline().strip())
        become_subreaper()
        yield


@pytest.mark.long
def test_the_known_application_is_heard(bus, tmp_path, monkeypatch):
    monkeypatch.setenv(FILE, str(tmp_path / "times"))
    watch = AccessibilityWatch()
    try:
        found = launch(watch, own_command(CHECKED["accessibility"]), LaunchPlan(quiet_s=0.2))
    finally:
        watch.close()
    told = dict(line.split() for line in (tmp_path / "times").read_text().splitlines())
    assert found.outcome is Outcome.WINDOW
    assert found.spawned + found.window_s >= float(told["mapped"])
    assert found.settled_s is None


@pytest.mark.long
def test_what_an_application_says_comes_about_when_its_window_does(bus):
    seen, heard = WindowWatch(), AccessibilityWatch()
    try:
        shown = [launch_on_x(seen, SAYS, LaunchPlan()).window_s for _ in range(REPEATS)]
        told = [launch(heard, SAYS, LaunchPlan()).window_s for _ in range(REPEATS)]
    finally:
        seen.close()
        heard.close()
    assert abs(statistics.median(told) - statistics.median(shown)) <= NEAR_S


@pytest.mark.long
def test_what_tells_nothing_is_no_fault_of_its(bus):
    heard = AccessibilityWatch()
    try:
        found = launch(heard, ["xterm"], LaunchPlan(limit_s=1.0))
    finally:
        heard.close()
    assert found.outcome is Outcome.NOT_SEEN


def test_without_a_bus_it_says_what_lacks(monkeypatch):
    monkeypatch.delenv("DBUS_SESSION_BUS_ADDRESS", raising=False)
    with pytest.raises(MissingHere, match="no session bus"):
        AccessibilityWatch()


def test_another_users_bus_is_not_asked():
    with pytest.raises(MissingHere, match="launch as that user"):
        AccessibilityWatch(SessionUser("tester", 4711, 4711, "/nowhere"))
