"""The probe as a program: words, exit codes, one file that any machine's Python runs."""

import json
import os
import pwd
import re
import subprocess
import sys
import zipfile
from pathlib import Path

import pytest

from haremile.formats.captures import parse_brought
from haremile.formats.probe_archive import NAME, read_probe_archive
from haremile.native_build import native_folder
from haremile_probe.gathered import parse_gathered
from haremile_probe.main import VERBS, main
from haremile_probe.native import BUILT
from haremile_probe.wire import WireError, load_capture
from helpers import DATA

GATHERER = DATA.parents[1] / "src/haremile_probe/haremile-gather.sh"


def interpreters():
    """Every Python from 3.8 on that this machine has, one of each version."""
    places = [Path("/usr/bin"), Path("/usr/local/bin"), *Path.home().glob(".pyenv/versions/*/bin")]
    found = {}
    for place in places:
        for path in sorted(place.glob("python3.*")):
            match = re.fullmatch(r"python3\.(\d+)", path.name)
            if match and int(match[1]) >= 8:
                found.setdefault(int(match[1]), str(path))
    return [found[minor] for minor in sorted(found)]


@pytest.fixture(scope="module")
def archive(tmp_path_factory):
    path = tmp_path_factory.mktemp("probe") / NAME
    path.write_bytes(read_probe_archive())
    return path


@pytest.mark.parametrize("python", interpreters())
def test_the_archive_runs_under_every_python_that_is_here(archive, python, tmp_path):
    done = subprocess.run(
        [python, "-I", str(archive), "boot", "--json", "--quiet"],
        capture_output=True,
        text=True,
        cwd=tmp_path,
        check=False,
    )
    assert done.returncode in (0, 1), done.stderr  # 1 where no record of the boot is left
    capture = load_capture(done.stdout.encode())
    assert (capture.asked, capture.outcome == "done") == ("boot", done.returncode == 0)
    assert capture.conditions["cores"] == str(os.cpu_count())
    assert list(tmp_path.iterdir()) == []


def test_the_archive_is_small_the_same_each_time_and_carries_its_licences(archive):
    most = 1_500_000 if (native_folder() / BUILT).exists() else 700_000
    assert archive.stat().st_size < most
    read_probe_archive.cache_clear()
    assert read_probe_archive() == archive.read_bytes()
    with zipfile.ZipFile(archive) as packed:
        texts = [name for name in packed.namelist() if name.startswith("licences/")]
        assert len(texts) == 3
        assert b"LESSER GENERAL PUBLIC LICENSE" in packed.read("licences/python-xlib.txt").upper()


