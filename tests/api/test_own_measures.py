"""Measures of the tester's own over HTTP: defined, changed, taken out, and known everywhere."""

import pytest

OWN = "/api/own-measures"
SORT = {
    "name": "Sort the seeds",
    "unit": "s",
    "good_end": "low",
    "resolution": 0.01,
    "amount": 0.5,
    "says": "our list of a million seeds",
}
KEY = "own.s.low.Sort_the_seeds"


def test_a_measure_is_defined_and_stands_in_the_catalogue(client):
    made = client.put(OWN, json=SORT).json()
    assert (made["key"], made["command"]) == (KEY, "Sort_the_seeds")
    assert made["asked"] == f"command:{KEY}:0.01"
    known = next(one for one in client.get("/api/metrics").json() if one["key"] == KEY)
    assert (known["label"], known["unit"], known["good_end"]) == ("Sort the seeds", "s", "low")
    assert known["margin"]["amount"] == 0.5


def test_what_is_said_of_it_changes_under_the_same_key_and_it_comes_back(client, bench):
    client.put(OWN, json=SORT)
    client.put(OWN, json={**SORT, "says": "two million", "amount": None, "share": 0.05})
    (found,) = client.get(OWN).json()
    assert (found["says"], found["margin"]) == ("two million", {"share": 0.05, "amount": None})
    assert client.patch(f"{OWN}/{KEY}", json={"is_put_away": True}).status_code == 204
    assert client.get(OWN).json() == []
    client.patch(f"{OWN}/{KEY}", json={"is_put_away": False})
    assert [one["key"] for one in client.get(OWN).json()] == [KEY]
    acts = [one.what for one in bench.access.acts(None, 10)]
    assert acts == ["measure.back", "measure.put_away", "measure.kept", "measure.kept"]
    gone = client.patch(f"{OWN}/own.s.low.none", json={"is_put_away": True})
    assert gone.status_code == 404


@pytest.mark.parametrize(
    ("part", "says"),
    [
        ({"unit": "per hour"}, "a unit is s, B"),
        ({"name": "!"}, "a name of 1 to 80"),
        ({"amount": -1}, "greater than 0"),
        ({"good_end": "left"}, "low"),
    ],
)
def test_what_cannot_be_a_measure_is_answered_with_its_reason(client, part, says):
    answer = client.put(OWN, json={**SORT, **part})
    assert answer.status_code in (400, 422)
    assert says in answer.text
    assert client.get(OWN).json() == []


def test_readings_in_a_file_are_taken_in_its_unit_and_refused_in_another(client):
    def bring(unit):
        rows = "".join(f"Varrow 12,Laptop,{KEY},{2.0 + n / 100},{unit}\n" for n in range(6))
        text = "system,machine,metric,value,unit\n" + rows
        files = [("files", ("own.csv", text.encode()))]
        return client.post("/api/studies/import", data={"title": "Q"}, files=files)

    refused = bring("MiB")
    assert refused.status_code == 422
    assert "is measured in s, not in MiB" in refused.text
    taken = bring("ms")
    assert taken.status_code == 201
    rows = client.get(f"/api/studies/{taken.json()['study']['id']}/findings").json()["rows"]
    assert [row["metric"] for row in rows] == [KEY]
    assert rows[0]["good_end"] == "low"
