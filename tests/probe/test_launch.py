"""Launches on a real X server: real applications, and ones that behave in one known way."""

import os
import pwd
import shutil
import subprocess
import sys
import time
from pathlib import Path

import pytest

from ground_truth import MANAGERS, managed_by
from haremile.processes import child_environment
from haremile_probe.launching.pixels import Shot
from haremile_probe.launching.process_tree import become_subreaper, descendants
from haremile_probe.launching.quiet import wait_for_quiet
from haremile_probe.launching.start import LaunchPlan, Outcome
from haremile_probe.launching.start_condition import drop_caches, resident_share
from haremile_probe.main import main
from haremile_probe.runtime import BadInput, MissingHere
from haremile_probe.verbs.launch import command_of, running_instance
from haremile_probe.x import rest
from haremile_probe.x.display import open_display, window_manager_name, window_manager_window
from haremile_probe.x.launch import launch
from haremile_probe.x.watch import WindowWatch, server_time
from helpers import running

APPLICATIONS = ("xterm", "featherpad", "l3afpad")
KNOWN = [sys.executable, str(Path(__file__).with_name("x_applications.py"))]
PLAN = LaunchPlan(quiet_s=0.4, limit_s=20.0)
PLACE = (30, 30, 300, 200, 0, 24)
ME = pwd.getpwuid(os.geteuid()).pw_name


@pytest.fixture
def watch(display):
    become_subreaper()
    made = WindowWatch()
    yield made
    made.close()


def times(found):
    return [found.window_s, found.main_s, found.settled_s]


@pytest.mark.parametrize("application", APPLICATIONS)
def test_a_real_application_is_seen_from_its_spawn_to_rest_and_ended(watch, application):
    found = launch(watch, [application], PLAN)
    assert found.outcome is Outcome.WINDOW, found
    assert 0.0 < found.window_s <= found.main_s <= found.settled_s
    if found.paint_s is not None:  # told in one breath with the mapping, it is not seen
        assert found.paint_s == pytest.approx(found.main_s, abs=1.0)
    assert found.matched_by in ("owner", "stated", "marker", "orphan")
    assert any(application in file for file in found.files)
    assert running_instance([application]) is None


@pytest.mark.parametrize("application", APPLICATIONS)
def test_a_start_with_dropped_caches_has_its_proof(watch, application):
    launch(watch, [application], PLAN)  # warms what an earlier test may have dropped
    warm = launch(watch, [application], PLAN)
    before = resident_share(warm.files)
    dropped = drop_caches(warm.files)
    cold = launch(watch, [application], PLAN)
    assert cold.outcome is Outcome.WINDOW
    if os.geteuid() == 0:
        assert dropped.how == "kernel"
        assert dropped.resident_share < before  # what others have mapped stays
        assert cold.paging["pgmajfault"] > warm.paging["pgmajfault"]
        assert cold.paging["pgpgin"] > 0
    else:
        assert dropped.how == "files"


def test_under_a_window_manager_frames_are_not_taken_for_windows(window_manager):
    become_subreaper()
    watch = WindowWatch()
    try:
        assert watch.manager_pid is not None
        faults = []
        assert window_manager_name(faults) == "Openbox"
        found = launch(watch, ["xterm"], PLAN)
    finally:
        watch.close()
    assert found.outcome is Outcome.WINDOW
    assert found.matched_by == "owner"


def test_a_window_manager_that_was_killed_is_not_there(display):
    with managed_by(MANAGERS["openbox"], display):
        opened = open_display()
        window_manager_window(opened).kill_client()  # leaves its word on the root window
        opened.sync()
        assert window_manager_window(opened) is None
        opened.close()
    faults = []
    assert window_manager_name(faults) is None
    assert [fault.kind for fault in faults] == ["absent"]


def test_a_splash_comes_before_the_main_window(watch):
    found = launch(watch, [*KNOWN, "splash"], PLAN)
    assert found.outcome is Outcome.SPLASH
    assert found.main_s - found.window_s > 0.15


def test_a_blinking_caret_does_not_keep_a_window_from_settling(watch):
    assert launch(watch, [*KNOWN, "caret"], PLAN).outcome is Outcome.WINDOW


def test_painting_the_same_picture_again_does_not_keep_a_window_from_settling(watch):
    found = launch(watch, [*KNOWN, "repaint"], PLAN)
    assert found.outcome is Outcome.WINDOW, found
    assert found.settled_s - found.main_s < 0.3


