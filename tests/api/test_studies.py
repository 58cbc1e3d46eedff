import threading
from uuid import UUID

import pytest
from fastapi.testclient import TestClient

from haremile.api.application import create_app
from haremile.api.routers import studies
from haremile.core.records.study import RunState
from haremile.errors import NotFoundError, StoreUnavailableError
from haremile.usecases.access import Role
from haremile_probe.wire import dump_capture
from helpers import capture_for, install, order

CSV = "system,machine,metric,value,unit\n"
NOBODY = UUID("0190a5f0-0000-7000-8000-000000000000")
"""A name that nothing has."""


def test_a_study_is_planned_listed_and_described(client, bench):
    kept = [bench.library.ensure(install(name)) for name in "AB"]
    asked = {
        "title": "Which?",
        "installs": [str(item.id) for item in kept],
        "blocks": 3,
        "seed": 5,
        "margins": {"boot.total": {"amount": 0.5}},
    }
    made = client.post("/api/studies", json=asked)
    assert made.status_code == 201
    study = client.get(f"/api/studies/{made.json()['id']}").json()
    assert study["margins"] == {"boot.total": {"share": None, "amount": 0.5}}
    assert study["can_run"]
    assert not study["is_running"]
    (digest,) = client.get("/api/studies").json()
    assert (digest["runs"], digest["finished"]) == (6, 0)


def test_findings_and_sheet_of_a_study(client, study):
    found = client.get(f"/api/studies/{study.id}/findings").json()
    (row,) = found["rows"]
    assert row["verdict"] == "ahead"
    assert row["lanes"][0]["summary"]["n"] == 8
    assert {(pair["a"], pair["b"]) for pair in row["pairs"]} == {(1, 2), (2, 1)}
    sheet = client.get(f"/api/studies/{study.id}/runs").json()
    assert sheet["metric"] == "boot.total"
    assert next(run["value"] for run in sheet["runs"] if run["lane_no"] == 1) == 10.0


def test_readings_go_out_as_csv_and_in_again(client, study):
    body = client.get(f"/api/studies/{study.id}/readings.csv")
    assert body.headers["content-type"].startswith("text/csv")
    again = client.post(
        "/api/studies/import", data={"title": "Again?"}, files={"files": ("r.csv", body.content)}
    )
    assert again.status_code == 201
    columns = [
        client.get(f"/api/studies/{key}/reading-columns", params={"metric": "boot.total"}).json()
        for key in (study.id, again.json()["study"]["id"])
    ]
    assert columns[0]["value"] == columns[1]["value"]


def test_a_bad_file_is_refused_with_its_faults(client):
    made = client.post(
        "/api/studies/import",
        data={"title": "Bad"},
        files={"files": ("r.csv", CSV + "V,L,boot.total,fast,s\n")},
    )
    assert made.status_code == 422
    assert made.headers["content-type"] == "application/problem+json"
    assert "line 2, column 4: not a number: fast" in made.json()["detail"]


def test_a_reading_is_set_aside_and_taken_back(client, study):
    path = f"/api/studies/{study.id}/readings"
    reading = client.get(path, params={"metric": "boot.total"}).json()[0]
    client.patch(f"/api/readings/{reading['id']}", json={"set_aside": " lid closed "})
    assert client.get(path, params={"metric": "boot.total"}).json()[0]["set_aside"] == "lid closed"
    row = client.get(f"/api/studies/{study.id}/findings").json()["rows"][0]
    assert row["lanes"][0]["summary"]["n"] == 7
    client.patch(f"/api/readings/{reading['id']}", json={"set_aside": None})
    assert client.get(path, params={"metric": "boot.total"}).json()[0]["set_aside"] is None


def test_every_reading_leads_to_its_evidence(client, bench, study):
    run = client.get(f"/api/studies/{study.id}/runs").json()["runs"][0]
    capture = client.get(f"/api/runs/{run['id']}/capture").json()
    assert "Varrow 12,Laptop,boot.total,10.0,s" in capture["evidence"][0]["text"]


