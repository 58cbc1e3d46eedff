"""The built pages: files that are kept for good, and what an address lets a browser fetch ahead."""

import gzip
import json

import pytest
from fastapi.testclient import TestClient

from haremile.api.application import create_app
from haremile.api.recognition import Lately, Shown
from haremile.errors import MissingHereError
from haremile.usecases.access import Principal, Role, Way

SCRIPT = "console.log('a page of ours, and of nobody else')\n" * 40


@pytest.fixture
def web(tmp_path):
    (tmp_path / "assets").mkdir()
    (tmp_path / "assets/first-abc.js").write_text(SCRIPT)
    (tmp_path / "assets/face-abc.woff2").write_bytes(b"\0\1face")
    (tmp_path / "index.html").write_text('<head><meta content="__NONCE__"></head><p>the page</p>')
    (tmp_path / "offline.js").write_text("self.addEventListener('fetch', () => 0)")
    lines = [{"address": "studies/[^/]+/findings", "files": ["assets/first-abc.js"]}]
    (tmp_path / "preloads.json").write_text(json.dumps(lines))
    return tmp_path


@pytest.fixture
def client(bench, throwaway_url, web):
    headers = {"Authorization": f"Bearer {bench.access.add_person('Ida', Role.LOOK)}"}
    app = create_app(bench, throwaway_url, web)
    with TestClient(app, base_url="http://127.0.0.1:8642", headers=headers) as made:
        yield made


def test_what_works_without_the_network_speaks_for_the_whole_site_and_is_asked_for_anew(client):
    told = client.get("/offline.js")
    assert told.headers["content-type"].startswith("application/javascript")
    assert told.headers["cache-control"] == "no-cache"
    assert "fetch" in told.text


def test_a_file_of_the_pages_comes_compressed_and_is_asked_for_once(client):
    told = client.get("/assets/first-abc.js")
    assert told.text == SCRIPT
    assert told.headers["content-encoding"] == "gzip"
    assert int(told.headers["content-length"]) == len(gzip.compress(SCRIPT.encode()))
    assert "immutable" in told.headers["cache-control"]
    assert told.headers["content-type"].startswith("application/javascript")
    plain = client.get("/assets/first-abc.js", headers={"Accept-Encoding": "identity"})
    assert plain.text == SCRIPT
    assert client.get("/assets/face-abc.woff2").content == b"\0\1face"


@pytest.mark.parametrize("name", ["none.js", "..%2Findex.html", "..%2f..%2fpyproject.toml"])
def test_nothing_else_is_a_file_of_the_pages(client, name):
    assert "[project]" not in client.get(f"/assets/{name}").text
    assert client.get("/assets/none.js").status_code == 404


def test_an_address_lets_the_browser_fetch_what_its_page_needs_ahead(client):
    link = '<link rel="modulepreload" crossorigin href="/assets/first-abc.js"></head>'
    assert link in client.get("/studies/1/findings").text
    other = client.get("/studies/1/run").text
    assert "modulepreload" not in other
    assert "__NONCE__" not in other


def test_without_built_pages_it_says_what_to_do(bench, throwaway_url, tmp_path):
    with pytest.raises(MissingHereError, match=r"run \./haremile serve"):
        create_app(bench, throwaway_url, tmp_path)


def test_whose_cookie_was_recognised_is_known_for_some_seconds():
    now = [100.0]
    lately = Lately(lambda: now[0])
    ida = Principal("Ida", Role.LOOK, Way.SESSION)
    shown, other = Shown("c1", None, None), Shown("c2", None, None)
    lately.note(shown, ida)
    assert lately.seen(shown) is ida
    assert lately.seen(other) is None
    assert lately.seen(Shown("c1", None, "a key")) is None
    now[0] += 6.0
    assert lately.seen(shown) is None
