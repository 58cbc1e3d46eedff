"""A plan over HTTP, from its first word to its start."""

from uuid import UUID

import pytest

from haremile.core.records.draft import Draft
from haremile.core.records.study import Install, Machine, StudyState, System
from haremile.usecases.drafts import start_draft
from haremile.usecases.import_readings import import_study
from helpers import install

EMPTY = {"title": "", "blocks": 12, "procedures": ["boot"]}


@pytest.fixture
def kept(bench):
    return [bench.library.ensure(install(name)) for name in "AB"]


def drafted(client, title=""):
    return client.post("/api/studies/drafts", json={"title": title}).json()


def keep(client, study, **part):
    asked = {**EMPTY, **part}
    return client.put(f"/api/studies/{study['id']}/draft", json=asked)


def test_a_draft_is_kept_as_it_is_typed_and_stands_in_the_list(client, kept):
    study = drafted(client)
    assert (study["state"], study["title"], study["contenders"]) == ("draft", "", [])
    body = {
        "title": "Which?",
        "installs": [str(one.id) for one in kept],
        "margins": {"boot.total": {"amount": 0.4}, "memory.used": {}},
        "interim_looks": [6, 12],
        "seen_to": ["background"],
        "order": "visits",
    }
    assert keep(client, study, **body).status_code == 204
    found = client.get(f"/api/studies/{study['id']}").json()
    assert (found["title"], found["can_run"]) == ("Which?", False)
    assert found["draft"]["margins"] == {"boot.total": {"amount": 0.4, "share": None}}
    assert found["draft"]["seen_to"] == ["background"]
    (line,) = client.get("/api/studies").json()
    assert (line["state"], line["contenders"], line["machines"]) == ("draft", ["A", "B"], ["Bench"])
    assert (line["runs"], line["answer"]) == (0, None)


def test_an_empty_draft_serves_again(client, kept):
    first = drafted(client)
    assert drafted(client)["id"] == first["id"]
    keep(client, first, title="Which?")
    second = drafted(client)
    assert second["id"] != first["id"]
    keep(client, second, blocks=5)
    assert drafted(client)["id"] not in (first["id"], second["id"])


def test_a_draft_becomes_a_study_with_its_run_sheet(client, bench, kept):
    study = drafted(client)
    installs = [str(one.id) for one in kept]
    keep(client, study, title="Which?", installs=installs, blocks=2, seed=7)
    started = client.post(f"/api/studies/{study['id']}/start")
    assert started.status_code == 202
    found = started.json()
    assert (found["draft"], found["seed"], found["blocks"]) == (None, 7, 2)
    assert [one["label"] for one in found["contenders"]] == ["A", "B"]
    assert len(client.get(f"/api/studies/{study['id']}/runs").json()["runs"]) == 4
    again = client.post(f"/api/studies/{study['id']}/start")
    assert again.status_code == 409
    assert "started already" in again.json()["detail"]
    late = keep(client, study, title="Another?")
    assert late.status_code == 409
    bench.runner.join()


@pytest.mark.parametrize(
    ("part", "said"),
    [
        ({"installs": []}, "at least one contender"),
        ({"title": "  "}, "needs a question"),
        ({"procedures": []}, "at least one procedure"),
        ({"procedures": ["dance"]}, "unknown procedure"),
        ({"interim_looks": [3]}, "the last look must be at the last block"),
    ],
)
def test_what_is_missing_is_named_and_the_draft_stays(client, kept, part, said):
    study = drafted(client)
    whole = {"title": "Which?", "installs": [str(kept[0].id)], "procedures": ["boot"]}
    assert keep(client, study, **{**whole, **part}).status_code == 204
    refused = client.post(f"/api/studies/{study['id']}/start")
    assert refused.status_code == 422
    assert said in refused.json()["detail"]
    assert client.get(f"/api/studies/{study['id']}").json()["state"] == "draft"


def test_a_contender_that_nothing_operates_is_not_started_from_here(client, bench):
    made = bench.library.ensure(install("A", rig=None))
    study = drafted(client)
    keep(client, study, title="Q", installs=[str(made.id)], procedures=["boot"])
    refused = client.post(f"/api/studies/{study['id']}/start")
    assert (refused.status_code, refused.json()["detail"].partition(":")[0]) == (
        422,
        "nothing operates A on Bench",
    )


@pytest.mark.parametrize(
    "part", [{"blocks": 0}, {"blocks": 501}, {"title": "x" * 5000}, {"installs": ["x"]}]
)
def test_what_is_beyond_all_bounds_is_not_kept(client, part):
    study = drafted(client)
    assert keep(client, study, **part).status_code == 422


