import pytest

from haremile.demo.world import HERBARIUM
from haremile.usecases.conduct import Conductor
from haremile.usecases.plan import checked_plan
from haremile_probe.wire import CaptureReading, CaptureTrace
from helpers import FakeRig, capture_for, install


def conducted(bench, blocks=3):
    def measured(asked):
        capture = capture_for(asked)
        capture.readings = [
            CaptureReading("boot.kernel", 2.0 + asked.block / 10, "s", "systemd"),
            CaptureReading("boot.userspace", 4.0 * asked.lane_no, "s", "systemd"),
        ]
        capture.traces = [CaptureTrace("memory.used", "B", [1.0, 2.0], [3e8, 2e8])]
        return capture

    plan = checked_plan("Which?", [install("A"), install("B")], blocks, seed=4)
    study = bench.studies.create(plan)
    rigs = {"simulated": FakeRig([measured] * 2 * blocks)}
    assert Conductor(bench.studies, bench.queue, bench.events, rigs).conduct(study.id)
    return study


def test_the_boot_is_told_in_its_parts_lane_by_lane(bench, client):
    study = conducted(bench)
    (found,) = client.get(f"/api/studies/{study.id}/boot-parts").json()
    assert [source["method"] for source in found["sources"]] == ["systemd", "systemd"]
    first, second = found["lanes"]
    assert first["runs"] == 3
    assert [part["label"] for part in first["parts"]] == ["Kernel", "Userspace to ready"]
    assert first["parts"][1]["start"] == first["parts"][0]["end"] == 2.2
    assert second["parts"][1]["end"] - second["parts"][1]["start"] == pytest.approx(8.0)


def test_curves_come_in_run_order(bench, client):
    study = conducted(bench)
    found = client.get(f"/api/studies/{study.id}/traces", params={"metric": "memory.used"}).json()
    assert len(found) == 6
    assert [one["block"] for one in found] == [1, 1, 2, 2, 3, 3]
    assert found[0]["values"] == [3e8, 2e8]


def test_a_boot_without_its_units_is_said_to_have_none(bench, client):
    study = conducted(bench)
    (found,) = client.get(f"/api/studies/{study.id}/boot-parts").json()
    run = found["lanes"][0]["opened"][0]["run_id"]
    answer = client.get(f"/api/studies/{study.id}/runs/{run}/boot-units")
    assert answer.status_code == 404
    assert "no units of boot" in answer.json()["detail"]


def test_findings_tell_of_which_metrics_there_are_curves(bench, client):
    study = conducted(bench)
    assert client.get(f"/api/studies/{study.id}/findings").json()["curves"] == ["memory.used"]


def test_a_rows_notes_are_asked_for_by_its_key(bench, client):
    study = conducted(bench)
    path = f"/api/studies/{study.id}/findings/notes"
    row = client.get(f"/api/studies/{study.id}/findings").json()["rows"][0]["key"]
    assert [one["lane_no"] for one in client.get(path, params={"row": row}).json()] == [1, 2]
    refused = client.get(path, params={"row": "none|such"})
    assert refused.status_code == 422
    assert "no row none|such" in refused.json()["detail"]


def test_a_verdict_is_unfolded_into_its_steps(bench, client):
    study = conducted(bench)
    path = f"/api/studies/{study.id}/findings/steps"
    row = client.get(f"/api/studies/{study.id}/findings").json()["rows"][0]["key"]
    (pair,) = client.get(path, params={"row": row, "against": 1}).json()
    assert pair["b"] == 2
    titles = [step["title"] for step in pair["steps"]]
    assert titles == ["Readings", "Differences", "Interval", "Margin", "Verdict"]
    for asked, says in (
        ({"row": "none|such", "against": 1}, "no row none|such"),
        ({"row": row, "against": 7}, "no contender 7"),
    ):
        refused = client.get(path, params=asked)
        assert refused.status_code == 422
        assert says in refused.json()["detail"]


