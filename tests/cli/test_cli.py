import os
import shutil
import signal
import subprocess
import sys
import tempfile
from pathlib import Path
from uuid import uuid4

import httpx
import pytest

from haremile.core.records.margin import Margin
from haremile.demo.world import STUDIES

CSV = "system,machine,metric,value,unit\n" + "\n".join(
    f"{system},L,boot.total,{value},s" for system in "VQ" for value in (1, 2, 3, 4)
)


def test_import_list_show_and_export(haremile, tmp_path):
    file = tmp_path / "my readings.csv"
    file.write_text(CSV)
    made = haremile("import", str(file), "--title", "Which boots sooner?")
    assert made.returncode == 0, made.stderr
    study_id = made.stdout.strip()
    assert "Which boots sooner?" in haremile("study", "list", COLUMNS="160").stdout
    shown = haremile("study", "show", "boots sooner", COLUMNS="160")
    assert "All pairs differ" in shown.stdout or "Undecided" in shown.stdout
    exported = haremile("export", study_id)
    assert exported.stdout.splitlines()[0].startswith("system,machine,metric,value,unit")
    assert len(exported.stdout.splitlines()) == 9


def test_bad_input_exits_2_and_says_what(haremile, tmp_path):
    bad = tmp_path / "bad.csv"
    bad.write_text("system,machine\n")
    for words, says in (
        (("import", str(bad)), "the column metric is missing"),
        (("import", str(tmp_path / "none.csv")), "cannot be read"),
        (("study", "show", "nowhere"), "no study nowhere"),
        (("study", "run"), "name a study"),
        (("study", "create", "Q", "--contender", "X@Y", "--contender", "Z@Y"), "unknown contender"),
        (("serve", "--port", "0"), "--port"),
    ):
        done = haremile(*words)
        assert done.returncode == 2, (words, done.stderr)
        assert says in done.stderr
        assert done.stdout == ""


def test_a_database_that_is_away_exits_1_and_a_wrong_address_2(haremile):
    away = haremile("study", "list", DATABASE_URL="postgresql://x@127.0.0.1:1/none")
    assert away.returncode == 1
    assert "does not answer" in away.stderr
    assert haremile("study", "list", DATABASE_URL="oracle://x").returncode == 2


def test_missing_guests_exit_3(haremile, tmp_path):
    done = haremile("study", "run", "--guests", HAREMILE_DATA=str(tmp_path))
    assert done.returncode == 3
    assert "guest build" in done.stderr


def test_a_study_is_created_and_its_id_printed(haremile, bench):
    words = [
        "--contender",
        "Osterfell Base@Tiny guest",
        "--contender",
        "Osterfell Server@Tiny guest",
    ]
    words += ["--margin", "boot.total=0.3s", "--margin", "boot.total=2%"]
    done = haremile("study", "create", "Which?", *words, "--repeats", "3", "--seed", "4")
    assert done.returncode == 0, done.stderr
    study = bench.studies.get(done.stdout.strip())
    assert (study.blocks, study.seed) == (3, 4)
    assert study.margins["boot.total"] == Margin(share=0.02, amount=0.3)
    wrong = haremile("study", "create", "Which?", *words, "--margin", "boot.total=3MiB")
    assert wrong.returncode == 2
    assert "boot.total is measured in s, not in B" in wrong.stderr


def with_session(session):
    found = []
    for folder in Path("/proc").iterdir():
        if folder.name.isdecimal():
            try:
                if session.encode() in (folder / "environ").read_bytes():
                    found.append(folder.name)
            except OSError:
                continue
    return found


def test_a_table_of_ones_own_is_imported_by_what_is_said_of_it(haremile, tmp_path):
    table = tmp_path / "mine.csv"
    table.write_text("Distro,Boot (s)\nVarrow 12,21.4\nVarrow 12,20.9\n")
    bare = haremile("import", str(table))
    assert bare.returncode == 2
    words = ("--column", "Distro=system", "--measure", "Boot (s)=boot.total:s")
    made = haremile("import", str(table), *words, "--fixed", "machine=Laptop")
    assert made.returncode == 0, made.stderr
    assert "Boot (s) as boot.total in s" in made.stderr
    shown = haremile("export", made.stdout.strip())
    assert "Varrow 12,Laptop,boot.total,21.4,s" in shown.stdout
    wrong = haremile("import", str(table), "--measure", "Boot (s)=boot.total")
    assert (wrong.returncode, "not METRIC:UNIT" in wrong.stderr) == (2, True)


def test_a_study_is_renamed_put_away_and_deleted(haremile, tmp_path):
    file = tmp_path / "a.csv"
    file.write_text("system,machine,metric,value,unit\nA,M,boot.total,1,s\nA,M,boot.total,2,s\n")
    haremile("import", str(file), "--title", "Old")
    assert haremile("study", "rename", "Old", "New").returncode == 0
    refused = haremile("study", "delete", "New", "--title", "New")
    assert (refused.returncode, "put the study away first" in refused.stderr) == (1, True)
    haremile("study", "put-away", "New")
    assert "New" not in haremile("study", "list").stdout
    assert "New" in haremile("study", "list", "--put-away").stdout
    assert "no reading rests on 0" in haremile("evidence").stdout
    gone = haremile("study", "delete", "New", "--title", "New")
    assert "deleted for good: New, 2 readings" in gone.stderr
    assert haremile("study", "show", "New").returncode == 2


@pytest.mark.parametrize("blow", [signal.SIGINT, signal.SIGTERM])
def test_a_server_that_is_stopped_leaves_nothing_running(tmp_path, blow):
    session = f"test-{uuid4()}"
    base = Path(tempfile.mkdtemp(prefix="hm-test-", dir="/tmp"))
    base.chmod(0o755)
    environment = {
        **os.environ,
        "HAREMILE_DATA": str(base / "data"),
        "HAREMILE_SESSION": session,
        "PYTHONPATH": os.pathsep.join(sys.path),
    }
    environment.pop("DATABASE_URL", None)
    server = subprocess.Popen(
        [sys.executable, "-m", "haremile", "demo"],
        stdout=subprocess.PIPE,
        text=True,
        env=environment,
    )
    try:
        address = server.stdout.readline().strip()
        with httpx.Client(base_url=address.partition("enter?")[0]) as page:
            entered = page.get(address)
            page.headers["Haremile-Page"] = entered.headers["location"].partition("=")[2]
            assert len(page.get("/api/studies").json()) == len(STUDIES) + 4
        assert len(with_session(session)) >= 2  # the server and PostgreSQL
        server.send_signal(blow)
        server.wait(30)
        assert with_session(session) == []
    finally:
        server.terminate()
        server.wait(30)
        server.stdout.close()
        shutil.rmtree(base)
