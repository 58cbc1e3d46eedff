"""Launch times against a log of what passed between the application and the server."""

import os
import shutil
import statistics
import subprocess

import pytest

from ground_truth import APPLICATIONS, MANAGERS, SYSTEM_PYTHON, busy, managed_by, measured
from haremile_probe.launching.process_tree import become_subreaper
from haremile_probe.launching.start import Outcome
from haremile_probe.launching.start_condition import drop_caches
from haremile_probe.x.watch import WindowWatch

WINDOW_S, SETTLED_S = 0.005, 0.010
"""Medians of how far the probe may be off."""

REPEATS, LADEN_REPEATS = 5, 9
MODULES = {"gtk3": "gi", "gtk4": "gi", "qt5": "PyQt5", "qt6": "PyQt6", "tk": "tkinter"}
pytestmark = pytest.mark.long


@pytest.fixture(params=sorted(MANAGERS))
def managed(request, display):
    """The display under one of the window managers, once it is there."""
    command = MANAGERS[request.param]
    if not command:
        yield request.param
        return
    with managed_by(command, display):
        yield request.param


@pytest.fixture
def watch(managed):
    become_subreaper()
    made = WindowWatch()
    yield made
    made.close()


def assert_true(truths):
    assert [one.found.outcome for one in truths] == [Outcome.WINDOW] * len(truths)
    assert abs(statistics.median(one.window_off for one in truths)) <= WINDOW_S
    assert abs(statistics.median(one.settled_off for one in truths)) <= SETTLED_S


def test_every_toolkit_is_here():
    for module in MODULES.values():
        subprocess.run([SYSTEM_PYTHON, "-c", f"import {module}"], check=True)
    assert all(shutil.which(words[0]) for words in APPLICATIONS.values())


@pytest.mark.parametrize("name", APPLICATIONS)
def test_window_and_rest_are_told_as_they_were(watch, managed, name, tmp_path):
    assert_true([measured(watch, name, tmp_path) for _ in range(REPEATS)])


@pytest.mark.parametrize("name", [name for name in APPLICATIONS if name != "chromium"])
def test_so_are_they_beside_a_load_of_twelve(watch, managed, name, tmp_path):
    with busy(12):
        assert_true([measured(watch, name, tmp_path) for _ in range(LADEN_REPEATS)])


@pytest.mark.parametrize("name", APPLICATIONS)
def test_cold_is_later_than_warm_and_reads_more_every_time(watch, name, tmp_path):
    if os.geteuid() != 0:
        pytest.skip("caches are dropped as root")
    warm = [measured(watch, name, tmp_path).found for _ in range(REPEATS)][1:]
    cold = []
    for _ in range(REPEATS):
        drop_caches(warm[-1].files)
        cold.append(measured(watch, name, tmp_path).found)
    main = [statistics.median(one.main_s for one in group) for group in (warm, cold)]
    assert main[0] < main[1]
    faults = [[one.paging["pgmajfault"] for one in group] for group in (warm, cold)]
    assert max(faults[0]) < min(faults[1])