def test_a_paint_heard_of_after_the_picture_was_taken_is_in_it_and_counts(monkeypatch):
    pictures = iter([b"new!", b"new!", b"new!"])
    monkeypatch.setattr(rest, "shoot", lambda *_: Shot(1, next(pictures)))
    mapped = time.monotonic() - 1.0
    told = rest.Rest(None, 1, small_area=0)
    told.judge(mapped, mapped + 0.5)
    assert told.judge(mapped + 0.3, mapped + 0.8)
    assert told.changed_at == mapped + 0.3
    assert told.judge(time.monotonic() + 1.0, mapped + 3.0)  # the same picture painted once more
    assert told.changed_at == mapped + 0.3


def test_a_window_framed_twice_over_is_mapped_by_its_first_paint(watch, display):
    opened = open_display()
    made, inner, outer = (opened.screen().root.create_window(*PLACE) for _ in range(3))
    made.reparent(inner, 0, 0)
    inner.reparent(outer, 0, 0)
    for one in (made, inner, outer):
        one.map()
    opened.sync()
    watch.take()
    watch.display.sync()
    made.fill_rectangle(made.create_gc(), 0, 0, 200, 200)
    opened.sync()
    watch.take()
    seen = watch.windows[made.id]
    assert seen.via == "paint"
    assert seen.mapped == seen.paints[0].at
    opened.close()


def test_the_background_is_no_paint_of_the_application(watch):
    late = launch(watch, [*KNOWN, "late"], PLAN._replace(quiet_s=0.8))
    assert late.outcome is Outcome.WINDOW
    assert late.paint_s - late.main_s > 0.2, "its own paint comes 0.4 s later, or later still"
    blank = launch(watch, [*KNOWN, "blank"], PLAN)
    assert blank.outcome is Outcome.WINDOW
    assert blank.paint_s in (None, blank.main_s), "nothing is said to be painted later"


@pytest.mark.parametrize(
    ("behaviour", "outcome"),
    [
        ("complain", Outcome.DIALOG),
        ("toolbox", Outcome.WINDOW),
        ("flash", Outcome.WINDOW_GONE),
        ("splash_only", Outcome.SPLASH_THEN_EXIT),
    ],
)
def test_what_came_of_a_launch_is_told_in_the_right_words(watch, behaviour, outcome):
    found = launch(watch, [*KNOWN, behaviour], PLAN)
    assert found.outcome is outcome, found


def test_a_first_window_that_gives_way_is_learnt_to_be_no_main_one(watch):
    learnt = launch(watch, [*KNOWN, "untyped"], PLAN._replace(learn_s=3.0))
    assert learnt.main_no == 2
    known = launch(watch, [*KNOWN, "untyped"], PLAN._replace(main_no=learnt.main_no))
    assert known.outcome is Outcome.SPLASH
    assert known.main_s - known.window_s > 1.0


def test_nothing_settles_before_what_it_took_when_everything_was_read_already(watch):
    cold = launch(watch, [*KNOWN, "late"], PLAN._replace(quiet_s=0.2, least_s=5.0))
    assert cold.settled_s > cold.main_s + 0.3, "the late paint is waited for"


def test_a_window_that_never_rests_timed_out_and_is_ended(watch):
    found = launch(watch, [*KNOWN, "restless"], PLAN._replace(quiet_s=1.5, limit_s=2.5))
    assert found.outcome is Outcome.NOT_SETTLED
    assert not found.outcome.gives_readings
    assert descendants({os.getpid()}) & processes_named("x_applications") == set()


def test_a_window_that_goes_at_once_and_its_exit_code(watch):
    found = launch(watch, [*KNOWN, "crash"], PLAN)
    assert found.outcome in (Outcome.WINDOW_THEN_EXIT, Outcome.NO_WINDOW)
    assert found.detail == "code 7"


def test_a_window_of_an_orphan_is_still_the_launchs(watch):
    found = launch(watch, [*KNOWN, "orphan"], PLAN)
    assert found.outcome is Outcome.WINDOW, found
    assert processes_named("x_applications") == set()


def test_a_launch_handed_over_to_a_running_instance_is_no_launch(watch, tmp_path):
    pipe = str(tmp_path / "pipe")
    with running([*KNOWN, "listen", pipe], child_environment()) as instance:
        assert instance.stdout.readline() == "ready\n"
        found = launch(watch, [*KNOWN, "ask", pipe], PLAN)
    assert found.outcome is Outcome.HANDED_OVER
    assert not found.outcome.gives_readings


