"""Connections that ask nothing are not held for ever, and cannot keep others out."""

import socket

import httpx
import pytest

from haremile.api import bodies, connections
from haremile.usecases.access import Role
from helpers import served


@pytest.fixture
def address(bench, throwaway_url, monkeypatch):
    monkeypatch.setattr(connections, "HEADER_S", 0.5)
    monkeypatch.setattr(connections, "MOST_CONNECTIONS", 20)
    monkeypatch.setattr(bodies, "FIRST_S", 0.5)
    with served(bench, throwaway_url) as made:
        yield made


@pytest.fixture
def key(bench):
    return bench.access.add_person("Ida", Role.OWN)


def opened(address, begin):
    host, _, port = address.rpartition("/")[2].partition(":")
    link = socket.create_connection((host, int(port)), timeout=20)
    link.sendall(begin)
    return link


@pytest.mark.parametrize("begin", [b"", b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: "])
def test_a_head_that_does_not_come_ends_the_connection(address, begin):
    with opened(address, begin) as link:
        assert link.recv(100) in (b"",), "it was closed, long before our own patience ended"


def test_half_sent_heads_do_not_keep_others_out(address, key):
    held = [opened(address, b"GET / HTTP/1.1\r\nHost: ") for _ in range(60)]
    headers = {"Authorization": f"Bearer {key}"}
    try:
        assert httpx.get(f"{address}/api/studies", headers=headers, timeout=20).status_code == 200
    finally:
        for link in held:
            link.close()


def test_a_body_that_does_not_come_is_answered_as_too_slow(address, key):
    begin = (
        f"POST /api/studies HTTP/1.1\r\nHost: 127.0.0.1\r\nAuthorization: Bearer {key}\r\n"
        "Content-Type: application/json\r\nContent-Length: 100\r\n\r\n{"
    )
    with opened(address, begin.encode()) as link:
        assert b" 408 " in link.recv(2000)


def test_nobody_says_of_himself_that_he_is_another(address, key):
    headers = {"Authorization": f"Bearer {key}", "X-Forwarded-For": "10.0.0.9"}
    told = httpx.get(f"{address}/api/session", headers=headers, timeout=20).json()
    assert not told["is_overheard"], "the address is that of the connection"


def test_a_connection_serves_one_request_after_the_other(address, key):
    headers = {"Authorization": f"Bearer {key}"}
    with httpx.Client(base_url=address, headers=headers, timeout=20) as page:
        assert [page.get("/api/studies").status_code for _ in range(5)] == [200] * 5
        assert page.post("/api/people", json={"name": "A", "role": "look"}).status_code == 201
