"""Headless compositors, and what the probe says against the application's own protocol log."""

import os
import re
import time
from collections import Counter
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from tenacity import Retrying, stop_after_delay, wait_fixed

from haremile.processes import child_environment
from haremile_probe.launching.process_tree import descendants
from haremile_probe.launching.start import Launch, LaunchPlan
from haremile_probe.wayland.launch import launch
from haremile_probe.wayland.proxy import WaylandWatch
from helpers import running

NAMELESS = 62643
"""sway does not run as root: a user without a name, that owns its folder alone."""

PLAN = LaunchPlan(quiet_s=0.7, limit_s=60.0)
ROUND_US = 2**32
"""The log counts microseconds in 32 bits."""

LINE = re.compile(r"^\[\s*(\d+)\.(\d+)\]\s+-> (\w+)@(\d+)\.(\w+)\((.*)\)$")
MADE = re.compile(r"new id \w+@(\d+)")


WESTON_STARTS = 2
"""Its shell and its keyboard."""


@contextmanager
def weston(folder: Path) -> Iterator[str]:
    """A weston without a screen; where its socket is."""
    os.chmod(folder, 0o700)
    words = ["weston", "--backend=headless-backend.so", "--socket=wayland-7", "--idle-time=0"]
    with _compositor(words, folder, "wayland-7", WESTON_STARTS) as path:
        yield path


@contextmanager
def sway(folder: Path) -> Iterator[str]:
    """A sway without a screen; where its socket is."""
    (folder / "config").write_text("output HEADLESS-1 resolution 1280x800\n")
    os.chmod(folder, 0o700)
    words = ["sway", "-c", str(folder / "config")]
    if os.geteuid() == 0:
        os.chown(folder, NAMELESS, NAMELESS)
        own = [f"--reuid={NAMELESS}", f"--regid={NAMELESS}", "--clear-groups"]
        words = ["setpriv", *own, *words]
    with _compositor(words, folder, "wayland-1") as path:
        yield path


COMPOSITORS = {"weston": weston, "sway": sway}


@contextmanager
def _compositor(words: Sequence[str], folder: Path, name: str, starts: int = 0) -> Iterator[str]:
    """A compositor that is there with its socket and so many programs that it starts itself: later
    they would be taken for what a launch brought about."""
    surroundings = {
        **child_environment(),
        "HOME": str(folder),
        "XDG_RUNTIME_DIR": str(folder),
        "WLR_BACKENDS": "headless",
        "WLR_RENDERER": "pixman",
        "WLR_LIBINPUT_NO_DEVICES": "1",
    }
    surroundings.pop("DISPLAY", None)
    with running(words, surroundings) as server:
        for attempt in Retrying(stop=stop_after_delay(20), wait=wait_fixed(0.05)):
            with attempt:
                (folder / name).stat()
                assert len(descendants({server.pid})) > starts
        yield str(folder / name)


def measured(watch: WaylandWatch, command: Sequence[str], log: Path) -> tuple[Launch, float, float]:
    """Launch once with the application's own log: what was seen, and how far window and rest are
    off that log, in seconds."""
    shell = ["sh", "-c", 'WAYLAND_DEBUG=1 exec "$@" 2>"$0"', str(log), *command]
    found = launch(watch, shell, PLAN)
    begun = time.time() - time.monotonic() + found.spawned
    times = pictures(log.read_text(errors="replace"), begun, PLAN.small_area)
    assert found.window_s is not None and found.settled_s is not None
    rest = found.settled_s + PLAN.quiet_s / 2  # what is drawn later is no part of the launch
    last = max(at for at in times if at <= rest)
    return found, found.window_s - times[0], found.settled_s - last


def pictures(log: str, begun: float, small_area: int) -> list[float]:
    """When windows were handed a picture with more than a small area new, seconds after `begun` (of
    the wall clock), as the application's library wrote it down."""
    shells: dict[str, str] = {}
    windows: set[str] = set()
    attached: set[str] = set()
    damaged: Counter[str] = Counter()
    times: list[float] = []
    for line in log.splitlines():
        found = LINE.match(line.strip())
        if found is None:
            continue
        whole, part, kind, number, act, words = found.groups()
        made = MADE.search(words)
        if act == "get_xdg_surface" and made:
            shells[made[1]] = words.rpartition("@")[2]
        elif act == "get_toplevel":
            windows.add(shells[number])
        elif kind == "wl_surface" and act == "attach" and not words.startswith("nil"):
            attached.add(number)
        elif kind == "wl_surface" and act.startswith("damage"):
            width, height = (min(int(word), 10_000) for word in words.split(", ")[2:])
            damaged[number] += width * height
        elif kind == "wl_surface" and act == "commit" and number in attached & windows:
            attached.discard(number)
            if damaged.pop(number, 0) <= small_area:
                continue
            at_us = int(whole) * 1000 + int(part)
            times.append((at_us - int(begun * 1e6)) % ROUND_US / 1e6)
    return times
