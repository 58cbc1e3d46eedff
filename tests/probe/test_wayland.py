"""Launches in a Wayland session: what is followed, and against the applications' own logs."""

import contextlib
import os
import shutil
import statistics
import struct

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ground_truth import APPLICATIONS
from haremile_probe.check_application import FILE
from haremile_probe.launching.process_tree import become_subreaper
from haremile_probe.launching.sight import CHECKED
from haremile_probe.launching.start import DisplayGone, LaunchPlan, Outcome
from haremile_probe.runtime import MissingHere
from haremile_probe.verbs.check import own_command
from haremile_probe.wayland.launch import launch
from haremile_probe.wayland.proxy import WaylandWatch
from haremile_probe.wayland.surfaces import Conversation, NotUnderstood
from helpers import readable_folder
from wayland_truth import COMPOSITORS, measured, weston

WINDOW_S, SETTLED_S = 0.005, 0.010
REPEATS = 5
SHOWN = {
    "foot": ("foot", "sleep", "1000"),
    **{name: APPLICATIONS[name] for name in ("gtk3", "gtk4")},
}
WIDTH, HEIGHT = 100, 100
STRIDE = 4 * WIDTH
SHM, COMPOSITOR, BASE, POOL, BUFFER, SURFACE, SHELL, WINDOW = range(3, 11)


def message(number, opcode, *words):
    body = b"".join(
        struct.pack("=I", len(word) + 1) + word.encode() + b"\0" * (4 - len(word) % 4)
        if isinstance(word, str)
        else struct.pack("=i", word)
        for word in words
    )
    return struct.pack("=II", number, (8 + len(body)) << 16 | opcode) + body


MAKES_BUFFER = message(POOL, 0, BUFFER, 0, WIDTH, HEIGHT, STRIDE, 1)
BEGIN = b"".join(
    [
        message(1, 1, 2),
        message(2, 0, 11, "wl_shm", 1, SHM),
        message(2, 0, 12, "wl_compositor", 4, COMPOSITOR),
        message(2, 0, 13, "xdg_wm_base", 1, BASE),
        message(SHM, 0, POOL, STRIDE * HEIGHT),
        MAKES_BUFFER,
        message(COMPOSITOR, 0, SURFACE),
        message(BASE, 2, SHELL, SURFACE),
        message(SHELL, 1, WINDOW),
        message(SURFACE, 6),
    ]
)
ATTACH, COMMIT = message(SURFACE, 1, BUFFER, 0, 0), message(SURFACE, 6)


class Talked:
    """A conversation whose window has a picture that can be drawn on."""

    def __init__(self):
        self.file = os.memfd_create("picture")
        os.ftruncate(self.file, STRIDE * HEIGHT)
        self.followed = Conversation(small_area=900)
        self.followed.said(BEGIN, [os.dup(self.file)], 1.0)

    def draw(self, rows, shade, at):
        os.pwrite(self.file, bytes([shade]) * STRIDE * rows, 0)
        self.followed.said(ATTACH + message(SURFACE, 2, 0, 0, WIDTH, HEIGHT) + COMMIT, [], at)


@pytest.fixture
def talked():
    made = Talked()
    yield made
    made.followed.close()
    os.close(made.file)


def test_a_window_is_there_with_its_first_picture(talked):
    assert talked.followed.windows == []
    talked.draw(100, 7, at=2.0)
    (window,) = talked.followed.windows
    assert (window.mapped, window.unmapped, window.paints) == (2.0, None, [2.0])


def test_what_changes_no_more_than_a_caret_is_no_change_whatever_is_said_to_be_damaged(talked):
    talked.draw(100, 7, at=2.0)
    talked.draw(9, 8, at=3.0)
    talked.draw(20, 9, at=4.0)
    assert talked.followed.windows[0].paints == [2.0, 4.0]


def test_a_window_without_a_picture_is_gone(talked):
    talked.draw(100, 7, at=2.0)
    talked.followed.said(message(SURFACE, 1, 0, 0, 0) + COMMIT, [], 5.0)
    assert talked.followed.windows[0].unmapped == 5.0


def test_a_window_that_is_shown_again_was_there_from_the_first_time(talked):
    talked.draw(100, 7, at=2.0)
    talked.followed.said(message(SURFACE, 1, 0, 0, 0) + COMMIT, [], 5.0)
    talked.draw(100, 9, at=6.0)
    (window,) = talked.followed.windows
    assert (window.mapped, window.unmapped, window.paints) == (2.0, None, [2.0, 6.0])


def test_a_windows_first_picture_counts_though_nothing_is_said_to_be_damaged():
    followed = Conversation(small_area=900)
    followed.said(BEGIN.replace(MAKES_BUFFER, b"") + ATTACH + COMMIT, [], 2.0)
    assert followed.windows[0].paints == [2.0]


