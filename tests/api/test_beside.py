"""Figures quoted from elsewhere, and photographs beside a run."""

import base64
from uuid import uuid4

import pytest

ROW = "boot.total|Laptop|typed|"
PICTURE = base64.b64encode(b"\xff\xd8\xff\xe0\x00\x04ab\xff\xda\x00\x02xx\xff\xd9").decode()


@pytest.fixture
def study(client):
    """Two systems whose boots were typed in."""
    asked = [
        {
            "id": str(uuid4()),
            "system": system,
            "machine": "Laptop",
            "at": "2026-03-04T10:00:00+00:00",
            "person": "Ida",
            "method": "typed",
            "written": [{"metric": "boot.total", "text": text}],
        }
        for system, text in (("Varrow 12", "20.1 s"), ("Quillfern 8", "25.4 s"))
    ]
    return client.post("/api/by-hand/results", json={"results": asked}).json()["study"]


def quote(client, study, **more):
    asked = {
        "id": str(uuid4()),
        "lane_no": 1,
        "row_key": ROW,
        "text": "19 s",
        "source": "The Bench Letter, spring issue",
        "dated": "2025-04",
    }
    return client.post(f"/api/studies/{study}/quoted", json={**asked, **more})


def test_a_quoted_figure_stands_beside_its_row_and_enters_no_verdict(client, study):
    before = client.get(f"/api/studies/{study}/findings").json()
    (kept,) = quote(client, study, text="0:19", text_to="22 s").json()
    assert (kept["low"], kept["high"], kept["unit"]) == (19.0, 22.0, "s")
    assert kept["source"] == "The Bench Letter, spring issue"
    assert client.get(f"/api/studies/{study}/findings").json() == before
    assert ROW in {row["key"] for row in before["rows"]}


def test_it_is_kept_once_withdrawn_and_brought_back(client, study):
    key = str(uuid4())
    assert len(quote(client, study, id=key).json()) == len(quote(client, study, id=key).json()) == 1
    for is_withdrawn, left in ((True, 0), (False, 1)):
        asked = {"is_withdrawn": is_withdrawn}
        assert client.patch(f"/api/quoted/{key}", json=asked).status_code == 204
        assert len(client.get(f"/api/studies/{study}/quoted").json()) == left
    acts = [one["what"] for one in client.get(f"/api/studies/{study}/history").json()]
    assert acts[:3] == ["figure.brought_back", "figure.withdrawn", "figure.quoted"]
    assert client.patch(f"/api/quoted/{uuid4()}", json=asked).status_code == 404


def test_where_no_more_are_kept_one_that_is_there_is_no_other(client, study, monkeypatch):
    monkeypatch.setattr("haremile.store.beside.MOST_QUOTED", 1)
    key = str(uuid4())
    assert [quote(client, study, id=key).status_code for _ in range(2)] == [201, 201]
    told = quote(client, study)
    assert (told.status_code, "no more are kept" in told.json()["detail"]) == (409, True)


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"text": "soon"}, "not an amount"),
        ({"text": "22 s", "text_to": "19 s"}, "wrong way round"),
        ({"dated": "2399"}, "has not been yet"),
        ({"dated": "2025-13"}, "is no date"),
        ({"dated": "spring"}, "is no date"),
        ({"lane_no": 9}, "no contender 9"),
        ({"text": "30 days"}, "days is no unit here"),
        ({"row_key": "boot.nothing|Laptop|typed|"}, "boot.nothing"),
    ],
)
def test_what_is_no_such_figure_is_said(client, study, more, says):
    told = quote(client, study, **more)
    assert (told.status_code, says in told.json()["detail"]) == (422, True), told.json()
    assert client.get(f"/api/studies/{study}/quoted").json() == []


def test_photographs_stand_beside_a_run(client, bench, study):
    run = bench.studies.runs(study)[0].id
    asked = {
        "id": str(uuid4()),
        "name": "what the screen said",
        "image": f"data:image/jpeg;base64,{PICTURE}",
    }
    (kept,) = client.post(f"/api/runs/{run}/photographs", json=asked).json()
    assert len(client.post(f"/api/runs/{run}/photographs", json=asked).json()) == 1
    assert (kept["name"], kept["image"]) == (asked["name"], asked["image"])
    gone = client.patch(f"/api/photographs/{kept['id']}", json={"is_withdrawn": True})
    assert gone.status_code == 204
    assert client.get(f"/api/runs/{run}/photographs").json() == []
    wrong = {**asked, "id": str(uuid4()), "image": "data:image/gif;base64,R0lG"}
    assert client.post(f"/api/runs/{run}/photographs", json=wrong).status_code == 422
    assert client.post(f"/api/runs/{uuid4()}/photographs", json=asked).status_code == 404


def test_both_go_with_their_study(client, bench, study):
    quote(client, study)
    run = bench.studies.runs(study)[0].id
    asked = {"id": str(uuid4()), "name": "it", "image": f"data:image/jpeg;base64,{PICTURE}"}
    client.post(f"/api/runs/{run}/photographs", json=asked)
    title = bench.studies.get(study).title
    client.patch(f"/api/studies/{study}", json={"is_put_away": True})
    gone = client.post(f"/api/studies/{study}/delete-for-good", json={"title": title})
    assert gone.status_code == 200
    assert client.post(f"/api/runs/{run}/photographs", json=asked).status_code in (404, 410)
