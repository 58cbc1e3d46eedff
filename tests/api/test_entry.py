"""Coming in by a token or a key, sessions, devices, and the trail of what was done."""

import re
from datetime import UTC, datetime, timedelta
from uuid import uuid4

import pytest

from haremile.api.brake import FREE
from haremile.store.access import PostgresAccess
from haremile.store.rows import SessionRow, database
from haremile.usecases.access import IDLE_LIFE, OWNER, Role
from helpers import entry_path


def entered(client, path):
    """The headers of a page that came in, and the answer."""
    answer = client.get(path)
    page = re.fullmatch(r"/#page=([0-9a-f]{48})", answer.headers.get("location", ""))
    return ({"Haremile-Page": page[1]} if page else {}), answer


def test_a_token_becomes_one_session_of_two_secrets(stranger, bench):
    path = entry_path(bench)
    headers, answer = entered(stranger, path)
    assert answer.status_code == 303
    cookie = answer.headers["set-cookie"]
    assert "HttpOnly" in cookie
    assert "SameSite=strict" in cookie
    assert "Max-Age=" in cookie
    assert answer.headers["cache-control"] == "no-store"
    me = stranger.get("/api/session", headers=headers)
    assert me.json()["name"] == OWNER
    assert stranger.get("/api/session").status_code == 401, "the cookie alone is any port's"
    wrong = {"Haremile-Page": "0" * 48}
    assert stranger.get("/api/session", headers=wrong).status_code == 401
    again = stranger.get(path)
    assert again.status_code == 401
    assert "used already" in again.text


def test_looking_at_an_address_does_not_use_it_up(stranger, bench):
    path = entry_path(bench)
    assert stranger.head(path).status_code == 200
    assert stranger.get(path, headers={"Sec-Purpose": "prefetch"}).status_code == 200
    assert stranger.get(path).status_code == 303


def test_only_digests_are_kept(stranger, bench, throwaway_url):
    headers, answer = entered(stranger, entry_path(bench))
    cookie = answer.headers["set-cookie"].partition("=")[2].partition(";")[0]
    kept = [row.digest for row in _rows()] + [row.page_digest for row in _rows()]
    assert not {cookie, headers["Haremile-Page"]} & set(kept)
    assert len(kept) == 2


def _rows():
    with database.connection_context():
        return list(SessionRow.select())


def test_a_key_typed_in_signs_a_browser_in(stranger, bench):
    key = bench.access.add_person("Ida", Role.WORK)
    assert stranger.get("/enter").status_code == 200
    answer = stranger.post("/enter", data={"key": key})
    assert answer.status_code == 303
    wrong = stranger.post("/enter", data={"key": "x" * 48})
    assert (wrong.status_code, "opens nothing" in wrong.text) == (401, True)
    foreign = {"Origin": "http://evil.example"}
    assert stranger.post("/enter", data={"key": key}, headers=foreign).status_code == 403


def test_sessions_are_listed_ended_and_expire(stranger, client, bench):
    headers, _ = entered(stranger, entry_path(bench))
    (listed,) = client.get("/api/people/sessions").json()
    assert (listed["person"], listed["is_this"]) == (OWNER, False)
    assert client.delete(f"/api/people/sessions/{listed['id']}").status_code == 204
    assert stranger.get("/api/session", headers=headers).status_code == 401
    assert client.delete(f"/api/people/sessions/{uuid4()}").status_code == 404
    headers, _ = entered(stranger, entry_path(bench))
    assert stranger.delete("/api/session", headers=headers).status_code == 204
    assert stranger.get("/api/session", headers=headers).status_code == 401


