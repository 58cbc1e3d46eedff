import os
import shutil

import pytest

from haremile.processes import child_environment
from haremile_probe.x.display import open_display, window_manager_window
from helpers import running


@pytest.fixture(scope="session")
def x_display():
    """A real X server without a window manager; its display's name."""
    assert shutil.which("Xvfb"), "Xvfb is not here: run the tests with ./haremile test"
    command = [
        "Xvfb",
        "-displayfd",
        "1",
        "-screen",
        "0",
        "1280x800x24",
        "-nolisten",
        "tcp",
        "-noreset",
    ]
    with running(command, child_environment()) as server:
        yield f":{server.stdout.readline().strip()}"


@pytest.fixture
def display(x_display, monkeypatch, tmp_path):
    """The display in the environment; what the probe remembers goes into a throw-away folder."""
    monkeypatch.setenv("DISPLAY", x_display)
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    monkeypatch.delenv("WAYLAND_DISPLAY", raising=False)
    return x_display


@pytest.fixture
def window_manager(display):
    """A small window manager on the display, once it says that it is there."""
    with running(["openbox", "--sm-disable"], {**child_environment(), **os.environ}):
        opened = open_display()
        try:
            root = opened.screen().root
            root.change_attributes(event_mask=1 << 22)  # changes of properties
            while window_manager_window(opened) is None:
                opened.next_event()
            yield display
        finally:
            opened.close()
