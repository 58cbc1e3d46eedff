"""The probe's native program, built for every processor from its one source."""

import importlib.util
import os
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import haremile_probe.native
from haremile.errors import HareMileError, MissingHereError
from haremile_probe.native import TARGETS, program_name

SOURCE = "rates.c"
FLAGS = ("-std=gnu11", "-O2", "-static", "-s", "-pthread", "-Wall", "-Wextra", "-Werror")
LIMIT_S = 600.0


def native_folder() -> Path:
    """Where the source stands, and what was built of it."""
    return Path(haremile_probe.native.__file__).parent


def build_native(report: Callable[[str], None]) -> list[Path]:
    """Build all of them with the pinned compiler; the same source gives the same bytes.

    Raises
    ------
    MissingHereError
        If the compiler is not installed here.
    HareMileError
        If it fails; what was built before stays.
    """
    if importlib.util.find_spec("ziglang") is None:
        raise MissingHereError(
            "the compiler is not here: ./haremile probe build --native fetches it, with a network"
        )
    folder, made = native_folder(), []
    for target, called in TARGETS.items():
        report(f"building for {target} (about a minute the first time)")
        path = folder / program_name(target)
        path.parent.mkdir(exist_ok=True)
        fresh = folder / f"{path.name}.part"
        _compile(folder, called, fresh)
        os.replace(fresh, path)
        made.append(path)
    return made


def _compile(folder: Path, target: str, into: Path) -> None:
    command = [sys.executable, "-m", "ziglang", "cc", "-target", target, *FLAGS]
    done = subprocess.run(
        [*command, "-o", str(into), SOURCE],
        cwd=folder,
        capture_output=True,
        text=True,
        timeout=LIMIT_S,
        check=False,
    )
    if done.returncode:
        raise HareMileError(f"the compiler failed for {target}: {done.stderr[-1000:]}")
