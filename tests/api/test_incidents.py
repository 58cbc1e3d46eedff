"""Incidents over HTTP: noted once, counted over hours, taken out and back."""

from uuid import uuid4

import pytest

NOTED = "/api/incidents"


@pytest.fixture
def system(client, study):
    return next(
        one["id"] for one in client.get("/api/systems").json() if one["name"] == "Varrow 12"
    )


def incident(system, **more):
    body = {"id": str(uuid4()), "system": system, "kind": "crash", "at": "2026-03-01T10:00:00Z"}
    return {**body, "what": "the panel", **more}


def hours(system, amount, **more):
    return {"id": str(uuid4()), "system": system, "hours": amount, **more}


def line(client):
    return client.get(NOTED).json()["lines"][0]


def test_incidents_are_counted_over_hours_in_use(client, system):
    for _ in range(3):
        assert client.post(NOTED, json=incident(system)).status_code == 204
    assert line(client)["rate"] is None
    assert "No hours in use are noted for Varrow 12" in client.get(NOTED).json()["sentence"]
    assert client.post(f"{NOTED}/hours", json=hours(system, 150)).status_code == 204
    found = line(client)
    assert found["rate"]["rate"] == pytest.approx(2.0)
    assert [one["what"] for one in found["incidents"]] == ["the panel"] * 3


def test_the_same_sent_twice_is_one(client, system):
    once = incident(system)
    for _ in range(2):
        assert client.post(NOTED, json=once).status_code == 204
    assert len(line(client)["incidents"]) == 1


def test_what_was_noted_by_mistake_is_taken_out_and_brought_back(client, system, bench):
    made = incident(system)
    client.post(NOTED, json=made)
    client.post(f"{NOTED}/hours", json=hours(system, 10))
    address = f"{NOTED}/{made['id']}"
    client.patch(address, json={"is_put_away": True})
    assert line(client)["incidents"] == []
    client.patch(address, json={"is_put_away": False})
    assert len(line(client)["incidents"]) == 1
    acts = [one.what for one in bench.access.acts(None, 10)]
    assert acts[:2] == ["noted.back", "noted.put_away"]


@pytest.mark.parametrize(
    ("path", "change", "status"),
    [
        ("", {"kind": "sneeze"}, 422),
        ("", {"at": "2026-03-01T10:00:00"}, 422),
        ("", {"what": "x" * 501}, 422),
        ("", {"system": str(uuid4())}, 404),
        ("", {"machine": str(uuid4())}, 404),
        ("/hours", {"hours": 0}, 422),
        ("/hours", {"hours": -3}, 422),
        ("/hours", {"hours": 1e9}, 422),
    ],
)
def test_what_cannot_be_is_refused(client, system, path, change, status):
    body = hours(system, 5) if path else incident(system)
    assert client.post(NOTED + path, json={**body, **change}).status_code == status
    assert client.get(NOTED).json()["lines"] == []


def test_what_is_not_there_cannot_be_taken_out(client, system):
    assert client.patch(f"{NOTED}/{uuid4()}", json={"is_put_away": True}).status_code == 404