@pytest.mark.parametrize(
    ("command", "outcome", "detail"),
    [
        (["no-such-application"], Outcome.NOT_FOUND, "No such file"),
        (["sh", "-c", "exit 3"], Outcome.NO_WINDOW, "code 3"),
        (["sh", "-c", "kill -9 $$"], Outcome.NO_WINDOW, "signal 9"),
        (["sleep", "60"], Outcome.TIMED_OUT, ""),
    ],
)
def test_launches_without_a_window_are_told_apart(watch, command, outcome, detail):
    limit_s = 1.0 if outcome is Outcome.TIMED_OUT else 20.0
    found = launch(watch, command, PLAN._replace(limit_s=limit_s))
    assert found.outcome is outcome
    assert detail in found.detail
    assert times(found) == [None, None, None]


def processes_named(part):
    found = set()
    for name in filter(str.isdigit, os.listdir("/proc")):
        try:
            words = Path(f"/proc/{name}/cmdline").read_text()
        except OSError:
            continue
        if part in words:
            found.add(int(name))
    return found


def test_an_application_that_runs_already_is_found_by_its_program(tmp_path):
    program = shutil.copy(shutil.which("sleep"), tmp_path / "coppicer")
    with subprocess.Popen([program, "60"]) as child:
        try:
            assert running_instance([program]) == child.pid
        finally:
            child.kill()
    assert running_instance([program]) is None


def test_a_command_or_a_desktop_entry_is_what_is_started(tmp_path, monkeypatch):
    (tmp_path / "applications").mkdir()
    entry = tmp_path / "applications" / "inkwarren.desktop"
    entry.write_text("[Desktop Entry]\nName=Inkwarren\nExec=inkwarren --new %F\n")
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    assert command_of(["--", "coppicer", "/srv"]) == ["coppicer", "/srv"]
    assert command_of(["inkwarren.desktop"]) == ["inkwarren", "--new"]
    assert command_of([str(entry), "letter"]) == ["inkwarren", "--new", "letter"]
    for words in ([], ["--"], ["wayfarrow.desktop"], [str(tmp_path / "none.desktop")]):
        with pytest.raises(BadInput):
            command_of(words)
    entry.write_text("[Desktop Entry]\nType=Link\n")
    with pytest.raises(BadInput, match="no command"):
        command_of(["inkwarren.desktop"])


def test_a_display_that_is_not_there_is_missing_here(monkeypatch):
    monkeypatch.delenv("DISPLAY", raising=False)
    with pytest.raises(MissingHere, match="DISPLAY is not set"):
        open_display()
    monkeypatch.setenv("DISPLAY", ":7771")
    with pytest.raises(MissingHere, match=":7771"):
        open_display()


def test_the_quiet_gate_waits_for_the_processor_and_gives_up_at_its_limit():
    busy = iter(f"cpu  {100 * n} 0 0 {n} 0\n" for n in range(1, 90))
    assert wait_for_quiet(0.1, 2.0, lambda: next(busy), lambda _s: None)[0] is False
    calm = iter(f"cpu  {n} 0 0 {100 * n} 0\n" for n in range(1, 90))
    is_quiet, share = wait_for_quiet(0.1, 2.0, lambda: next(calm), lambda _s: None)
    assert is_quiet
    assert share == pytest.approx(1 / 101)


@pytest.mark.parametrize("now", [10.0, 4294967.3, 8589934.6])
def test_a_servers_stamps_are_put_on_the_monotonic_clock_however_often_they_wrapped(now):
    stamp = int((now - 0.2) * 1000) & 0xFFFFFFFF
    assert server_time(stamp, now) == pytest.approx(now - 0.2, abs=0.002)


def test_a_start_that_cannot_be_meant_is_refused(display, capsys):
    assert main(["launch", "--repeats", "3", "--start", "first-ever", "--", "xterm"]) == 2
    assert "--repeats must be 1" in capsys.readouterr().err


def test_a_first_launch_is_first_only_once(display, tmp_path, capsys, monkeypatch):
    monkeypatch.chdir(tmp_path)
    words = [
        "launch",
        "--user",
        ME,
        "--repeats",
        "1",
        "--quiet",
        "--quiet-limit",
        "0.5",
        "--system",
        "Varrow 12",
    ]
    words += ["--start", "first-after-boot", "--out", "first.json", "--", "xterm"]
    assert main(words) == 0
    assert "first-after-boot" in Path("first.json").read_text()
    assert main(words) == 1
    assert "launched since this boot" in capsys.readouterr().err
