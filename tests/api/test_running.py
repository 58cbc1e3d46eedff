import json
from uuid import uuid4

import pytest

from haremile.core.records.study import RunState
from haremile.errors import RunFailedError
from haremile.usecases.conduct import Conductor
from haremile.usecases.import_readings import import_study
from haremile.usecases.plan import checked_plan
from helpers import FakeRig, install


@pytest.fixture
def planned(bench):
    return bench.studies.create(checked_plan("Which?", [install("A"), install("B")], 2, seed=4))


def states(bench, study):
    return [run.state for run in bench.studies.runs(study.id)]


def conduct(bench, study, outcomes):
    rig = FakeRig(outcomes)
    Conductor(bench.studies, bench.queue, bench.events, {"simulated": rig}).conduct(study.id)


def test_a_planned_run_is_skipped_with_its_reason_and_the_rest_is_run(client, bench, planned):
    run = bench.studies.runs(planned.id)[1]
    address = f"/api/runs/{run.id}/skip"
    assert client.post(address, json={"reason": "the lid was open"}).status_code == 204
    assert client.post(address, json={"reason": "again"}).status_code == 409
    assert client.post(address, json={"reason": " "}).status_code == 422
    other = client.post(f"/api/runs/{uuid4()}/skip", json={"reason": "x"})
    assert other.status_code == 404
    conduct(bench, planned, [3.0] * 3)
    assert states(bench, planned) == [
        RunState.DONE,
        RunState.SKIPPED,
        RunState.DONE,
        RunState.DONE,
    ]
    assert bench.studies.runs(planned.id)[1].reason == "the lid was open"
    findings = client.get(f"/api/studies/{planned.id}/findings").json()
    assert sorted(lane["runs"] for lane in findings["reliability"][0]["lanes"]) == [1, 2]


def test_all_that_failed_is_planned_again_at_once(client, bench, planned):
    conduct(bench, planned, [RunFailedError("no"), 3.0, RunFailedError("no"), 3.0])
    address = f"/api/studies/{planned.id}/plan-failed-again"
    assert client.post(address).json() == {"runs": 2}
    assert states(bench, planned).count(RunState.PLANNED) == 2
    assert client.post(address).json() == {"runs": 0}
    assert client.post(f"/api/studies/{uuid4()}/plan-failed-again").status_code == 404


def test_a_disturbance_is_noted_with_the_run_that_was_under_way(client, bench, planned):
    address = f"/api/studies/{planned.id}/disturbances"
    assert client.get(address).json() == []
    client.post(address, json={"text": "a van outside"})
    lease = bench.queue.lease_next(planned.id)
    bench.queue.begin(lease)
    noted = client.post(address, json={"text": "<b>door</b> slammed"}).json()
    assert [one["run_id"] for one in noted] == [None, str(lease.run.id)]
    assert noted[1]["text"] == "<b>door</b> slammed"
    assert client.post(address, json={"text": ""}).status_code == 422


def test_only_a_study_that_runs_here_is_stopped(client, planned):
    assert client.post(f"/api/studies/{planned.id}/stop").status_code == 409


def test_today_is_told(client, planned):
    told = client.get("/api/today").json()
    (machine,) = told["machines"]
    assert (machine["name"], machine["left"], machine["now"]) == ("Bench", 4, None)
    assert [one["contender"] for one in machine["next"]] != []
    assert told["actions_needed"][0]["study_id"] == str(planned.id)


def test_a_failed_run_is_set_aside_with_its_reason_and_let_count_again(client, bench):
    rows = [
        f"{system},Laptop,boot.total,{base + i / 10},s,done,"
        for system, base in (("Varrow 12", 10), ("Quillfern 8", 14))
        for i in range(8)
    ]
    rows.append("Quillfern 8,Laptop,boot.total,,s,failed,panicked: no init")
    rows.append("Varrow 12,Laptop,boot.total,,s,could-not-measure,no right to read the log")
    body = "system,machine,metric,value,unit,outcome,reason\n" + "\n".join(rows) + "\n"
    study = import_study(bench.studies, bench.readings, "Aside?", body.encode())
    address = f"/api/studies/{study.id}"

    def reliability(search=""):
        rows = client.get(f"{address}/findings{search}").json()["reliability"]
        return {row["lane_no"]: row["failed"] for row in rows[0]["lanes"]}, rows[0]["sentence"]

    told, text = reliability()
    assert sorted(told.values()) == [0, 1], "what could not be measured is no failure"
    assert "failed in 1 of 9" in text
    (run,) = [r for r in client.get(f"{address}/runs").json()["runs"] if r["state"] == "failed"]
    aside = f"/api/runs/{run['id']}/set-aside"
    assert client.put(aside, json={"reason": "the plug was out"}).status_code == 204
    assert sorted(reliability()[0].values()) == [0, 0]
    assert sorted(reliability("?with_aside=true")[0].values()) == [0, 1]
    sheet = client.get(f"{address}/runs").json()["runs"]
    (kept,) = [r for r in sheet if r["id"] == run["id"]]
    assert kept["reason"].startswith("set aside: the plug was out")
    assert client.put(aside, json={"reason": "twice"}).status_code == 409
    assert client.put(aside, json={"reason": None}).status_code == 204
    assert reliability() == (told, text)
    odd = {"reason": "so it said; it had failed: twice"}
    assert client.put(aside, json=odd).status_code == 204
    assert client.put(aside, json={"reason": None}).status_code == 204
    (again,) = [r for r in client.get(f"{address}/runs").json()["runs"] if r["id"] == run["id"]]
    assert again["reason"] == run["reason"], "whatever a person wrote"
    done = next(r for r in sheet if r["state"] == "done")
    assert client.put(f"/api/runs/{done['id']}/set-aside", json={"reason": "x"}).status_code == 409
    answer = client.post(f"{address}/plan-failed-again").json()
    assert answer["runs"] == 2, "what could not be measured is tried again too"
    (row,) = client.get(f"{address}/findings").json()["rows"]
    assert row["verdict"] == "ahead", (
        "a run that comes by hand, or not at all, takes no verdict away"
    )


def test_readings_of_memory_alone_are_of_no_boots(client, bench):
    rows = [
        f"{system},Laptop,memory.used,{base + i},MiB"
        for system, base in (("Varrow 12", 500), ("Quillfern 8", 700))
        for i in range(8)
    ]
    body = "system,machine,metric,value,unit\n" + "\n".join(rows) + "\n"
    study = import_study(bench.studies, bench.readings, "Lighter?", body.encode())
    found = client.get(f"/api/studies/{study.id}/findings").json()
    assert "boots" not in json.dumps(found)
