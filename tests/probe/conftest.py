import shutil

import pytest

from ground_truth import MANAGERS, managed_by
from haremile.processes import child_environment
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
    """A small window manager on the display, once it manages."""
    with managed_by(MANAGERS["openbox"], display):
        yield display
