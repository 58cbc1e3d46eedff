"""``haremile test``: runs every test, then looks whether anything was left behind."""

import os
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Annotated

import typer

from haremile.bootstrap import open_database
from haremile.cli.session import present_settings, say, sweep_temporary
from haremile.processes import SESSION_VARIABLE, child_environment, session_id

WHOLE = (["-m", "not alone", "-n", "2", "--dist", "loadgroup"], ["-m", "alone"])
"""The whole run: a worker for each of two cores, each with a database of its own; then what has to
be alone on the machine."""

DATABASE_VARIABLE = "HAREMILE_TEST_DATABASE_URL"


def run_tests(
    long: Annotated[bool, typer.Option("--long", help="Also what takes many minutes.")] = False,
    rest: Annotated[list[str] | None, typer.Argument(help="Further arguments for pytest.")] = None,
) -> None:
    """Run every test on a throw-away database."""
    settings = present_settings()
    sweep_temporary()
    before = _temporary_folders()
    command = [sys.executable, "-m", "pytest", *(["--long"] if long else [])]
    rest = [_below_tests(word, settings.root) for word in rest or ()]
    with (
        open_database(settings) as url,
        tempfile.TemporaryDirectory(prefix="haremile-test-", dir="/tmp") as scratch,
    ):
        command.append(f"--basetemp={scratch}/pytest")
        environment = {**child_environment(), DATABASE_VARIABLE: url}
        done = [
            subprocess.run([*command, *words], cwd=settings.root, env=environment, check=False)
            for words in ([rest] if rest else WHOLE)
        ]
        has_failed = any(one.returncode for one in done)
    left = [*_left_processes(), *sorted(_temporary_folders() - before), *_changed_files()]
    for item in left:
        say(f"left behind by the tests: {item}")
    raise typer.Exit(1 if left or has_failed else 0)


def _below_tests(word: str, root: Path) -> str:
    """``core/records`` for ``tests/core/records``."""
    name = word.partition("::")[0]
    return (
        f"tests/{word}" if not (root / name).exists() and (root / "tests" / name).exists() else word
    )


def _left_processes() -> list[str]:
    mark = f"{SESSION_VARIABLE}={session_id()}".encode()
    found = []
    for folder in Path("/proc").iterdir():
        if folder.name.isdecimal() and int(folder.name) != os.getpid():
            try:
                if mark in (folder / "environ").read_bytes().split(b"\0"):
                    command = (folder / "cmdline").read_bytes().replace(b"\0", b" ").decode()
                    found.append(f"process {folder.name} {command[:120]}")
            except OSError:
                continue  # it ended meanwhile, or is another user's
    return found


def _temporary_folders() -> set[str]:
    """Folders of ours that nobody works in: those of other users, and of another command that runs
    beside the tests, are none of their business."""
    bound = Path("/proc/net/unix").read_text()
    found = set()
    for path in (one for form in ("hm-*", "haremile-*") for one in Path("/tmp").glob(form)):
        try:
            is_ours = os.geteuid() in (0, path.lstat().st_uid)
        except FileNotFoundError:
            continue
        if is_ours and f"{path}/" not in bound:
            found.add(str(path))
    return found


def _changed_files() -> list[str]:
    done = subprocess.run(
        ["git", "status", "--porcelain"],
        capture_output=True,
        text=True,
        check=False,
        cwd=present_settings().root,
    )
    if os.environ.get("CI") != "true":
        return []  # a person at work has changed files
    return [f"file {line}" for line in done.stdout.splitlines()]