@pytest.mark.parametrize(
    ("method", "path", "body", "status", "says"),
    [
        ("GET", f"/api/studies/{NOBODY}", None, 404, "no study"),
        ("GET", f"/api/runs/{NOBODY}/capture", None, 404, "no evidence"),
        ("GET", "/api/studies/nonsense", None, 422, "study_id"),
        ("GET", "/api/nothing", None, 404, "Not Found"),
        ("POST", "/api/studies", {"title": " ", "installs": [], "blocks": 0}, 422, "title"),
        ("PATCH", f"/api/readings/{NOBODY}", {"set_aside": "x"}, 404, "no reading"),
        ("PATCH", f"/api/readings/{NOBODY}", {"set_aside": ""}, 422, "set_aside"),
    ],
)
def test_errors_are_problem_details(client, method, path, body, status, says):
    answer = client.request(method, path, json=body)
    assert answer.status_code == status
    assert answer.headers["content-type"] == "application/problem+json"
    assert says in answer.json()["detail"]


def test_an_unknown_metric_in_a_plan_is_refused(client, bench):
    kept = [bench.library.ensure(install(name)) for name in "AB"]
    asked = {
        "title": "Q",
        "installs": [str(item.id) for item in kept],
        "blocks": 2,
        "margins": {"boot.totl": {"amount": 1}},
    }
    assert "unknown metric: boot.totl" in client.post("/api/studies", json=asked).json()["detail"]
    assert client.get("/api/studies").json() == []


def test_a_study_that_no_rig_can_run_is_not_started(client, study):
    answer = client.post(f"/api/studies/{study.id}/run")
    assert answer.status_code == 409
    assert "cannot be run from here" in answer.json()["detail"]
    assert client.post(f"/api/studies/{study.id}/pause").status_code == 409


def test_a_failed_run_is_planned_again(client, bench):
    kept = [bench.library.ensure(install(name)) for name in "AB"]
    asked = {"title": "Q", "installs": [str(item.id) for item in kept], "blocks": 1}
    study_id = client.post("/api/studies", json=asked).json()["id"]
    lease = bench.queue.lease_next(study_id)
    bench.queue.begin(lease)
    capture = capture_for(order(lease.install), outcome="failed")
    bench.queue.finish(lease, capture, dump_capture(capture))
    assert client.post(f"/api/runs/{lease.run.id}/plan-again").status_code == 204
    assert bench.studies.runs(study_id)[0].state is RunState.PLANNED
    evidence = client.get(f"/api/runs/{lease.run.id}/capture").json()
    assert evidence["kind"] == "haremile-capture/1"
    assert evidence["conditions"] == {"accelerator": "tcg"}


def test_looks_are_planned_and_a_done_study_is_extended(client, bench, study):
    kept = [bench.library.ensure(install(name)) for name in "AB"]
    asked = {
        "title": "Which?",
        "installs": [str(item.id) for item in kept],
        "blocks": 6,
        "interim_looks": [3, 6],
    }
    made = client.post("/api/studies", json=asked).json()
    assert made["interim_looks"] == {"planned": [3, 6], "extensions": []}
    early = client.post(f"/api/studies/{made['id']}/extend", json={"blocks": 4})
    assert early.status_code == 409
    assert "not done" in early.json()["detail"]
    wrong = client.post("/api/studies", json={**asked, "interim_looks": [3, 5]})
    assert wrong.status_code == 422
    expected_false = client.get(f"/api/studies/{study.id}/findings").json()["expected_false"]
    assert expected_false.startswith("1 verdict in 1 row")


def test_the_methods_are_served_with_an_anchor_at_every_heading(client):
    html = client.get("/api/methods").json()["html"]
    assert '<h2 id="the-verdict">The verdict</h2>' in html
    for linked in ("two-lanes", "reliability"):
        assert f'id="{linked}"' in html
    assert "<script" not in html


def test_the_page_of_findings_has_them_calculated_while_its_scripts_are_on_their_way(
    bench, study, throwaway_url, monkeypatch, tmp_path
):
    (tmp_path / "assets").mkdir()
    (tmp_path / "index.html").write_text("<p>the page</p>")
    (tmp_path / "offline.js").write_text("")
    asked, came = [], threading.Event()

    def calculated(_studies, _readings, study_id):
        asked.append(study_id)
        came.set()
        raise NotFoundError("study", str(study_id))

    monkeypatch.setattr(studies, "kept_findings", calculated)
    headers = {"Authorization": f"Bearer {bench.access.add_person('Ida', Role.LOOK)}"}
    app = create_app(bench, throwaway_url, tmp_path)
    with TestClient(app, base_url="http://127.0.0.1:8642", headers=headers) as client:
        assert "the page" in client.get(f"/studies/{study.id}/run").text
        assert asked == []
        assert "the page" in client.get(f"/studies/{study.id}/findings").text
        assert came.wait(60)
    assert asked == [study.id]


