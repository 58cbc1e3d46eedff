import os
import socket
import tempfile
from pathlib import Path

import pytest

from haremile.cli.session import sweep_temporary

LONG_AGO = 1_700_000_000


@pytest.fixture
def folder():
    made = Path(tempfile.mkdtemp(prefix="hm-guest-", dir="/tmp"))
    yield made
    if made.exists():
        for left in made.iterdir():
            left.unlink()
        made.rmdir()


def age(folder):
    os.utime(folder, (LONG_AGO, LONG_AGO))


def test_what_a_killed_process_left_is_removed(folder):
    (folder / "output").write_text("")
    age(folder)
    sweep_temporary()
    assert not folder.exists()


def test_what_is_fresh_or_in_use_stays(folder):
    sweep_temporary()
    assert folder.exists()
    with socket.socket(socket.AF_UNIX) as bound:
        bound.bind(str(folder / "qmp"))
        age(folder)
        sweep_temporary()
        assert folder.exists()