def test_a_session_that_nobody_uses_ends(bench):
    now = [datetime(2026, 10, 5, 8, 0, tzinfo=UTC)]
    book = PostgresAccess(lambda: now[0])
    book.ensure_person(OWNER, Role.OWN)
    made = book.enter(book.new_entry(OWNER), "a browser")
    assert book.of_session(made.cookie, made.page).role is Role.OWN
    now[0] += IDLE_LIFE - timedelta(hours=1)
    assert book.of_session(made.cookie, made.page) is not None
    now[0] += IDLE_LIFE - timedelta(hours=1)
    assert book.of_session(made.cookie, made.page) is not None, "it was used meanwhile"
    now[0] += IDLE_LIFE + timedelta(hours=1)
    assert book.of_session(made.cookie, made.page) is None
    late = book.new_entry(OWNER)
    now[0] += timedelta(days=1)
    assert book.enter(late, "a browser") is None


def test_revoking_a_person_ends_keys_tokens_and_sessions(stranger, client, bench):
    made = client.post("/api/people", json={"name": "Ida B.", "role": "work"}).json()
    headers = {"Authorization": f"Bearer {made['key']}"}
    token = bench.access.new_entry("Ida B.")
    assert stranger.get("/api/studies", headers=headers).status_code == 200
    assert client.delete("/api/people/Ida%20B./keys").status_code == 204
    assert stranger.get("/api/studies", headers=headers).status_code == 401
    assert bench.access.enter(token, "a browser") is None
    people = {one["name"]: one["keys"] for one in client.get("/api/people").json()}
    assert people["Ida B."] == 0


def test_a_paired_device_does_what_belongs_to_a_run_and_no_more(stranger, client, bench, study):
    bench.access.ensure_person("Ida", Role.OWN)
    code = client.post("/api/people/devices").json()["code"]
    answer = stranger.post("/enter", data={"key": code})
    headers = {"Haremile-Page": answer.headers["location"].partition("=")[2]}
    note = f"/api/studies/{study.id}/disturbances"
    assert stranger.post(note, json={"text": "a lorry"}, headers=headers).status_code == 201
    refused = stranger.post(f"/api/studies/{study.id}/extend", json={"blocks": 1}, headers=headers)
    assert refused.status_code == 403
    assert stranger.get("/api/people", headers=headers).status_code == 403
    assert stranger.post("/enter", data={"key": code}).status_code == 401, "a code is of one device"


def test_a_typing_error_costs_nothing_and_a_search_makes_every_code_worthless(
    stranger, client, bench
):
    bench.access.ensure_person("Ida", Role.OWN)
    code = client.post("/api/people/devices").json()["code"]
    assert stranger.post("/enter", data={"key": "mistyped"}).status_code == 401
    assert stranger.post("/enter", data={"key": code}).status_code == 303
    code = client.post("/api/people/devices").json()["code"]
    for guess in range(FREE):
        stranger.post("/enter", data={"key": f"guess {guess}"})
    assert stranger.post("/enter", data={"key": code}).status_code == 429
    assert bench.access.enter(code, "a phone") is None


def test_who_did_what_stands_in_the_trail_with_what_was_before(client, study):
    rows = client.get(f"/api/studies/{study.id}/readings", params={"metric": "boot.total"}).json()
    for reason in ("a lorry", "a lorry passed", None):
        client.patch(f"/api/readings/{rows[0]['id']}", json={"set_aside": reason})
    client.put(f"/api/studies/{study.id}/overrides/kernel", json={"reason": "same series"})
    acts = client.get("/api/audit").json()
    assert {act["who"] for act in acts} == {"Ida"}
    assert [(act["what"], act["facts"].get("was")) for act in acts[:4]] == [
        ("study.overridden", None),
        ("reading.taken_back", "a lorry passed"),
        ("reading.set_aside", "a lorry"),
        ("reading.set_aside", None),
    ]
    assert acts[0]["study_id"] == str(study.id)
    older = client.get("/api/audit", params={"before": acts[1]["id"]}).json()
    assert older[0]["id"] < acts[1]["id"]


@pytest.mark.parametrize("role", ["", "king"])
def test_a_role_that_is_none_is_refused(client, role):
    assert client.post("/api/people", json={"name": "Ida", "role": role}).status_code == 422
