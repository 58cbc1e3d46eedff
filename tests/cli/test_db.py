"""A backup from one machine, brought onto another that holds nothing, by the commands alone."""

import os
import subprocess
import sys
import tempfile
from pathlib import Path

import pytest

SHEET = """system,machine,metric,value,unit
Varrow 12,Bench,boot.total,20.5,s
Varrow 12,Bench,boot.total,20.9,s
Osterfell 8,Bench,boot.total,18.1,s
Osterfell 8,Bench,boot.total,18.4,s
"""


@pytest.fixture(name="machine")
def machines_of_their_own():
    """Runs a command on a machine with a data folder, and so a database server, of its own."""
    with tempfile.TemporaryDirectory(prefix="hm-test-", dir="/tmp") as made:
        Path(made).chmod(0o755)
        environment = {key: text for key, text in os.environ.items() if key != "DATABASE_URL"}

        def run(name, *words):
            told = {
                "HAREMILE_DATA": str(Path(made) / name),
                "PYTHONPATH": os.pathsep.join(sys.path),
            }
            return subprocess.run(
                [sys.executable, "-m", "haremile", *words],
                capture_output=True,
                text=True,
                check=False,
                env={**environment, **told},
            )

        yield run


def test_a_backup_is_restored_onto_an_empty_machine_and_is_sound_there(machine, tmp_path):
    (tmp_path / "readings.csv").write_text(SHEET)
    file = str(tmp_path / "workspace.dump")
    taken = machine("old", "import", str(tmp_path / "readings.csv"), "--title", "Which?")
    assert taken.returncode == 0, taken.stderr
    assert machine("old", "db", "backup", file).returncode == 0
    restored = machine("new", "db", "restore", file)
    assert restored.returncode == 0, restored.stderr
    of = {name: machine(name, "db", "status", "--json").stdout for name in ("old", "new")}
    assert '"reading": 4' in of["old"]
    assert of["new"].partition('"rows"')[2] == of["old"].partition('"rows"')[2]
    checked = machine("new", "db", "check")
    assert checked.returncode == 0, checked.stderr
    assert "0 faults" in checked.stdout
    again = machine("new", "db", "restore", file)
    assert again.returncode != 0
    assert "not empty" in again.stderr
