"""An image that names other files of this host is not opened."""

from pathlib import Path

import pytest

from haremile.core.records.study import Install, Machine, System
from haremile.errors import BadInputError, MissingHereError
from haremile.processes import child_command
from haremile.rigs.guest import machine
from haremile.rigs.guest.machine import emulator_user
from haremile.rigs.guest.qcow2 import check_head
from haremile.rigs.guest.recipe import image_spec
from haremile.rigs.guest.spec import GuestSpec
from helpers import qcow2_head


def test_an_image_of_its_own_is_taken():
    check_head(qcow2_head(), "a.qcow2")
    check_head(qcow2_head(2), "a.qcow2")
    check_head(qcow2_head(extensions=[(0x6803F857, b"names")]), "a.qcow2")


@pytest.mark.parametrize(
    ("body", "says"),
    [
        (qcow2_head(backing=4096), "based on another file"),
        (qcow2_head(2, backing=4096), "based on another"),
        (qcow2_head(features=1 << 2), "keeps its data"),
        (qcow2_head(extensions=[(0x6803F857, b"x" * 9), (0x44415441, b"/x")]), "keeps its data"),
        (qcow2_head(4), "version 4"),
        (b"QFI", "no qcow2"),
        (b"x" * 200, "no qcow2"),
    ],
)
def test_one_that_names_other_files_is_refused(body, says):
    with pytest.raises(BadInputError, match=says):
        check_head(body, "a.qcow2")


def test_the_image_is_looked_at_whenever_it_is_to_boot(tmp_path):
    disk = tmp_path / "varrow.qcow2"
    disk.write_bytes(qcow2_head(backing=4096))
    made = Install(System("V"), Machine("M"), rig="guest", recipe={"image": str(disk)})
    with pytest.raises(BadInputError, match="based on another"):
        image_spec(made.recipe, tmp_path, "tcg", "host", None)


@pytest.fixture
def as_root(monkeypatch):
    monkeypatch.setattr(machine.os, "geteuid", lambda: 0)


def test_the_emulator_never_runs_as_root(as_root, tmp_path, monkeypatch):
    disk = tmp_path / "a.raw"
    disk.write_bytes(b"")
    plain = GuestSpec(None, None, "tcg", disk=disk)
    assert emulator_user(plain) == machine.OWNS_NOTHING
    kept = GuestSpec(None, None, "tcg", disk=disk, keeps_changes=True)
    if disk.stat().st_uid == 0:
        with pytest.raises(MissingHereError, match="chown USER"):
            emulator_user(kept)
    else:
        assert emulator_user(kept) == disk.stat().st_uid


def test_its_command_is_sandboxed_and_its_user_in_no_group(tmp_path):
    command = GuestSpec(None, None, "tcg").command(tmp_path)
    rules = command[command.index("-sandbox") + 1]
    assert "spawn=deny" in rules and "elevateprivileges=deny" in rules
    wrapped = child_command(["true"], user=62642)
    assert "--clear-groups" in wrapped and "--no-new-privs" in wrapped
    assert "--groups=107" in child_command(["true"], user=62642, groups=(107,))


def test_what_the_emulator_may_not_read_is_said(tmp_path):
    file = tmp_path / "secret"
    file.write_text("x")
    file.chmod(0o600)
    assert not machine._may_read(file, 62642)
    tmp_path.chmod(0o755)
    assert machine._may_read(Path("/etc/passwd"), 62642)
