"""What the probe says of a launch against a log of what passed between application and server."""

import os
import subprocess
import sys
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from haremile.processes import child_environment
from haremile_probe.launching.start import Launch, LaunchPlan, Outcome
from haremile_probe.x.display import open_display
from haremile_probe.x.launch import launch
from haremile_probe.x.watch import WindowWatch
from helpers import running

HERE = Path(__file__).resolve().parent / "probe"
SYSTEM_PYTHON = "/usr/bin/python3"
"""Debian's own: the toolkits' bindings belong to it."""

LOGGED = (sys.executable, str(HERE / "x_protocol_log.py"))
PLAN = LaunchPlan(quiet_s=0.7, limit_s=60.0)
APPLICATIONS: dict[str, tuple[str, ...]] = {
    "xterm": ("xterm", "-e", "sleep", "1000"),  # a shell's prompt comes when it likes
    **{
        name: (SYSTEM_PYTHON, str(HERE / "toolkits" / f"{name}.py"))
        for name in ("gtk3", "gtk4", "qt5", "qt6", "tk")
    },
    "chromium": (
        "chromium",
        "--no-first-run",
        "--disable-gpu",
        "--disable-background-networking",
        "--disable-component-update",
        f"file://{HERE / 'toolkits' / 'page.html'}",
    ),
}
MANAGERS: dict[str, tuple[str, ...]] = {
    "none": (),
    "openbox": ("openbox", "--sm-disable"),
    "icewm": ("icewm",),
    "metacity": ("metacity", "--sm-disable", "--no-composite"),
}
BUSY = "while True: pass"
PROPERTY_CHANGES = 1 << 22
MANAGES = "_NET_CLIENT_LIST"
"""A window manager writes it once it manages; windows that ask before can be lost to it."""


@dataclass(frozen=True)
class Truth:
    """One launch: what the probe said, and by how much it is off the log, in seconds.

    `manager_s` is what the window manager took of it: from the application's asking for its window
    to the server's saying that it is there.
    """

    found: Launch
    window_off: float | None = None
    settled_off: float | None = None
    manager_s: float | None = None


def command_of(name: str, folder: Path) -> list[str]:
    """How an application is started; a browser with a profile of its own, and as root unboxed."""
    words = list(APPLICATIONS[name])
    if name == "chromium":
        words[1:1] = [f"--user-data-dir={tempfile.mkdtemp(dir=folder)}"]
        words[1:1] = ["--no-sandbox"] if os.geteuid() == 0 else []
    return words


def measured(watch: WindowWatch, name: str, folder: Path, plan: LaunchPlan = PLAN) -> Truth:
    """Launch an application once through the log."""
    log = folder / "protocol"
    found = launch(watch, [*LOGGED, str(log), *command_of(name, folder)], plan)
    if found.outcome is not Outcome.WINDOW or found.main_s is None or found.settled_s is None:
        return Truth(found)
    rows = [line.split() for line in log.read_text().splitlines()]
    times = {
        what: [
            float(at) - found.spawned
            for kind, at, area in rows
            if kind == what and (kind != "drawn" or int(area) >= plan.small_area)
        ]
        for what in ("asked", "mapped", "drawn")
    }
    if not times["mapped"] or not times["drawn"]:
        return Truth(found)
    near = min(times["mapped"], key=lambda at: abs(at - found.main_s))
    asked = max((at for at in times["asked"] if at <= near), default=near)
    rest = found.settled_s + plan.quiet_s / 2  # what is drawn later is no part of the launch
    last = max((at for at in times["drawn"] if at <= rest), default=near)
    return Truth(found, found.main_s - near, found.settled_s - max(last, near), near - asked)


@contextmanager
def managed_by(command: Sequence[str], display: str) -> Iterator[None]:
    """A window manager on a display for the length of the block, from when it manages windows."""
    opened = open_display()
    try:
        opened.screen().root.change_attributes(event_mask=PROPERTY_CHANGES)
        opened.sync()
        with running(command, {**child_environment(), "DISPLAY": display}):
            while opened.get_atom_name(opened.next_event().atom) != MANAGES:
                pass
            yield
    finally:
        opened.close()


@contextmanager
def busy(processes: int) -> Iterator[None]:
    """So many processes that do nothing but keep a processor busy."""
    started = [
        subprocess.Popen([sys.executable, "-c", BUSY], env=child_environment())
        for _ in range(processes)
    ]
    try:
        yield
    finally:
        for one in started:
            one.kill()
            one.wait()
