"""Whatever arrives is answered by a problem that says what is wrong, and leaves nothing behind."""

import json
from uuid import uuid4

import pytest

from haremile.errors import BadInputError, ConflictError
from haremile.store.database import answering_in_words, rows_of
from haremile.store.rows import database

HEAD = "system,machine,metric,value,unit"
GOOD = "".join(f"{s},L,boot.total,{n}.5,s\n" for s in "VQ" for n in range(10, 16))


def brought(client, body, title="Which?", **asked):
    files = {"files": ("r.csv", body)}
    return client.post("/api/studies/import", data={"title": title}, files=files, **asked)


def studies(client):
    return client.get("/api/studies").json()


@pytest.mark.parametrize(
    ("column", "cell"),
    [
        ("at", "0001-01-01T00:00:00+14:00"),
        ("at", "9999-12-31T23:00:00-14:00"),
        ("block", "99999999999"),
        ("block", "9" * 5000),
        ("reason", "a\x00b"),
        ("resolution", "-1"),
        ("set_aside", "\u202e"),
    ],
)
def test_one_row_cannot_poison_a_study(client, column, cell):
    row = f"V,L,boot.total,1,s,{cell}\nQ,L,boot.total,1,s,\n"
    answer = brought(client, f"{HEAD},{column}\n{row}")
    assert answer.status_code == 422
    assert answer.headers["content-type"] == "application/problem+json"
    assert studies(client) == []


@pytest.mark.parametrize("value", ["1e308,min", "1e61,s", "-1,s", "1e-320,s"])
def test_a_value_that_no_page_can_show_is_not_taken(client, value):
    assert brought(client, f"{HEAD}\nV,L,boot.total,{value}\n{GOOD}").status_code == 422
    assert studies(client) == []


def test_a_failed_import_leaves_nothing(client):
    two = f"{HEAD},run,step\n" + "".join(
        f"{s},L,boot.total,{n},s,1,7\n" for s in "VQ" for n in "12"
    )
    answer = brought(client, two)
    assert answer.status_code == 422
    assert "twice under one step" in answer.json()["detail"]
    many = "".join(f"System {n},L,boot.total,1,s\n" for n in range(61))
    assert "at most 60" in brought(client, f"{HEAD}\n{many}").json()["detail"]
    assert studies(client) == []


def test_rows_that_are_alike_are_asked_about(client):
    made = brought(client, f"{HEAD}\n{GOOD}V,L,boot.total,10.5,s\n").json()
    (note,) = made["notes"]
    assert "1 row says the same as another" in note
    assert "lines 2 and 14" in note
    twice = f"{HEAD},run\n" + "V,L,boot.total,1,s,7\n" * 2
    assert "the same as line 2" in brought(client, twice).json()["detail"]


def test_how_far_a_file_is_can_be_asked(client):
    name = str(uuid4())
    assert client.get(f"/api/intakes/{name}").json() is None
    body = f"{HEAD},run,block\n" + "".join(
        f"{s},L,boot.total,{10 + n % 7},s,{n},{n + 1}\n" for s in "VQ" for n in range(3000)
    )
    assert brought(client, body, params={"progress": name}).status_code == 201
    assert client.get(f"/api/intakes/{name}").json() == {"what": "kept", "done": 5000, "of": 6000}


@pytest.mark.parametrize("title", ["a\x00b", "a\u202eb", "x" * 201, " "])
def test_a_title_that_cannot_be_read_is_refused(client, title):
    assert brought(client, f"{HEAD}\n{GOOD}", title).status_code == 422


def test_the_same_install_twice_is_a_conflict_not_a_fault(client, bench):
    made = brought(client, f"{HEAD}\n{GOOD}").json()["study"]
    install = made["contenders"][0]["install"]["id"]
    asked = {"title": "Q", "installs": [install, install], "blocks": 1, "seed": 1}
    answer = client.post("/api/studies", json=asked)
    assert answer.status_code in (409, 422)
    assert answer.headers["content-type"] == "application/problem+json"
    assert len(studies(client)) == 1


def test_a_capture_with_a_ticket_that_is_none_is_refused(client, study):
    document = {
        "format": "haremile-capture/1",
        "id": str(uuid4()),
        "made_at": "2026-10-05T08:00:00Z",
        "probe": "0",
        "asked": "boot",
        "machine": "Laptop",
        "system": "Varrow 12",
        "outcome": "done",
        "ticket": {"run": "x", "attempt": 1},
        "conditions": {},
        "readings": [],
        "traces": [],
        "evidence": [],
        "faults": [],
    }
    twice = json.dumps(document).replace('"probe": "0"', '"probe": "0", "probe": "1"')
    for body in (json.dumps(document), twice, "[" * 100_000, '{"format":' * 50_000):
        files = [("files", ("c.json", body.encode(), "application/json"))]
        answer = client.post(f"/api/studies/{study.id}/intake", files=files)
        assert answer.status_code == 422, body[:40]


def test_what_the_database_refuses_is_said_in_words(bench):
    with database.connection_context():
        with pytest.raises(BadInputError, match="cannot be kept"), answering_in_words():
            rows_of("select %s::int", 2**40)
        with pytest.raises(BadInputError, match="cannot be kept"), answering_in_words():
            rows_of("select %s", "a\x00b")
        with pytest.raises(ConflictError, match="there already"), answering_in_words():
            for _ in range(2):
                rows_of(
                    "insert into host (id, name, capacity) values "
                    "(gen_random_uuid(), 'H', 1) returning id"
                )


def test_a_fault_of_our_own_is_a_problem_too_and_tells_nothing(client, monkeypatch, bench):
    def broken(*words):
        raise RuntimeError("a secret of the server's")

    monkeypatch.setattr(type(bench.library), "installs", broken)
    client._transport.raise_server_exceptions = False
    answer = client.get("/api/installs")
    assert answer.status_code == 500
    assert answer.headers["content-type"] == "application/problem+json"
    assert "secret" not in answer.text
    assert "content-security-policy" in answer.headers


def test_a_method_that_an_address_does_not_know_is_said(client, study):
    for method, path in (("PUT", "/api/studies"), ("DELETE", f"/api/studies/{study.id}")):
        answer = client.request(method, path)
        assert answer.status_code == 405
        assert "allow" in answer.headers
    assert client.get("/api/rigs/step").status_code == 405