def test_where_a_picture_cannot_be_read_the_damage_counts():
    followed = Conversation(small_area=900)
    followed.said(BEGIN.replace(MAKES_BUFFER, b""), [], 1.0)
    for at, size in ((2.0, 100), (3.0, 20), (4.0, 50)):
        followed.said(ATTACH + message(SURFACE, 9, 0, 0, size, size) + COMMIT, [], at)
    assert followed.windows[0].paints == [2.0, 4.0]


def test_a_message_may_come_in_pieces(talked):
    for byte in ATTACH + COMMIT:
        talked.followed.said(bytes([byte]), [], 2.5)
    assert talked.followed.windows[0].mapped == 2.5


@pytest.mark.parametrize(
    "rubbish",
    [
        b"\0" * 16,
        message(1, 1),
        b"\1\0\0\0\0\0\4\0",
        message(2, 0),
        message(2, 0, 11),
        message(SURFACE, 2, 0, 0, 5),
        message(POOL, 0, BUFFER, 0),
    ],
)
def test_rubbish_is_not_understood(talked, rubbish):
    with pytest.raises(NotUnderstood):
        talked.followed.said(rubbish, [], 0.0)


@given(st.lists(st.tuples(st.integers(1, 12), st.integers(0, 12), st.binary(max_size=60))))
def test_whatever_an_application_says_it_is_understood_or_refused(messages):
    followed = Conversation(900)
    try:
        followed.said(BEGIN, [os.memfd_create("picture")], 0.0)
        for number, opcode, words in messages:
            head = struct.pack("=II", number, (8 + len(words)) << 16 | opcode)
            with contextlib.suppress(NotUnderstood):
                followed.said(head + words, [], 1.0)
    finally:
        followed.close()


@pytest.fixture
def session(tmp_path, monkeypatch):
    """A compositor without a screen, and its session's environment."""
    assert shutil.which("weston"), "weston is not here: run the tests with ./haremile test"
    become_subreaper()
    folder = tmp_path / "run"
    folder.mkdir()
    with weston(folder) as path:
        monkeypatch.setenv("WAYLAND_DISPLAY", path)
        monkeypatch.setenv("XDG_RUNTIME_DIR", str(folder))
        monkeypatch.setenv(FILE, str(tmp_path / "times"))
        yield folder


@pytest.fixture
def watch(session):
    made = WaylandWatch()
    yield made
    made.close()
    assert not os.path.exists(made.name)


def test_the_known_application_is_seen(watch):
    found = launch(watch, own_command(CHECKED["wayland"]), LaunchPlan(quiet_s=0.5))
    assert found.outcome is Outcome.WINDOW
    with open(os.environ[FILE]) as file:
        told = {name: float(at) for name, at in (line.split() for line in file)}
    assert found.spawned + found.window_s >= told["mapped"]
    assert found.spawned + found.settled_s >= told["painted"]
    assert found.settled_s > found.window_s


def test_what_never_speaks_to_the_compositor_is_no_fault_of_its(watch):
    found = launch(watch, ["sleep", "100"], LaunchPlan(limit_s=0.5))
    assert found.outcome is Outcome.NOT_SEEN
    assert "never spoke to the compositor" in found.detail


def test_what_ends_without_a_window_is(watch):
    found = launch(watch, ["sh", "-c", "exit 3"], LaunchPlan())
    assert (found.outcome, found.detail) == (Outcome.NO_WINDOW, "code 3")


def test_a_compositor_that_goes_is_no_fault_of_the_application(session, monkeypatch):
    watch = WaylandWatch()
    try:
        os.unlink(watch.path)
        with pytest.raises(DisplayGone):
            launch(watch, own_command(CHECKED["wayland"]), LaunchPlan())
    finally:
        watch.close()


def test_without_a_wayland_session_it_says_what_lacks(monkeypatch):
    monkeypatch.delenv("WAYLAND_DISPLAY", raising=False)
    with pytest.raises(MissingHere, match="no Wayland session"):
        WaylandWatch()


@pytest.mark.long
@pytest.mark.parametrize(
    ("name", "compositor"),
    [
        (name, compositor)
        for name in SHOWN
        for compositor in COMPOSITORS
        if (name, compositor) != ("foot", "weston")  # it asks for what that one has not
    ],
)
def test_window_and_rest_are_told_as_the_log_has_them(name, compositor, tmp_path, monkeypatch):
    become_subreaper()
    with readable_folder() as folder, COMPOSITORS[compositor](folder) as path:
        monkeypatch.setenv("WAYLAND_DISPLAY", path)
        monkeypatch.setenv("XDG_RUNTIME_DIR", str(folder))
        watch = WaylandWatch()
        try:
            truths = [measured(watch, SHOWN[name], tmp_path / "log") for _ in range(REPEATS)]
        finally:
            watch.close()
    assert [found.outcome for found, _, _ in truths] == [Outcome.WINDOW] * REPEATS
    assert abs(statistics.median(off for _, off, _ in truths)) <= WINDOW_S
    assert abs(statistics.median(off for _, _, off in truths)) <= SETTLED_S
