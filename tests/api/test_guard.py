"""What is asked of every request before anything of it is read."""

import json
from pathlib import Path
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from haremile.api.application import create_app
from haremile.api.brake import FREE, Brake
from haremile.api.guard import Access
from haremile.cli.serve import listening
from haremile.config import settings_from
from haremile.errors import BadInputError
from haremile.usecases.access import Role

OPEN = ("/healthz", "/haremile-probe.pyz", "/haremile-gather.sh")


@pytest.mark.parametrize("host", ["evil.example", "10.0.0.1", "127.0.0.1.evil.example", ""])
def test_requests_for_another_host_are_refused(client, host):
    assert client.get("/api/studies", headers={"Host": host}).status_code == 421


@pytest.mark.parametrize("host", ["127.0.0.1:1", "localhost:8642", "LOCALHOST", "[::1]:8642"])
def test_loopback_names_are_answered(client, host):
    assert client.get("/api/studies", headers={"Host": host}).status_code == 200


def test_another_sites_page_may_not_ask(client):
    headers = {"Origin": "http://evil.example"}
    assert client.get("/api/studies", headers=headers).status_code == 403
    own = {"Origin": "http://127.0.0.1:8642"}
    assert client.get("/api/studies", headers=own).status_code == 200


@pytest.mark.parametrize(
    ("site", "status"),
    [("same-origin", 200), ("none", 200), ("same-site", 403), ("cross-site", 403)],
)
def test_what_another_port_of_this_host_fetches_is_refused(client, site, status):
    found = client.get("/api/studies", headers={"Sec-Fetch-Site": site})
    assert found.status_code == status


def test_nothing_but_a_sign_of_life_and_the_probe_is_open_to_everyone(stranger):
    for path in OPEN:
        assert stranger.get(path).status_code == 200, path
    assert stranger.get("/healthz").text == "ok\n"
    for path in ("/api/studies", "/api/openapi.json", "/metrics", "/", "/assets/x.js", "/api/none"):
        assert stranger.get(path).status_code == 401, path
    posted = stranger.post("/api/studies/first-mile", json={})
    assert (posted.status_code, posted.headers["www-authenticate"]) == (401, "Bearer")


def test_a_browser_that_is_not_signed_in_is_told_how_to_come_in(stranger):
    page = stranger.get("/studies", headers={"Accept": "text/html"})
    assert page.status_code == 401
    assert "haremile key link" in page.text
    nonce = page.text.partition('nonce="')[2].partition('"')[0]
    assert f"'nonce-{nonce}'" in page.headers["content-security-policy"]


def test_every_answer_says_what_the_browser_may_do_with_it(client, stranger):
    for found in (client.get("/api/studies"), stranger.get("/healthz"), stranger.get("/api/x")):
        rules = found.headers["content-security-policy"]
        assert "script-src 'self';" in rules
        assert "frame-ancestors 'none'" in rules
        assert "unsafe" not in rules
        assert found.headers["x-content-type-options"] == "nosniff"
        assert found.headers["referrer-policy"] == "same-origin"
        assert "camera=()" in found.headers["permissions-policy"]


def test_head_answers_as_get_without_the_body(client, study):
    path = f"/api/studies/{study.id}/findings"
    head, get = client.head(path), client.get(path)
    assert (head.status_code, head.content) == (200, b"")
    assert head.headers["content-type"] == get.headers["content-type"]
    assert client.head("/api/events").status_code == 200, "and is not kept waiting by a stream"
    assert client.head(f"/api/studies/{uuid4()}").status_code == 404


@pytest.mark.parametrize(
    "body",
    [
        '{"title": "a", "title": "b"}',
        "[" * 30_000,
        '{"a":' * 21 + "1" + "}" * 21,
        '{"title": "a\\u0000b"}',
        '{"title": "a\\u202eb"}',
        '{"blocks": NaN}',
        "{",
        '"\\ud800"',
    ],
)
def test_json_that_says_two_things_or_hides_some_is_refused(client, body):
    headers = {"Content-Type": "application/json"}
    found = client.post("/api/studies/first-mile", content=body, headers=headers)
    assert found.status_code == 422
    assert found.headers["content-type"] == "application/problem+json"


def test_a_body_is_refused_by_its_stated_length_before_it_is_read(client, stranger, study):
    large = {"Content-Type": "application/json", "Content-Length": str(64 * 2**10 + 1)}
    assert client.post("/api/studies", content=b"x", headers=large).status_code == 413
    nested = b"[" * (60 * 2**10)
    found = stranger.post("/api/studies", content=nested, headers={**large, "Content-Length": "9"})
    assert found.status_code == 401, "the key comes before the body"
    piece = {"Transfer-Encoding": "chunked", "Content-Type": "application/json"}
    assert client.post("/api/studies", content=iter([b"{}"]), headers=piece).status_code == 411


@pytest.mark.parametrize("path", ["/api/machines/a%00b/keys", "/api/studies/%E2%80%AEx/runs"])
def test_addresses_with_what_cannot_be_seen_are_refused(client, path):
    assert client.get(path).status_code == 422
    assert client.get("/api/studies", params={"q": "a\x00"}).status_code == 422
    assert client.get("/api/studies", params={"q": "a" * 5000}).status_code == 414


