"""Messages between machine and server: neither altered, nor forged, nor used again."""

import pytest
from fastapi.testclient import TestClient
from starlette.datastructures import Headers

from haremile.api.application import create_app
from haremile.api.recognition import NONCE_LIFE_S, MachineMessages
from haremile.core.records.study import Install, Machine, System
from haremile_probe.signing import (
    DIGEST,
    MAC,
    MACHINE,
    NEXT,
    NONCE,
    OWN,
    answer_mac,
    digest_of,
    name_of,
    own_number,
    request_mac,
    secret_of,
)

PATH = "/api/rigs/enrol"
BODY = b'{"identity": "0190a5f0-0000-7000-8000-000000000001", "system": "Varrow 12"}'


@pytest.fixture
def secret(bench):
    bench.library.ensure(Install(System("Varrow 12"), Machine("Laptop")))
    return secret_of(bench.machines.new_key("Laptop"))


@pytest.fixture
def server(bench, throwaway_url):
    app = create_app(bench, throwaway_url, None)
    with TestClient(app, base_url="http://127.0.0.1:8642") as made:
        yield made


def sent(server, secret, nonce, body=BODY, path=PATH, **change):
    own = own_number()
    headers = {
        MACHINE: name_of(secret),
        NONCE: nonce,
        OWN: own,
        DIGEST: digest_of(body),
        MAC: request_mac(secret, path, nonce, own, digest_of(body)),
        "Content-Type": "application/json",
    }
    return server.post(path, content=change.pop("sends", body), headers={**headers, **change}), own


def fresh(server, secret):
    challenged, _ = sent(server, secret, "none yet")
    assert challenged.status_code == 401
    return challenged.headers[NEXT]


def test_a_signed_request_is_taken_once_and_its_answer_is_signed(server, secret):
    nonce = fresh(server, secret)
    taken, own = sent(server, secret, nonce)
    assert taken.json() == {"machine": "Laptop", "system": "Varrow 12"}
    follows = taken.headers[NEXT]
    expected = answer_mac(secret, 200, nonce, own, follows, taken.content)
    assert taken.headers[MAC] == expected
    replayed, _ = sent(server, secret, nonce)
    assert replayed.status_code == 401
    assert MAC not in replayed.headers, "nothing is signed for who proved nothing"
    assert sent(server, secret, follows)[0].status_code == 200


def test_nobody_alters_a_request_or_asks_by_guesses(server, secret):
    nonce = fresh(server, secret)
    altered = BODY.replace(b"12", b"13")
    for change in (
        {OWN: own_number()},
        {DIGEST: digest_of(altered)},
        {MAC: "0" * 64},
        {NONCE: nonce[::-1]},
        {MACHINE: "0" * 16},
    ):
        refused, _ = sent(server, secret, nonce, **change)
        assert refused.status_code == 401, change
    forged, _ = sent(server, secret_of("guessed"), nonce)
    assert forged.status_code == 401
    altered_body, _ = sent(server, secret, nonce, sends=altered)
    assert altered_body.status_code == 401
    assert MAC not in altered_body.headers


def test_a_signature_is_of_one_address(server, secret):
    nonce = fresh(server, secret)
    own = own_number()
    headers = {
        MACHINE: name_of(secret),
        NONCE: nonce,
        OWN: own,
        DIGEST: digest_of(BODY),
        MAC: request_mac(secret, PATH, nonce, own, digest_of(BODY)),
        "Content-Type": "application/json",
    }
    assert server.post("/api/rigs/step", content=BODY, headers=headers).status_code == 401


def test_a_revoked_key_is_told_so_in_a_signed_answer(server, secret, bench):
    nonce = fresh(server, secret)
    bench.machines.revoke_keys("Laptop")
    refused, own = sent(server, secret, nonce)
    assert refused.status_code == 403
    expected = answer_mac(secret, 403, nonce, own, refused.headers[NEXT], refused.content)
    assert refused.headers[MAC] == expected


def test_a_persons_key_is_none_of_a_machine_and_the_other_way_round(server, secret, bench):
    shown = {"Authorization": f"Bearer {secret}"}
    assert server.get("/api/studies", headers=shown).status_code == 401
    assert server.post(PATH, content=BODY, headers=shown).status_code == 401


def test_nonces_hold_for_a_while_and_for_one_start_of_the_server():
    now = [100.0]
    messages = MachineMessages(lambda name: None, lambda: now[0])
    nonce = messages.fresh_nonce()
    assert messages.holds(nonce)
    assert not MachineMessages(lambda name: None, lambda: now[0]).holds(nonce)
    assert not messages.holds("") and not messages.holds("1.2.3") and not messages.holds("é.é.é")
    now[0] += NONCE_LIFE_S + 1
    assert not messages.holds(nonce)
    assert not messages.takes("s", PATH, Headers({NONCE: nonce}))
