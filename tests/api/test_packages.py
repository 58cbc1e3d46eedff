"""Packages over HTTP: handed on, looked at, taken in; only by who may."""

import io
import zipfile

import pytest

AT = "/api/packages"
TITLE = "Which system fits the Field-kit board?"


@pytest.fixture(name="client")
def client_of_the_world(world, client):
    """Signed in after the sample world was put in place."""
    return client


@pytest.fixture(name="packed")
def packed_study(client, world):
    found = client.get(f"{AT}/export", params={"study": str(world[TITLE].id)})
    assert found.status_code == 200 and found.headers["content-type"] == "application/zip"
    return found.content


def brought(body):
    return {"file": ("one.zip", body, "application/zip")}


def test_a_study_is_handed_on_with_its_page(packed, world):
    with zipfile.ZipFile(io.BytesIO(packed)) as found:
        assert f"pages/{world[TITLE].id}.html" in found.namelist()
        assert TITLE in found.read("README.md").decode()


def test_what_is_here_already_is_the_same(client, packed):
    for address in (f"{AT}/preview", AT):
        found = client.post(address, files=brought(packed))
        assert found.status_code == 200, found.text
        assert [one["what"] for one in found.json()["studies"]] == ["the same as here"]
        assert found.json()["rows"] == 0 and found.json()["is_own"]


@pytest.mark.parametrize("body", [b"", b"PK no zip", b"PK\x03\x04" + b"\x00" * 100])
def test_what_is_no_package_is_refused(client, body):
    found = client.post(f"{AT}/preview", files=brought(body))
    assert found.status_code == 422 and found.json()["detail"]


def test_what_is_not_there_is_not_found(client):
    nobody = "01a22398-c788-70a2-90b5-90ad99057a13"
    assert client.get(f"{AT}/export", params={"study": nobody}).status_code == 404
    assert client.post(f"{AT}/commands/{nobody}", json={"is_approved": True}).status_code == 404
    assert client.get(f"{AT}/commands").json() == []