def test_a_role_bounds_what_somebody_may_do(client, bench, study):
    def asked(role):
        key = bench.access.add_person(f"Someone who may {role}", role)
        return {"Authorization": f"Bearer {key}"}

    look, work = asked(Role.LOOK), asked(Role.WORK)
    note = f"/api/studies/{study.id}/disturbances"
    assert client.get("/api/studies", headers=look).status_code == 200
    assert client.post(note, json={"text": "a lorry"}, headers=look).status_code == 403
    assert client.post(note, json={"text": "a lorry"}, headers=work).status_code == 201
    for method, path in (
        ("GET", "/api/people"),
        ("POST", "/api/machines/Laptop/keys"),
        ("POST", "/api/people/devices"),
        ("GET", "/api/people/sessions"),
    ):
        refused = client.request(method, path, headers=work)
        assert (refused.status_code, refused.json()["title"]) == (403, "Not allowed"), path


def test_wrong_keys_are_braked_and_the_right_one_never(stranger, bench):
    key = bench.access.add_person("Ida", Role.LOOK)
    found = [
        stranger.get("/api/studies", headers={"Authorization": f"Bearer guess {n}"})
        for n in range(FREE + 2)
    ]
    assert [one.status_code for one in found[: FREE - 1]] == [401] * (FREE - 1)
    assert found[-1].status_code == 429
    assert int(found[-1].headers["retry-after"]) >= 1
    right = stranger.get("/api/studies", headers={"Authorization": f"Bearer {key}"})
    assert right.status_code == 200


def test_the_brake_is_of_one_place_and_grows_and_is_forgotten():
    now = [0.0]
    brake = Brake(lambda: now[0])
    for _ in range(FREE):
        brake.wrong("10.0.0.7")
    first = brake.wait_s("10.0.0.7")
    brake.wrong("10.0.0.7")
    assert brake.wait_s("10.0.0.7") > first > 0
    assert brake.wait_s("10.0.0.8") == 0
    now[0] += 3600
    assert brake.wait_s("10.0.0.7") == 0
    for address in ("2001:db8::1", "2001:db8::2"):
        for _ in range(FREE):
            brake.wrong(address)
    assert brake.wait_s("2001:db8::3") > first, "one network is one place"


@pytest.fixture
def elsewhere(bench, throwaway_url):
    """Asks from another computer of the network; gives a client by scheme."""
    app = create_app(bench, throwaway_url, None, Access(frozenset({"bench.lan"}), True))

    def ask(scheme, key):
        return TestClient(
            app,
            base_url=f"{scheme}://10.0.0.7:8642",
            client=("10.0.0.9", 5000),
            headers={"Authorization": f"Bearer {key}"},
            follow_redirects=False,
        )

    return ask


def test_without_encryption_the_network_only_looks(bench, elsewhere, study):
    key = bench.access.add_person("Ida", Role.OWN)
    note = f"/api/studies/{study.id}/disturbances"
    plain, secured = elsewhere("http", key), elsewhere("https", key)
    assert plain.get("/api/studies").status_code == 200
    assert plain.get("/api/session").json()["is_overheard"]
    refused = plain.post(note, json={"text": "a lorry"})
    assert refused.status_code == 403
    assert "https" in refused.json()["detail"]
    assert plain.get("/api/people").status_code == 403
    assert secured.post(note, json={"text": "a lorry"}).status_code == 201
    assert not secured.get("/api/session").json()["is_overheard"]


def test_a_server_on_all_addresses_answers_for_each_number_and_its_names(bench, elsewhere):
    client = elsewhere("https", bench.access.add_person("Ida", Role.OWN))
    for host, status in (("10.0.0.7", 200), ("BENCH.lan", 200), ("evil.lan", 421)):
        assert client.get("/api/studies", headers={"Host": host}).status_code == status


@pytest.fixture
def settings(tmp_path):
    return settings_from({"HAREMILE_DATA": str(tmp_path)})


@pytest.mark.parametrize(
    ("words", "says"),
    [
        ({"listen": "bench"}, "numeric"),
        ({"listen": "10.0.0.7", "stated": (Path("a.pem"), None)}, "go together"),
        ({"listen": "10.0.0.7", "stated": (Path(__file__), Path(__file__))}, "cannot be used"),
    ],
)
def test_where_to_listen_is_checked(settings, words, says):
    with pytest.raises(BadInputError, match=says):
        listening(settings, names=[], **words)


def test_off_loopback_a_certificate_is_made_once_and_for_the_names(settings):
    assert listening(settings, "127.0.0.1", []).scheme == "http"
    assert listening(settings, "10.0.0.7", [], plain=True).scheme == "http"
    first = listening(settings, "10.0.0.7", ["bench.lan"])
    assert first.scheme == "https"
    assert first.certificate.key.stat().st_mode & 0o777 == 0o600
    assert listening(settings, "10.0.0.7", ["bench.lan"]).certificate == first.certificate
    other = listening(settings, "10.0.0.8", [])
    assert other.certificate.pin != first.certificate.pin
    given = (other.certificate.certificate, other.certificate.key)
    assert listening(settings, "0.0.0.0", [], given).certificate.pin == other.certificate.pin
    with pytest.raises(BadInputError, match="--plain"):
        listening(settings, "0.0.0.0", [], given, plain=True)


def test_what_the_interface_says_of_itself_takes_a_key_and_names_its_schemes(client):
    told = client.get("/api/openapi.json").json()
    assert set(told["components"]["securitySchemes"]) == {"key", "session", "page", "machine"}
    for path, operations in told["paths"].items():
        for operation in operations.values():
            assert {"401", "403", "422", "500"} <= set(operation["responses"]), path
    assert json.dumps(told).count("HTTPValidationError") == 0
