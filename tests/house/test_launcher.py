"""The shell launcher and the settings it leads to."""

import os
import subprocess
from pathlib import Path

import pytest

from haremile.config import ROOT, settings_from
from haremile.errors import BadInputError
from haremile.processes import SESSION_VARIABLE, child_command, child_environment

NEEDED = """
    sh dirname pwd ls command find sort xargs sha256sum cut cat id printf mkdir flock env
    git python3 cpio chromium setpriv sleep
""".split()  # noqa: SIM905  (a long row of names reads better so)


@pytest.fixture
def bare_path(tmp_path):
    """A PATH with everything that the launcher uses, except QEMU and sudo."""
    for name in NEEDED:
        for folder in ("/usr/bin", "/bin"):
            if Path(folder, name).exists() and not (tmp_path / name).exists():
                (tmp_path / name).symlink_to(Path(folder, name))
    (tmp_path / "id").unlink()
    (tmp_path / "id").write_text("#!/bin/sh\necho 1000\n")
    (tmp_path / "id").chmod(0o755)
    return str(tmp_path)


def test_without_rights_it_prints_the_one_line_and_exits_3(bare_path):
    done = subprocess.run(
        [str(ROOT / "haremile"), "demo"],
        env={"PATH": bare_path, "HOME": "/nonexistent"},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 3
    lines = [line for line in done.stderr.splitlines() if "apt-get install" in line]
    assert len(lines) == 1
    assert "create_main_cluster = false" in lines[0]
    assert lines[0].index("create_main_cluster") < lines[0].index("apt-get install")
    assert done.stdout == ""


def test_help_lists_every_verb():
    done = subprocess.run(
        [str(ROOT / "haremile"), "--help"], capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stderr
    for verb in ("serve", "demo", "test", "study", "guest", "import", "export"):
        assert f" {verb} " in done.stdout


def test_settings_come_from_the_mapping_alone(tmp_path):
    stated = settings_from({"HAREMILE_DATA": str(tmp_path), "DATABASE_URL": "postgresql://u@h/d"})
    assert stated.data == tmp_path
    assert stated.database_url == "postgresql://u@h/d"
    assert settings_from({"HAREMILE_DATA": str(tmp_path), "DATABASE_URL": ""}).database_url is None


@pytest.mark.parametrize("text", ["fast", "0", "-3", "nan"])
def test_a_speed_that_is_none_is_refused(text):
    with pytest.raises(BadInputError, match="HAREMILE_SIMULATED_SPEED"):
        settings_from({"HAREMILE_SIMULATED_SPEED": text})


def test_every_clone_has_data_of_its_own(tmp_path):
    environment = {"XDG_DATA_HOME": str(tmp_path)}
    one, two = (settings_from(environment, Path(root)) for root in ("/a", "/a b"))
    assert one.data != two.data
    assert " " not in one.data.name


def test_no_child_inherits_a_secret(monkeypatch):
    for name in ("DATABASE_URL", "HAREMILE_TEST_DATABASE_URL", "HAREMILE_KEY", "PGPASSWORD"):
        monkeypatch.setenv(name, "a secret")
    monkeypatch.setenv("HAREMILE_DATA", "/srv/data")
    given = child_environment()
    assert "a secret" not in given.values()
    assert given["HAREMILE_DATA"] == "/srv/data"


def test_the_version_is_told_and_the_program_has_its_name():
    for words, says in (
        (["--version"], "haremile 0.1.0"),
        (["study", "--help"], "Usage: haremile"),
    ):
        done = subprocess.run(
            [str(ROOT / "haremile"), *words], capture_output=True, text=True, check=False
        )
        assert done.returncode == 0, done.stderr
        assert says in done.stdout


def test_children_carry_the_session_and_die_with_their_parent():
    assert child_environment()[SESSION_VARIABLE] == os.environ[SESSION_VARIABLE]
    command = child_command(["qemu"], user="postgres")
    assert command[: command.index("--")].count("--pdeathsig") == 1
    assert command[-1] == "qemu"
    assert "--reuid=postgres" in command
