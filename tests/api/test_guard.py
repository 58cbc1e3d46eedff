from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from haremile.api.application import create_app
from haremile.api.guard import Access
from haremile.cli.serve import checked_access
from haremile.core.study import Install, Machine, System
from haremile.errors import BadInputError


@pytest.mark.parametrize("host", ["evil.example", "10.0.0.1", "127.0.0.1.evil.example", ""])
def test_requests_for_another_host_are_refused(client, host):
    assert client.get("/api/studies", headers={"Host": host}).status_code == 421


@pytest.mark.parametrize("host", ["127.0.0.1:1", "localhost:8642", "[::1]:8642"])
def test_loopback_names_are_answered(client, host):
    assert client.get("/api/studies", headers={"Host": host}).status_code == 200


def test_another_sites_page_may_not_ask(client):
    headers = {"Origin": "http://evil.example"}
    assert client.get("/api/studies", headers=headers).status_code == 403
    own = {"Origin": "http://127.0.0.1:8642"}
    assert client.get("/api/studies", headers=own).status_code == 200


KEY = "a key of twenty letters"


@pytest.fixture
def keyed(bench, throwaway_url):
    access = Access(frozenset({"bench.lan"}), any_address=True, key=KEY)
    app = create_app(bench, throwaway_url, None, access)
    with TestClient(app, base_url="http://10.0.0.7:8642", follow_redirects=False) as made:
        yield made


def test_off_loopback_everyone_shows_the_key(keyed):
    refused = keyed.get("/api/studies")
    assert refused.status_code == 401
    assert "?key=" in refused.json()["detail"]
    assert keyed.get("/api/studies?key=guessed").status_code == 401
    shown = {"Authorization": f"Bearer {KEY}"}
    assert keyed.get("/api/studies", headers=shown).status_code == 200
    assert keyed.get("/api/studies", headers={**shown, "Host": "bench.lan"}).status_code == 200
    assert keyed.get("/api/studies", headers={**shown, "Host": "evil.lan"}).status_code == 421


def test_a_page_opened_with_the_key_keeps_it_as_a_cookie(keyed):
    answer = keyed.get("/api/studies", params={"key": KEY, "other": "1"})
    assert (answer.status_code, answer.headers["location"]) == (303, "/api/studies?other=1")
    assert "HttpOnly" in answer.headers["set-cookie"]
    assert "SameSite=strict" in answer.headers["set-cookie"]
    assert keyed.get("/api/studies").status_code == 200


def test_machines_show_keys_of_their_own(keyed, bench):
    assert keyed.get("/haremile-probe.pyz").status_code == 200
    body = {"identity": str(uuid4()), "system": "Varrow 12"}
    refused = keyed.post("/api/rigs/enrol", json=body, headers={"Authorization": f"Bearer {KEY}"})
    assert refused.status_code == 401
    bench.library.ensure(Install(System("Varrow 12"), Machine("Laptop")))
    shown = {"Authorization": f"Bearer {bench.machines.new_key('Laptop')}"}
    taken = keyed.post("/api/rigs/enrol", json=body, headers=shown)
    assert taken.json() == {"machine": "Laptop", "system": "Varrow 12"}
    assert keyed.get("/api/studies", headers=shown).status_code == 401


@pytest.mark.parametrize(
    ("listen", "key", "says"),
    [
        ("0.0.0.0", None, "show a key"),
        ("10.0.0.7", "short", "show a key"),
        ("bench", None, "numeric"),
    ],
)
def test_the_server_refuses_to_start_off_loopback_without_a_key(listen, key, says):
    with pytest.raises(BadInputError, match=says):
        checked_access(listen, key, [])


def test_on_loopback_no_key_is_needed():
    assert checked_access("127.0.0.1", None, ["bench"]).key is None
    assert checked_access("::1", None, []).key is None
