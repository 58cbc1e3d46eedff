"""What every verb with a database begins with."""

import os
import pwd
import shutil
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from haremile.bootstrap import Bench, open_bench
from haremile.config import Settings, settings_from
from haremile.processes import session_id
from haremile.usecases.access import Principal, Role, Way, acting

TEMPORARY = ("hm-guest-*", "hm-pg-*")
"""Folders in /tmp that a killed process may leave."""
FRESH_S = 120.0


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
        user = pwd.getpwuid(os.geteuid()).pw_name
        acting.set(Principal(user, Role.OWN, Way.COMMAND_LINE))
        yield opened


def sweep_temporary() -> None:
    """Remove temporary folders of ours whose process was killed before it could."""
    for pattern in TEMPORARY:
        for folder in Path("/tmp").glob(pattern):
            if _is_left(folder):
                shutil.rmtree(folder, ignore_errors=True)


def _is_left(folder: Path) -> bool:
    """Ours, not fresh (its sockets may still be to come), and no socket in it bound."""
    try:
        state = folder.stat()
    except FileNotFoundError:
        return False
    is_old = time.time() - state.st_mtime > FRESH_S
    bound = Path("/proc/net/unix").read_text()
    is_ours = os.geteuid() in (0, state.st_uid)
    return is_ours and is_old and f"{folder}/" not in bound