def test_the_archive_checks_itself_on_a_display(archive, display, tmp_path):
    done = subprocess.run(
        [sys.executable, "-I", str(archive), "check", "--repeats", "3", "--out", "check.json"],
        capture_output=True,
        text=True,
        cwd=tmp_path,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    found = json.loads(load_capture((tmp_path / "check.json").read_bytes()).text_of("check"))
    assert found["launch"]["lost"] == 0
    assert found["tree"]["read_bytes"] == found["tree"]["known_bytes"]
    known = found["allocation"]["known_bytes"]
    assert found["allocation"]["read_bytes"] == pytest.approx(known, rel=0.01)
    assert found["launch"]["resolution_s"] >= 0.001


def test_the_resolution_that_a_check_found_is_stated_with_launches(display, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    assert main(["check", "--repeats", "2", "--quiet", "--out", "check.json"]) == 0
    me = pwd.getpwuid(os.geteuid()).pw_name
    words = [
        "launch",
        "--user",
        me,
        "--repeats",
        "2",
        "--quiet",
        "--quiet-limit",
        "0.5",
        "--out",
        "launch.json",
    ]
    assert main([*words, "--", "xterm"]) == 0
    capture = load_capture(Path("launch.json").read_bytes())
    checked = json.loads(load_capture(Path("check.json").read_bytes()).text_of("check"))
    told = {r.resolution for r in capture.readings if r.metric.startswith("launch.")}
    assert told == {checked["launch"]["resolution_s"]}
    assert capture.conditions["app"] == "xterm"
    assert [r.step for r in capture.readings if r.metric == "launch.settled"] == [0, 1]


@pytest.mark.long
@pytest.mark.parametrize("has_manager", [False, True])
def test_by_its_check_the_probe_is_a_few_milliseconds_off(request, has_manager, tmp_path):
    request.getfixturevalue("window_manager" if has_manager else "display")
    out = tmp_path / "check.json"
    assert main(["check", "--repeats", "20", "--quiet", "--out", str(out)]) == 0
    found = json.loads(load_capture(out.read_bytes()).text_of("check"))["launch"]
    assert found["lost"] == 0
    assert abs(found["window"]["bias_s"]) <= (0.010 if has_manager else 0.003)
    assert abs(found["settled"]["bias_s"]) <= 0.005


@pytest.mark.long
def test_no_launch_is_lost_beside_four_busy_loops(display, tmp_path):
    loops = [subprocess.Popen([sys.executable, "-c", "while True: pass"]) for _ in range(4)]
    try:
        out = tmp_path / "check.json"
        assert main(["check", "--repeats", "40", "--quiet", "--out", str(out)]) == 0
    finally:
        for loop in loops:
            loop.kill()
            loop.wait()
    assert json.loads(load_capture(out.read_bytes()).text_of("check"))["launch"]["lost"] == 0


@pytest.mark.parametrize("verb", VERBS)
def test_every_verb_tells_its_examples_and_exit_codes(verb, capsys):
    assert main([verb, "--help"]) == 0
    said = " ".join(capsys.readouterr().out.split())
    assert "haremile-probe " + verb in said
    assert "exit codes: 0 done, 1 failed, 2 bad input, 3 something is missing" in said


@pytest.mark.parametrize(
    "words",
    [
        ["dance"],
        [],
        ["idle", "--window", "soon"],
        ["idle", "--instants", "60,x"],
        ["footprint", "--before", "/nowhere.json"],
        ["launch"],
        ["check", "--repeats", "1"],
    ],
)
def test_words_that_cannot_be_meant_are_exit_2_and_said(words, capsys):
    assert main(words) == 2
    assert capsys.readouterr().err


def test_a_footprint_is_compared_with_an_earlier_one_only(tmp_path, capsys, monkeypatch):
    monkeypatch.chdir(tmp_path)
    base = [
        "footprint",
        "--no-walk",
        "--no-updates",
        "--machine",
        "Laptop",
        "--system",
        "Varrow 12",
    ]
    assert main([*base, "--out", "before.json", "--quiet"]) == 0
    assert main([*base, "--out", "after.json", "--before", "before.json"]) == 0
    assert "package.count changed by +0 1" in capsys.readouterr().err
    text = Path("before.json").read_text().replace('"footprint"', '"idle"')
    Path("idle.json").write_text(text)
    assert main([*base, "--before", "idle.json"]) == 2
    assert "is a capture of idle" in capsys.readouterr().err
    Path("idle.json").write_text("{}")
    assert main([*base, "--before", "idle.json"]) == 2


def test_a_capture_goes_whole_into_a_file_that_is_named(tmp_path, capsys, monkeypatch):
    monkeypatch.chdir(tmp_path)
    assert (
        main(["footprint", "--no-walk", "--no-updates", "--quiet", "--machine", "Field-kit board"])
        == 0
    )
    said = capsys.readouterr().out
    (written,) = tmp_path.iterdir()
    assert f"capture: {written.name}" in said
    assert "footprint: " in said
    assert "on Field-kit board" in said
    assert load_capture(written.read_bytes()).machine == "Field-kit board"


def test_no_display_is_something_missing(tmp_path, monkeypatch, capsys):
    monkeypatch.delenv("DISPLAY", raising=False)
    monkeypatch.chdir(tmp_path)
    assert main(["launch", "--quiet", "--", "coppicer"]) == 3
    assert "DISPLAY is not set" in capsys.readouterr().err
    assert list(tmp_path.iterdir()) == []


def gather(shell, *words):
    return subprocess.run(
        [*shell, str(GATHERER), *words],
        capture_output=True,
        check=False,
        env={**os.environ, "XDG_SESSION_TYPE": "x11"},
    )


def test_the_gatherer_says_what_the_probe_would():
    done = gather(
        ["sh"],
        "-m",
        "Germination-room mini PC",
        "-s",
        "Varrow 12",
        "-w",
        "2",
        "-l",
        "9",
        "about",
        "boot",
        "idle",
    )
    assert done.returncode == 0, done.stderr
    about, boot, idle = (one.capture for one in parse_brought("gathered.txt", done.stdout))
    assert {c.machine for c in (about, boot, idle)} == {"Germination-room mini PC"}
    assert about.conditions["kernel"] == os.uname().release
    assert about.conditions["cores"] == str(os.cpu_count())
    assert about.conditions["session"] == "x11"
    (curve,) = idle.traces
    assert min(curve.values) > 2**20
    assert (idle.outcome == "done") == any(r.metric == "memory.used" for r in idle.readings)
    assert len({c.id for c in (about, boot, idle)}) == 3
    assert about.conditions["probe_version"].startswith("gather ")


def test_the_gatherer_refuses_what_it_does_not_know():
    for words in (["dance"], ["-w", "soon", "idle"], ["-q"]):
        done = gather(["sh"], *words)
        assert done.returncode == 2
        assert done.stdout == b""
        assert done.stderr


HEAD = ["id=x", "made_at=t", "asked=about", "machine=m", "version=1", "system=S"]
GOOD_HEAD = "\n|".join(["HM1 gather 1.0", *HEAD]) + "\nHM1 . 1.0\n"


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "not a gathered file"),
        ("HM1 meminfo 1.0\nHM1 . 1.0\n", "not a gathered file"),
        (GOOD_HEAD + "HM1 meminfo 2.0\n|MemTotal", "cut short"),
        (GOOD_HEAD.replace("about", "dance"), "unknown procedure: dance"),
        (GOOD_HEAD.replace("|machine=m\n", ""), "states no machine"),
        (GOOD_HEAD.replace("|system=S\n", ""), "names no system"),
        (GOOD_HEAD + "HM1 fault 2.0\n|broken x\nHM1 . 2.0\n", "unknown kind of fault: broken"),
        (GOOD_HEAD + "HM1 x soon\n", "line 9"),
        (GOOD_HEAD.replace("|id=x", "id=x"), "line 2"),
    ],
)
def test_a_gathered_file_of_another_form_is_refused(text, says):
    with pytest.raises(WireError, match=says):
        parse_gathered(text)
