import json
from uuid import UUID, uuid4

from haremile.formats.probe_archive import read_probe_archive


def capture(system, **change):
    return json.dumps(
        {
            "format": "haremile-capture/1",
            "id": str(uuid4()),
            "made_at": "2026-10-05T08:00:00+00:00",
            "probe": "0",
            "asked": "idle",
            "ticket": None,
            "machine": "Laptop",
            "system": system,
            "outcome": "done",
            "reason": None,
            "conditions": {},
            "traces": [],
            "evidence": [],
            "faults": [],
            "readings": [
                {"metric": "memory.used", "value": 400, "unit": "MiB", "method": "probe"},
            ],
            **change,
        }
    )


def test_captures_become_a_study_and_more_go_into_it(haremile, bench, tmp_path):
    files = []
    for number, system in enumerate(("Varrow 12", "Quillfern 8", "Varrow 12", "Marlstone 26.1")):
        files.append(str(tmp_path / f"{number}.json"))
        (tmp_path / f"{number}.json").write_text(capture(system))
    made = haremile("take-in", *files[:2], "--title", "Which is lighter?")
    assert made.returncode == 0, made.stderr
    study = made.stdout.strip()
    shown = haremile("take-in", files[2], files[3], "--study", study, "--preview", COLUMNS="200")
    assert "none fits" in shown.stdout
    refused = haremile("take-in", files[2], files[3], "--study", study)
    assert refused.returncode == 2
    assert "Marlstone 26.1 on Laptop is none of the contenders" in refused.stderr
    words = ["--study", study, "--contender", "quillfern"]
    placed = haremile("take-in", files[0], files[3], *words)
    assert "took in 1; 1 known already" in placed.stderr
    found = bench.readings.readings(UUID(study))
    assert sorted(reading.lane_no for reading in found) == [1, 2, 2]


def test_what_cannot_be_meant_is_refused(haremile, tmp_path):
    bad = tmp_path / "bad.json"
    bad.write_text("{}")
    refused = haremile("take-in", str(bad), str(bad))
    assert refused.returncode == 2
    assert "bad.json: not a capture of format haremile-capture/1" in refused.stderr


def test_the_probe_is_written_where_it_is_wanted(haremile, tmp_path):
    built = haremile("probe", "build", "--to", str(tmp_path))
    assert built.returncode == 0, built.stderr
    path = tmp_path / "haremile-probe.pyz"
    assert path.read_bytes() == read_probe_archive()
    assert path.stat().st_mode & 0o111
    assert (tmp_path / "haremile-gather.sh").exists()
