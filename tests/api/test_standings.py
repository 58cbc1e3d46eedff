"""Standings over HTTP."""

import pytest

LIST = "/api/standings"


def idle(client, **query):
    return client.get(LIST, params={"metric": "boot.total", **query}).json()


def test_what_was_measured_stands_on_a_list(client, study):
    found = idle(client)
    assert [one["standing"]["system"] for one in found["lines"]] == ["Varrow 12", "Quillfern 8"]
    assert found["lines"][0]["measured"][0]["study"] == str(study.id)
    assert found["question"]["metric"] == "boot.total"


def test_the_same_list_is_sent_once(client, study):
    tag = client.get(LIST).headers["etag"]
    assert client.get(LIST, headers={"if-none-match": tag}).status_code == 304


def test_bands_are_set_taken_out_and_told(client, bench, study):
    address = "/api/standings/bands/boot.total"
    body = {"names": ["quick", "slow"], "limits": ["10500 ms"]}
    assert client.put(address, json=body).status_code == 204
    assert idle(client)["bands"] == {"names": ["quick", "slow"], "limits": [10.5]}
    assert client.delete(address).status_code == 204
    assert idle(client)["bands"] is None
    acts = [one.facts for one in bench.access.acts(None, 10) if one.what == "bands.set"]
    assert acts[0]["was"] == "quick, slow at 10.5" and acts[0]["is"] is None


@pytest.mark.parametrize(
    ("body", "says"),
    [
        ({"names": ["a", "b"], "limits": ["4 MiB"]}, "measured in s"),
        ({"names": ["a", "b"], "limits": ["soon"]}, "not an amount with a unit"),
        ({"names": ["a", "b"], "limits": ["4 s", "3 s"]}, "a limit between each two"),
        ({"names": ["a", "a"], "limits": ["4 s"]}, "two bands have one name"),
    ],
)
def test_bands_that_are_none_are_refused_in_words(client, study, body, says):
    answer = client.put("/api/standings/bands/boot.total", json=body)
    assert answer.status_code == 422 and says in answer.json()["detail"]


@pytest.mark.parametrize(
    ("query", "status"),
    [
        ({"metric": "memory.nobody"}, 404),
        ({"held": "medium"}, 422),
        ({"since": "soon"}, 422),
        ({"metric": "x" * 300}, 422),
    ],
)
def test_what_is_asked_wrongly_is_answered_so(client, study, query, status):
    assert client.get(LIST, params=query).status_code == status
