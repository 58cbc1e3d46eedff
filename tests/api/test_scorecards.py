"""Scorecards and works lists over HTTP: versions, what points rest on, bad input."""

from uuid import uuid4

import pytest

from haremile.core.records.library import Noun

AT = "/api/scorecards"


@pytest.fixture(name="system")
def kept_system(bench):
    return str(bench.things.add(Noun.SYSTEM, "Varrow 12", {}))


def card(after=0, score=3.5, **more):
    return {
        "after": after,
        "scale": "stars",
        "words": [{"at": 3, "word": "does its work"}],
        "criteria": [{"name": "First hour", "score": score}],
        **more,
    }


def works(subject="sound", seen="works", **more):
    return {"id": str(uuid4()), "subject": subject, "works": seen, **more}


def test_each_change_is_a_version_and_says_what_changed(client, system):
    assert client.get(f"{AT}/{system}").json()["headline"] == "Varrow 12 has no scorecard yet"
    assert client.put(f"{AT}/{system}", json=card()).json() == {"version": 1}
    assert client.put(f"{AT}/{system}", json=card(after=1)).json() == {"version": 1}
    assert client.put(f"{AT}/{system}", json=card(after=1, score=4)).json() == {"version": 2}
    page = client.get(f"{AT}/{system}").json()
    assert page["headline"] == "Varrow 12: 4 of 5 stars, does its work"
    assert [one["changes"] for one in page["versions"]] == [
        ["First hour: 4 of 5 stars, was 3½ of 5 stars"],
        [],
    ]
    assert client.get(f"{AT}/{system}", params={"version": 1}).json()["overall"] == "3½ of 5 stars"
    assert client.get(f"{AT}/{system}", params={"version": 9}).status_code == 404


def test_a_card_that_was_changed_meanwhile_is_not_written_over(client, system):
    client.put(f"{AT}/{system}", json=card())
    late = client.put(f"{AT}/{system}", json=card(after=0, score=1))
    assert late.status_code == 409 and "changed meanwhile" in late.json()["detail"]


def test_a_point_rests_on_an_incident_until_that_is_taken_out(client, system):
    incident = {"id": str(uuid4()), "system": system, "kind": "crash", "what": "the panel"}
    client.post("/api/incidents", json={**incident, "at": "2026-09-01T10:00:00Z"})
    (tie,) = client.get(f"{AT}/{system}/ties").json()
    assert (tie["says"], tie["path"]) == ("crash: the panel", "/standings/incidents")
    point = {"is_good": False, "says": "Crashes", "tie": tie["tie"]}
    assert client.put(f"{AT}/{system}", json=card(points=[point])).status_code == 200
    assert client.get(f"{AT}/{system}").json()["ties"] == [tie]
    client.patch(f"/api/incidents/{incident['id']}", json={"is_put_away": True})
    assert client.get(f"{AT}/{system}").json()["ties"] == [None]
    kept = client.put(f"{AT}/{system}", json=card(after=1, score=2, points=[point]))
    assert kept.status_code == 200
    stray = {**point, "tie": {"kind": "photograph", "key": "none"}}
    refused = client.put(f"{AT}/{system}", json=card(after=2, points=[stray]))
    assert refused.status_code == 422 and "that is gone" in refused.json()["detail"]


def test_points_of_a_measured_system_rest_on_its_findings_and_readings(world, client, bench):
    (system,) = [x for x in bench.things.all(Noun.SYSTEM) if x.name == "Varrow 12 Tarnwick"]
    kinds = {one["tie"]["kind"] for one in client.get(f"{AT}/{system.id}/ties").json()}
    assert kinds >= {"finding", "reading", "incident"}


def test_the_newest_word_holds_and_the_one_before_it_comes_back(client, system):
    client.post(f"{AT}/{system}/works", json=works(seen="fails"))
    later = works(seen="works after a step", step="unmute it")
    client.post(f"{AT}/{system}/works", json=later)
    assert client.post(f"{AT}/{system}/works", json=later).status_code == 204
    page = client.get(f"{AT}/{system}").json()
    assert [one["says"] for one in page["works"]] == ["works after a step: unmute it"]
    assert "sound" not in page["untried"] and "wireless" in page["untried"]
    client.patch(f"{AT}/works/{later['id']}", json={"is_put_away": True})
    page = client.get(f"{AT}/{system}").json()
    assert [one["says"] for one in page["works"]] == ["fails"]
    assert "It fails at: sound." in page["sentence"]
    (line,) = client.get(AT).json()["lines"]
    assert (line["tried"], line["works"], line["version"]) == (1, 0, None)


@pytest.mark.parametrize(
    ("wrong", "status"),
    [
        (card(score=9), 422),
        (card(score=3.3), 422),
        (card(criteria=[]), 422),
        ({**card(), "scale": "hearts"}, 422),
        (card(criteria=[{"name": "x" * 300}]), 422),
    ],
)
def test_a_card_that_is_none_is_refused(client, system, wrong, status):
    assert client.put(f"{AT}/{system}", json=wrong).status_code == status
    assert client.get(f"{AT}/{system}").json()["version"] == 0


@pytest.mark.parametrize(
    "wrong",
    [
        works(seen="works sometimes"),
        works(seen="works sometimes", worked=5, tried=2),
        works(seen="works after a step"),
        works(seen="perhaps"),
        works(subject=""),
    ],
)
def test_a_line_that_is_none_is_refused(client, system, wrong):
    assert client.post(f"{AT}/{system}/works", json=wrong).status_code == 422
    assert client.get(f"{AT}/{system}").json()["works"] == []


def test_what_is_not_there_is_not_found(client, system):
    assert client.get(f"{AT}/{uuid4()}").status_code == 404
    assert client.put(f"{AT}/{uuid4()}", json=card()).status_code == 404
    assert client.post(f"{AT}/{uuid4()}/works", json=works()).status_code == 404
    assert client.post(f"{AT}/{system}/works", json=works(machine=str(uuid4()))).status_code == 404
    assert client.patch(f"{AT}/works/{uuid4()}", json={"is_put_away": True}).status_code == 404
    assert client.get(f"{AT}/files/ledger.exe").status_code == 404


def test_files_to_try_are_handed_out(client):
    found = client.get(f"{AT}/files/fields.png")
    assert found.headers["content-type"] == "image/png" and found.content[:4] == b"\x89PNG"
