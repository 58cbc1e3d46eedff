"""What every verb with a database begins with."""

import os
import shutil
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from haremile.bootstrap import Bench, open_bench
from haremile.config import Settings, settings_from
from haremile.processes import session_id

TEMPORARY = ("hm-guest-*", "hm-pg-*")
"""Folders in /tmp that a killed process may leave."""


def say(text: str) -> None:
    """A line of progress on stderr."""
    print(text, file=sys.stderr, flush=True)


def present_settings() -> Settings:
    """The settings of this process; its session is begun."""
    session_id()
    return settings_from(os.environ)


@contextmanager
def bench() -> Iterator[Bench]:
    """A bench on a running database."""
    settings = present_settings()
    sweep_temporary()
    with open_bench(settings) as opened:
        yield opened


def sweep_temporary() -> None:
    """Remove temporary folders of ours whose process was killed before it could."""
    for pattern in TEMPORARY:
        for folder in Path("/tmp").glob(pattern):
            if folder.owner() and not _is_used(folder):
                shutil.rmtree(folder, ignore_errors=True)


def _is_used(folder: Path) -> bool:
    """Whether a socket in the folder is still bound by a live process."""
    bound = Path("/proc/net/unix").read_text()
    return str(folder) + "/" in bound
