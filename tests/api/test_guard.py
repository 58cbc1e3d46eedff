import pytest


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
