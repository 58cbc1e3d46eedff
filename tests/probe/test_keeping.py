"""Nothing that was measured is lost because there is no place to write it."""

import errno
import os
import pwd

import pytest

from haremile_probe import keeping
from haremile_probe.collect.state import remember
from haremile_probe.keeping import keep
from haremile_probe.main import main
from haremile_probe.verbs import launch as verb
from haremile_probe.wire import load_capture
from haremile_probe.x.display import DisplayGone

ME = pwd.getpwuid(os.geteuid()).pw_name


@pytest.fixture
def full(monkeypatch):
    """Folders in which nothing gets onto the disk; what was begun there can be listed."""
    folders = []
    real = os.fsync

    def fsync(number):
        if os.readlink(f"/proc/self/fd/{number}").startswith(tuple(folders)):
            raise OSError(errno.ENOSPC, "No space left on device")
        real(number)

    monkeypatch.setattr(keeping.os, "fsync", fsync)
    return folders


@pytest.mark.parametrize("is_there", [True, False])
def test_a_folder_may_be_named_for_the_capture(tmp_path, is_there, capsys):
    folder = tmp_path / "captures"
    folder.mkdir()
    assert main(["about", "--quiet", "--out", f"{folder}/" if is_there else str(folder)]) == 0
    (made,) = folder.iterdir()
    assert load_capture(made.read_bytes()).asked == "about"
    assert f"capture: {made}" in capsys.readouterr().out


def test_a_place_that_takes_nothing_is_refused_before_anything_is_measured(tmp_path, capsys):
    assert main(["about", "--out", str(tmp_path / "none/here.json")]) == 2
    said = capsys.readouterr().err
    assert "cannot be written to" in said
    assert "--out" in said
    assert list(tmp_path.iterdir()) == []


def test_a_full_disk_sends_the_capture_to_a_second_place(tmp_path, full, monkeypatch):
    here, home = tmp_path / "here", tmp_path / "home"
    for folder in (here, home):
        folder.mkdir()
    monkeypatch.setenv("HOME", str(home))
    full.append(str(here))
    said = []
    assert keep(b"{}", str(here / "boot.json"), "haremile-boot-1.json", said.append) == str(
        home / "haremile-boot-1.json"
    )
    assert (home / "haremile-boot-1.json").read_bytes() == b"{}"
    assert list(here.iterdir()) == [], "nothing half-written is left"
    assert "No space left" in said[0]


def test_at_last_it_goes_to_standard_output(tmp_path, full, capsys):
    full.append("/")
    said = []
    assert keep(b'{"a": 1}', str(tmp_path / "boot.json"), "x.json", said.append) is None
    assert capsys.readouterr().out == '{"a": 1}\n'
    assert "standard output" in said[-1]


def test_without_a_home_only_remembering_fails(monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", "/proc/none")
    fault = remember("launched", {"coppicer": {}})
    assert fault.kind == "denied"
    assert "/proc/none" in fault.what


@pytest.mark.parametrize("stop", [DisplayGone("gone"), KeyboardInterrupt()])
def test_launches_that_were_measured_outlive_what_ends_the_series(
    display, tmp_path, monkeypatch, stop
):
    real, count = verb.open_sight, [0]

    def opened(*asked):
        sight = real(*asked)

        def cut_short(*launched):
            count[0] += 1
            if count[0] > 2:
                raise stop
            return sight.launch(*launched)

        return sight._replace(launch=cut_short)

    monkeypatch.setattr(verb, "open_sight", opened)
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    out = tmp_path / "launch.json"
    words = ["launch", "--quiet", "--repeats", "5", "--quiet-window", "0.4", "--out", str(out)]
    as_me = ["--user", ME] if os.geteuid() == 0 else []
    assert main([*words, "--quiet-limit", "1", *as_me, "--", "xterm"]) == 0
    capture = load_capture(out.read_bytes())
    assert {reading.step for reading in capture.readings} == {0}
    assert any("after 1 of 5" in fault.what for fault in capture.faults)
