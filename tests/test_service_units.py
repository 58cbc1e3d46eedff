"""Units for the service manager: whole, closed in, and never what a path made of them."""

import configparser
import shutil
import subprocess
from pathlib import Path

import pytest

from haremile.errors import BadInputError
from haremile.service_units import ServiceAsked, unit_place, unit_text


def asked(**change):
    given = {
        "root": Path("/srv/hare mile"),
        "python": Path("/srv/hare mile/.venv/bin/python"),
        "data": Path("/srv/hare data"),
        "port": 8642,
        "listen": "127.0.0.1",
    }
    return ServiceAsked(**{**given, **change})


def parsed(text):
    found = configparser.ConfigParser(strict=False, interpolation=None)
    found.optionxform = str
    found.read_string(text)
    return found


def test_a_service_of_the_machine_runs_as_its_user_closed_in():
    found = parsed(unit_text(asked(user="hare")))["Service"]
    assert found["User"] == "hare" and found["ReadWritePaths"] == '"/srv/hare data"'
    assert found["ExecStart"].startswith('"/srv/hare mile/.venv/bin/python" -m haremile serve')
    assert found["NoNewPrivileges"] == found["PrivateTmp"] == "yes"
    assert found["CapabilityBoundingSet"] == ""


def test_ones_own_service_names_no_user_and_is_wanted_by_ones_own_target():
    found = parsed(unit_text(asked()))
    assert "User" not in found["Service"]
    assert found["Install"]["WantedBy"] == "default.target"
    assert unit_place(False).parent.name == "user"


@pytest.mark.parametrize("root", ['/srv/a"b', "/srv/a%h", "/srv/a\nExecStart=/bin/sh", "/srv/$x"])
def test_no_path_becomes_a_line_of_its_own(root):
    with pytest.raises(BadInputError):
        unit_text(asked(root=Path(root)))


def test_the_service_manager_finds_it_closed_enough(tmp_path):
    tool = shutil.which("systemd-analyze")
    assert tool, "systemd-analyze is part of Debian's systemd"
    unit = tmp_path / "haremile.service"
    unit.write_text(unit_text(asked(user="hare")))
    command = [tool, "security", "--offline=yes", "--threshold=30", str(unit)]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout[-2000:] + done.stderr