def test_nothing_is_done_to_a_draft_that_needs_a_study(client, bench):
    study = bench.studies.create_draft("Q", Draft())
    address = f"/api/studies/{study.id}"
    assert client.post(f"{address}/run").status_code == 409
    assert client.post(f"{address}/extend", json={"blocks": 2}).status_code == 409
    files = {"files": ("a.csv", b"system,machine,metric,value,unit\nA,B,boot.total,1,s\n")}
    refused = client.post(f"{address}/intake", files=files)
    assert (refused.status_code, "is a draft" in refused.json()["detail"]) == (409, True)


def test_visits_are_the_usual_order_where_a_person_swaps(client, bench):
    machine = Machine("Field-kit board", "physical")
    installs = [
        bench.library.ensure(
            Install(System(name), machine, rig="enrolled", recipe={"switching": "disk-swap"})
        )
        for name in "AB"
    ]
    asked = {"installs": [str(one.id) for one in installs], "blocks": 10}
    found = client.post("/api/studies/outlook", json=asked).json()
    assert found["order"] == "visits"
    (cost,) = found["costs"]
    assert (cost["turns"], cost["turns_in_blocks"]) == (3, 20)
    in_blocks = client.post("/api/studies/outlook", json={**asked, "order": "blocks"}).json()
    assert in_blocks["costs"][0]["turns"] == 20
    study = drafted(client)
    keep(client, study, title="Q", procedures=["boot"], **asked)
    start_draft(bench.studies, bench.library, bench.own_measures, UUID(study["id"]))
    assert client.get(f"/api/studies/{study['id']}").json()["order"] == "visits"
    lanes = [run.lane_no for run in bench.studies.runs(study["id"])]
    assert lanes == [1] * 5 + [2] * 10 + [1] * 5


def test_a_fair_start_is_told_by_the_newest_run_of_each_contender(client, bench):
    body = (
        b"system,machine,metric,value,unit,condition.updates_pending,condition.power\n"
        b"A,Laptop,boot.total,10,s,0,mains\nB,Laptop,boot.total,11,s,14,mains\n"
    )
    import_study(bench.studies, bench.readings, "T", body)
    installs = [str(one.id) for one in bench.library.installs()]
    asked = {"installs": installs, "blocks": 12}
    fair = client.post("/api/studies/outlook", json=asked).json()["fair"]
    (difference,) = fair["differences"]
    assert (difference["key"], difference["grade"]) == ("updates_pending", "weakens")
    assert difference["values"] == ["0", "14"]
    assert fair["unknown"] == []
    keys = {one["key"] for one in fair["checks"]}
    assert "recorder" in keys
    assert not keys & {"power", "updates_pending"}
    fresh = bench.library.ensure(install("C", "Laptop"))
    asked["installs"].append(str(fresh.id))
    fair = client.post("/api/studies/outlook", json=asked).json()["fair"]
    assert fair["unknown"] == ["C on Laptop"]
    assert {"power", "recorder"} <= {one["key"] for one in fair["checks"]}


def test_a_note_and_tags_are_kept_with_what_was_there_before(client, bench):
    study = bench.studies.create_draft("Q", Draft())
    address = f"/api/studies/{study.id}"
    assert client.patch(address, json={"note": "for the annual book", "tags": ["field", "2026"]})
    client.patch(address, json={"tags": ["field"]})
    found = client.get(address).json()
    assert (found["note"], found["tags"]) == ("for the annual book", ["field"])
    assert client.get("/api/studies").json()[0]["tags"] == ["field"]
    acts = client.get(f"{address}/history").json()
    assert acts[0]["what"] == "study.annotated"
    assert acts[0]["facts"]["was"]["tags"] == "field, 2026"
    for wrong in ({"tags": [" "]}, {"tags": ["x" * 41]}, {"note": "x" * 5000}):
        assert client.patch(address, json=wrong).status_code == 422


def test_a_draft_is_put_away_brought_back_and_deleted(client, bench):
    study = drafted(client, "Which?")
    address = f"/api/studies/{study['id']}"
    client.patch(address, json={"is_put_away": True})
    assert client.get("/api/studies").json() == []
    client.patch(address, json={"is_put_away": False})
    assert bench.studies.digests()[0].state is StudyState.DRAFT
    client.patch(address, json={"is_put_away": True})
    gone = client.post(f"{address}/delete-for-good", json={"title": "Which?"})
    assert gone.json() == {"readings": 0}
    assert keep(client, study).status_code == 410
