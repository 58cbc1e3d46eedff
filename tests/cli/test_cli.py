import os
import subprocess
import sys

import pytest

CSV = "system,machine,metric,value,unit\n" + "\n".join(
    f"{system},L,boot.total,{value},s" for system in "VQ" for value in (1, 2, 3, 4)
)


@pytest.fixture
def haremile(bench, throwaway_url):
    """The command line on the throw-away database."""

    def run(*words, **more):
        environment = {
            **os.environ, "DATABASE_URL": throwaway_url,
            "PYTHONPATH": os.pathsep.join(sys.path), **more,
        }  # fmt: skip
        return subprocess.run(
            [sys.executable, "-m", "haremile", *words], capture_output=True, text=True,
            check=False, env=environment,
        )  # fmt: skip

    return run


def test_import_list_show_and_export(haremile, tmp_path):
    file = tmp_path / "my readings.csv"
    file.write_text(CSV)
    made = haremile("import", str(file), "--title", "Which boots sooner?")
    assert made.returncode == 0, made.stderr
    study_id = made.stdout.strip()
    assert "Which boots sooner?" in haremile("study", "list", COLUMNS="160").stdout
    shown = haremile("study", "show", "boots sooner", COLUMNS="160")
    assert "All pairs differ" in shown.stdout or "told apart" in shown.stdout
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
        "Osterfell Laden@Tiny guest",
    ]
    done = haremile("study", "create", "Which?", *words, "--repeats", "3", "--seed", "4")
    assert done.returncode == 0, done.stderr
    study = bench.studies.get(done.stdout.strip())
    assert (study.blocks, study.seed) == (3, 4)
