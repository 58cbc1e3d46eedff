"""What is kept can be changed, put away, brought back and deleted; nothing is lost by accident."""

from uuid import UUID, uuid4

import pytest

from haremile.core.records.study import RunState
from haremile.usecases.access import Role
from haremile.usecases.conduct import Conductor
from haremile.usecases.plan import checked_plan
from helpers import FakeRig, install

BODY = (
    b"system,machine,metric,value,unit,outcome\n"
    b"Varrow 12,Laptop,boot.total,10,s,done\n"
    b"Varrow 12,Laptop,boot.total,11,s,done\n"
    b"Varrow 12,Laptop,boot.total,,s,failed\n"
)


def titles(client, **query):
    return [one["title"] for one in client.get("/api/studies", params=query).json()]


def boots(client, study):
    query = {"metric": "boot.total"}
    return client.get(f"/api/studies/{study.id}/readings", params=query).json()


def change(client, study, **asked):
    return client.patch(f"/api/studies/{study.id}", json=asked).status_code


def test_a_study_is_renamed_and_its_history_tells_the_old_title(client, study):
    assert change(client, study, title="Which boots sooner?") == 204
    assert titles(client) == ["Which boots sooner?"]
    (act,) = client.get(f"/api/studies/{study.id}/history").json()
    assert (act["who"], act["what"], act["facts"]["was"]) == ("Ida", "study.renamed", "Which?")


def test_a_study_that_was_put_away_is_in_no_list_and_comes_back(client, study):
    assert change(client, study, is_put_away=True) == 204
    assert titles(client) == []
    assert titles(client, put_away=True) == ["Which?"]
    assert client.get(f"/api/studies/{study.id}").json()["is_put_away"]
    assert change(client, study, is_put_away=False) == 204
    assert titles(client) == ["Which?"]


def test_a_study_that_runs_is_not_put_away(client, bench):
    planned = bench.studies.create(checked_plan("Runs", [install("A"), install("B")], 2, seed=4))
    bench.studies.set_state(planned.id, "running")
    assert change(client, planned, is_put_away=True) == 409
    assert titles(client) == ["Runs"]


def test_deleting_asks_twice_and_leaves_nothing_but_that_it_was_there(client, bench, study):
    address = f"/api/studies/{study.id}/delete-for-good"
    assert client.post(address, json={"title": "Which?"}).status_code == 409  # not put away
    change(client, study, is_put_away=True)
    assert client.post(address, json={"title": "Another"}).status_code == 422
    capture = boots(client, study)[0]["capture_id"]
    assert client.post(address, json={"title": "Which?"}).json() == {"readings": 16}
    gone = client.get(f"/api/studies/{study.id}")
    assert (gone.status_code, gone.json()["title"]) == (410, "Deleted for good")
    assert titles(client, put_away=True) == []
    assert capture not in {str(key) for key in bench.readings.known_digests([capture])}
    (act, *_) = client.get("/api/audit").json()
    assert (act["what"], act["facts"]["title"]) == ("study.deleted", "Which?")
    assert client.post(address, json={"title": "Which?"}).status_code == 410
    nobody = client.post(f"/api/studies/{uuid4()}/delete-for-good", json={"title": "x"})
    assert nobody.status_code == 404


def test_only_the_owner_deletes(client, bench, study):
    change(client, study, is_put_away=True)
    key = bench.access.add_person("Ole", Role.WORK)
    asked = client.post(
        f"/api/studies/{study.id}/delete-for-good",
        json={"title": "Which?"},
        headers={"Authorization": f"Bearer {key}"},
    )
    assert asked.status_code == 403
    assert titles(client, put_away=True) == ["Which?"]


def test_deleting_keeps_what_another_study_holds(client, bench):
    planned = bench.studies.create(checked_plan("Runs", [install("A"), install("B")], 1, seed=4))
    Conductor(bench.studies, bench.queue, bench.events, {"simulated": FakeRig([3.0, 4.0])}).conduct(
        planned.id
    )
    (run, other) = bench.studies.runs(planned.id)
    body = bench.readings.capture_of_run(run.id).body
    second = client.post(
        "/api/studies/import",
        data={"title": "Again"},
        files=[("files", ("a.json", body))],
    )
    second_id = second.json()["study"]["id"]
    change(client, planned, is_put_away=True)
    client.post(f"/api/studies/{planned.id}/delete-for-good", json={"title": "Runs"})
    (kept,) = bench.studies.runs(UUID(second_id))
    assert bench.readings.capture_of_run(kept.id).body == body
    assert bench.machines.was_deleted(other.id)