def test_what_is_kept_is_not_told_while_the_store_is_away(client, study, bench, monkeypatch):
    address = f"/api/studies/{study.id}"
    kept = client.get(f"{address}/findings")
    assert kept.status_code == 200

    def away(*_asked):
        raise StoreUnavailableError("the database does not answer")

    with monkeypatch.context() as lost:
        lost.setattr(type(bench.studies), "last_change", away)
        for part in ("findings", "runs"):
            told = client.get(f"{address}/{part}")
            assert (told.status_code, told.json()["detail"]) == (
                503,
                "the database does not answer",
            )
    again = client.get(f"{address}/findings", headers={"If-None-Match": kept.headers["etag"]})
    assert again.status_code == 304


def until_current(client):
    for _ in range(600):
        found = client.get("/api/studies").json()
        if all(one["is_current"] for one in found):
            return found
        threading.Event().wait(0.05)
    raise AssertionError("the answers are not calculated")


def test_the_list_says_what_each_study_answers_and_follows_what_changes(client, study):
    first = client.get("/api/studies").json()
    assert [one["answer"] for one in first] == [None]
    (one,) = until_current(client)
    assert one["answer"]["headline"] == "Varrow 12 ahead by 4.0 s"
    assert one["answer"]["about"] == "Power-on to ready, Laptop"
    readings = client.get(
        f"/api/studies/{study.id}/readings", params={"metric": "boot.total"}
    ).json()
    for reading in readings:
        if reading["lane_no"] == 1:
            asked = {"value": reading["value"] + 8, "unit": "s", "reason": "the clock was wrong"}
            client.put(f"/api/readings/{reading['id']}/correction", json=asked)
    (changed,) = client.get("/api/studies").json()
    assert (changed["is_current"], changed["answer"]) == (False, one["answer"])
    (after,) = until_current(client)
    assert after["answer"]["headline"] == "Quillfern 8 ahead by 4.0 s"


def test_a_plan_is_told_what_it_will_tell_from_the_bench_books_own_readings(client, bench, study):
    installs = [str(one.id) for one in bench.library.installs()]
    asked = {"installs": installs, "blocks": 12, "procedures": ["boot", "idle"]}
    found = client.post("/api/studies/outlook", json=asked).json()
    boot, idle = found["lines"]
    assert (boot["label"], boot["found"]["machine"]) == ("Power-on to ready", "Laptop")
    assert (boot["found"]["readings"], boot["found"]["installs"]) == (16, 2)
    assert boot["found"]["smallest"] > boot["found"]["margin"] > 0
    assert (idle["found"]["spread"], idle["found"]["readings"]) == (None, 0)
    (cost,) = found["costs"]
    assert (cost["machine"], cost["runs"], cost["from_past"]) == ("Laptop", 48, False)
    assert (found["verdicts"], found["false_ones"]) == (2, pytest.approx(0.1))
    wrong = client.post("/api/studies/outlook", json={**asked, "procedures": ["dance"]})
    assert wrong.status_code == 422
    nobody = client.post("/api/studies/outlook", json={**asked, "installs": [str(NOBODY)]})
    assert nobody.status_code == 422


def test_a_plan_is_duplicated_as_a_draft(client, bench):
    kept = [bench.library.ensure(install(name)) for name in "AB"]
    asked = {
        "title": "Which?",
        "installs": [str(item.id) for item in kept],
        "blocks": 4,
        "margins": {"boot.total": {"amount": 0.5}},
        "interim_looks": [2, 4],
    }
    first = client.post("/api/studies", json=asked).json()
    made = client.post(f"/api/studies/{first['id']}/duplicate", json={"title": "And now?"})
    second = made.json()
    assert made.status_code == 201
    assert (second["title"], second["state"]) == ("And now?", "draft")
    draft = second["draft"]
    assert (draft["blocks"], draft["interim_looks"], draft["seed"]) == (4, [2, 4], None)
    assert draft["margins"] == first["margins"]
    assert draft["installs"] == asked["installs"]
    third = client.post(f"/api/studies/{second['id']}/duplicate", json={"title": "And then?"})
    assert third.json()["draft"] == draft


def test_a_study_made_of_files_has_no_plan_to_duplicate(client, study):
    refused = client.post(f"/api/studies/{study.id}/duplicate", json={"title": "Again"})
    assert refused.status_code == 409