def test_where_the_noise_sits_is_told_with_what_would_shorten_the_next_study(world, client):
    study = world[HERBARIUM.title]
    path = f"/api/studies/{study.id}/findings/noise"
    row = client.get(f"/api/studies/{study.id}/findings").json()["rows"][0]["key"]
    found = client.get(path, params={"row": row}).json()
    assert [part["source"] for part in found["parts"]] == ["blocks", "installs", "runs"]
    blocks, installs, runs = found["parts"]
    assert blocks["share"] + runs["share"] == pytest.approx(1.0)
    assert installs["sd"] is None
    assert "of the noise lies" in found["headline"]
    assert any("a second install of one system would" in one for one in found["advice"])
    assert client.get(path, params={"row": "none|such"}).status_code == 422


def test_too_few_blocks_tell_no_noise_and_say_so(bench, client):
    study = conducted(bench, blocks=2)
    row = client.get(f"/api/studies/{study.id}/findings").json()["rows"][0]["key"]
    found = client.get(f"/api/studies/{study.id}/findings/noise", params={"row": row}).json()
    assert found["parts"] == []
    assert found["headline"].startswith("Too few complete blocks")


def test_means_and_the_worst_tenth_are_told_where_there_are_enough_readings(world, client):
    study = world[HERBARIUM.title]
    path = f"/api/studies/{study.id}/findings/tails"
    row = client.get(f"/api/studies/{study.id}/findings").json()["rows"][0]["key"]
    lanes = client.get(path, params={"row": row, "against": 1}).json()
    assert [lane["lane_no"] for lane in lanes] == [2, 3, 4, 5]
    for lane in lanes:
        assert lane["means"]["low"] < lane["means"]["value"] < lane["means"]["high"]
        assert lane["worst_tenth"]["value"] is None
        assert "it takes 40 readings of each" in lane["worst_tenth"]["said"]
    for asked in ({"row": "none|such", "against": 1}, {"row": row, "against": 9}):
        assert client.get(path, params=asked).status_code == 422


def test_a_difference_is_put_up_with_for_a_reason_and_no_longer(bench, client):
    study = conducted(bench)
    path = f"/api/studies/{study.id}/overrides"
    for _ in range(2):
        asked = client.put(f"{path}/medium", json={"reason": "it is the question"})
        assert asked.json()["overrides"] == {"medium": "it is the question"}
    assert client.put(f"{path}/medium", json={"reason": None}).json()["overrides"] == {}
    assert client.put(f"{path}/colour", json={"reason": "why not"}).status_code == 422
    assert client.put(f"{path}/medium", json={"reason": " "}).status_code == 422
    other = "/api/studies/0190d0c4-0000-7000-8000-000000000000/overrides/medium"
    assert client.put(other, json={"reason": "x"}).status_code == 404


def test_pairs_over_machines_come_with_each_machine(world, client):
    study = world["Does the candidate boot sooner on every machine?"]
    path = f"/api/studies/{study.id}/findings"
    row = client.get(path).json()["machines"][0]
    pairs = client.get(f"{path}/over-machines", params={"row": row["key"]}).json()
    assert {(pair["a"], pair["b"]) for pair in pairs} >= {
        ("Quillfern 8 Tarnwick", "Varrow 12 Tarnwick")
    }
    assert len(pairs[0]["found"]["machines"]) == 4
    assert client.get(f"{path}/over-machines", params={"row": "x"}).status_code == 422


def test_what_was_set_aside_can_be_let_in_to_see_whether_it_matters(bench, client):
    study = conducted(bench)
    reading = bench.readings.readings(study.id, "boot.kernel")[0]
    client.patch(f"/api/readings/{reading.id}", json={"set_aside": "the lid was closed"})
    path = f"/api/studies/{study.id}/findings"

    def counted(answer):
        row = next(row for row in answer.json()["rows"] if row["metric"] == "boot.kernel")
        return sum(lane["summary"]["n"] for lane in row["lanes"])

    assert counted(client.get(path)) == 5
    assert counted(client.get(path, params={"with_aside": "true"})) == 6
    assert counted(client.get(path)) == 5