def test_a_reading_is_corrected_with_its_reason_and_back_again(client, study):
    before = boots(client, study)
    reading = before[3]
    address = f"/api/readings/{reading['id']}/correction"
    asked = {"value": 12500, "unit": "ms", "reason": "a slip of the pen"}
    assert client.put(address, json=asked).status_code == 204
    found = boots(client, study)[3]
    assert (found["value"], found["value_before"]) == (12.5, reading["value"])
    again = {"value": 12.6, "unit": "s", "reason": "no, this"}
    assert client.put(address, json=again).status_code == 204
    assert boots(client, study)[3]["value_before"] == reading["value"]
    history = client.get(f"/api/readings/{reading['id']}/history").json()
    assert [act["facts"]["reason"] for act in history] == ["no, this", "a slip of the pen"]
    assert history[0]["facts"]["was"] == 12.5
    assert client.delete(address).status_code == 204
    assert boots(client, study) == before
    assert client.delete(address).status_code == 409


@pytest.mark.parametrize(
    ("value", "unit", "says"),
    [
        (3, "MiB", "does not measure"),
        (3, "parsec", "unknown unit"),
        (1e7, "s", "cannot be"),
        (-1, "s", "negative"),
    ],
)
def test_a_correction_that_cannot_be_changes_nothing(client, study, value, unit, says):
    before = boots(client, study)
    address = f"/api/readings/{before[0]['id']}/correction"
    refused = client.put(address, json={"value": value, "unit": unit, "reason": "so"})
    assert refused.status_code == 422
    assert says in refused.json()["detail"]
    assert boots(client, study) == before


def test_what_a_machine_read_is_not_corrected(client, bench):
    planned = bench.studies.create(checked_plan("Runs", [install("A"), install("B")], 1, seed=4))
    Conductor(bench.studies, bench.queue, bench.events, {"simulated": FakeRig([3.0, 4.0])}).conduct(
        planned.id
    )
    reading = boots(client, planned)[0]
    asked = {"value": 2.0, "unit": "s", "reason": "nicer"}
    refused = client.put(f"/api/readings/{reading['id']}/correction", json=asked)
    assert refused.status_code == 409
    assert "evidence" in refused.json()["detail"]


def test_findings_follow_a_correction(client, study):
    def median():
        found = client.get(f"/api/studies/{study.id}/findings").json()
        return found["rows"][0]["lanes"][0]["summary"]["median"]

    before = median()
    first = [one for one in boots(client, study) if one["lane_no"] == 1]
    for reading in first:
        asked = {"value": reading["value"] + 1, "unit": "s", "reason": "the clock was wrong"}
        client.put(f"/api/readings/{reading['id']}/correction", json=asked)
    assert median() == pytest.approx(before + 1)


def test_a_file_is_put_away_with_its_runs_and_comes_back_as_it_was(client, bench, study):
    address = f"/api/studies/{study.id}/files"
    client.post(
        f"/api/studies/{study.id}/intake",
        files=[("files", ("more.csv", BODY))],
        data={"lanes": ["0"]},
    )
    newest, first = client.get(address).json()
    assert (newest["runs"], newest["readings"], newest["put_away_at"]) == (3, 2, None)
    assert (first["runs"], first["readings"]) == (16, 16)
    assert newest["brought_at"] > first["brought_at"]
    before = boots(client, study)
    states = [run.state for run in bench.studies.runs(study.id)]
    assert client.patch(f"{address}/{newest['id']}", json={"is_put_away": True}).status_code == 204
    assert len(boots(client, study)) == 16
    assert client.get(address).json()[0]["put_away_at"]
    after = [run.state for run in bench.studies.runs(study.id)]
    assert after.count(RunState.VOID) == 3
    client.patch(f"{address}/{newest['id']}", json={"is_put_away": False})
    assert boots(client, study) == before
    assert [run.state for run in bench.studies.runs(study.id)] == states


def test_a_run_that_was_planned_again_meanwhile_stays_as_it_is(client, bench, study):
    address = f"/api/studies/{study.id}/files"
    (file,) = client.get(address).json()
    client.patch(f"{address}/{file['id']}", json={"is_put_away": True})
    run = bench.studies.runs(study.id)[0]
    bench.queue.plan_again(run.id)
    client.patch(f"{address}/{file['id']}", json={"is_put_away": False})
    assert bench.studies.runs(study.id)[0].state is RunState.PLANNED
    assert len(boots(client, study)) == 15
