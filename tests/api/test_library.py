"""The library over HTTP: what is stated, claimed, measured, renamed and put away."""

import json
from uuid import UUID, uuid4

import pytest

from haremile.usecases.import_readings import import_study
from haremile_probe.wire import Capture, Evidence, dump_capture


@pytest.fixture
def varrow(client, study):
    return next(one for one in client.get("/api/systems").json() if one["name"] == "Varrow 12")


def page(client, thing, noun="systems"):
    return client.get(f"/api/{noun}/{thing['id']}").json()


def names(client, noun="systems", **query):
    return [one["name"] for one in client.get(f"/api/{noun}", params=query).json()]


def test_what_took_part_in_a_study_is_known_and_more_can_be_noted(client, study):
    assert names(client) == ["Quillfern 8", "Varrow 12"]
    made = client.post("/api/systems", json={"name": "Osterfell Base", "edition": "Base"})
    found = page(client, made.json())["thing"]
    assert (found["name"], found["identity"]["edition"]) == ("Osterfell Base", "Base")
    again = client.post("/api/systems", json={"name": "Osterfell Base"})
    assert again.status_code == 409
    client.post("/api/machines", json={"name": "Field-kit board", "kind": "physical"})
    assert names(client, "machines") == ["Field-kit board", "Laptop"]
    assert client.get(f"/api/systems/{uuid4()}").status_code == 404


def test_a_fact_is_stated_with_its_source_and_keeps_its_history(client, varrow):
    address = f"/api/systems/{varrow['id']}/facts/channel"
    for value in ("candidate", "stable"):
        body = {"value": value, "source": "the makers' page", "source_on": "2026-09-01"}
        assert client.put(address, json=body).status_code == 204
    (line,) = [one for one in page(client, varrow)["lines"] if one["key"] == "channel"]
    assert line["stated"]["value"] == "stable"
    assert line["stated"]["source"] == {"text": "the makers' page", "on": "2026-09-01"}
    assert line["stated"]["who"] == "Ida"
    assert [one["value"] for one in line["before"]] == ["candidate"]
    client.put(address, json={"value": None, "source": "a mistake"})
    (line,) = [one for one in page(client, varrow)["lines"] if one["key"] == "channel"]
    assert line["stated"] is None
    assert [one["value"] for one in line["before"]] == [None, "stable", "candidate"]
    wrong = client.put(
        f"/api/systems/{varrow['id']}/facts/colour", json={"value": "x", "source": "x"}
    )
    assert wrong.status_code == 422


def test_what_its_runs_found_stands_beside_what_is_stated(client, bench):
    body = (
        b"system,machine,metric,value,unit,condition.kernel\n"
        b"Varrow 12,Laptop,boot.total,10,s,6.14\nVarrow 12,Laptop,boot.total,11,s,6.15\n"
    )
    import_study(bench.studies, bench.readings, "T", body)
    (varrow,) = client.get("/api/systems").json()
    address = f"/api/systems/{varrow['id']}/facts/kernel"
    client.put(address, json={"value": "6.12", "source": "the makers' page"})
    (line,) = [one for one in page(client, varrow)["lines"] if one["key"] == "kernel"]
    assert (line["stated"]["value"], line["found"], line["differs"]) == ("6.12", "6.15", True)


@pytest.mark.parametrize(("seconds", "kept"), [(20, "kept"), (5, "not kept"), (10.35, "undecided")])
def test_a_claim_stands_beside_what_was_measured(client, varrow, seconds, kept):
    body = {"key": "boots_in", "value": 1000 * seconds, "unit": "ms", "source": "the makers' page"}
    assert client.post(f"/api/systems/{varrow['id']}/claims", json=body).status_code == 204
    (claim,) = page(client, varrow)["claims"]
    assert claim["claim"]["amount"] == pytest.approx(seconds)
    (measured,) = claim["measured"]
    assert (measured["machine"], measured["n"], measured["kept"]) == ("Laptop", 8, kept)
    assert measured["low"] < measured["median"] < measured["high"]


def test_a_claim_of_what_nothing_measured_says_so_and_can_be_taken_out(client, varrow):
    address = f"/api/systems/{varrow['id']}/claims"
    body = {"key": "space", "value": 20, "unit": "GB", "source": "a guess", "is_own_guess": True}
    client.post(address, json=body)
    (claim,) = page(client, varrow)["claims"]
    assert (claim["measured"], claim["metric"], claim["claim"]["is_own_guess"]) == (
        [],
        "disk.used",
        True,
    )
    one = f"{address}/{claim['claim']['id']}"
    assert client.patch(one, json={"is_put_away": True}).status_code == 204
    assert page(client, varrow)["claims"][0]["claim"]["is_put_away"]
    assert client.patch(one, json={"is_put_away": False}).status_code == 204
    assert client.patch(f"{address}/{uuid4()}", json={"is_put_away": True}).status_code == 404
    wrong = client.post(address, json={**body, "unit": "s"})
    assert (wrong.status_code, "is in B" in wrong.json()["detail"]) == (422, True)
    assert client.post(address, json={**body, "key": "colour"}).status_code == 422


def test_a_rename_is_one_name_everywhere_and_files_with_the_old_one_are_understood(
    client, varrow, study
):
    address = f"/api/systems/{varrow['id']}"
    assert client.patch(address, json={"name": "Varrow 12 Thistlow"}).status_code == 204
    found = client.get(f"/api/studies/{study.id}").json()
    assert [one["label"] for one in found["contenders"]] == ["Varrow 12 Thistlow", "Quillfern 8"]
    assert page(client, varrow)["thing"]["aliases"] == ["Varrow 12"]
    body = b"system,machine,metric,value,unit\nVarrow 12,Laptop,boot.total,10.5,s\n"
    file = [("files", ("more.csv", body))]
    (item,) = client.post(f"/api/studies/{study.id}/intake/preview", files=file).json()
    assert item["strangers"] == []
    client.post(f"/api/studies/{study.id}/intake", files=file)
    assert names(client) == ["Quillfern 8", "Varrow 12 Thistlow"]
    taken = client.post("/api/systems", json={"name": "Varrow 12"})
    assert taken.status_code == 409
    assert client.patch(address, json={"name": "Quillfern 8"}).status_code == 409
    assert client.patch(address, json={"name": "Varrow 12"}).status_code == 204
    assert page(client, varrow)["thing"]["aliases"] == ["Varrow 12 Thistlow"]


def test_a_machine_is_renamed_too(client, study):
    (laptop,) = client.get("/api/machines").json()
    client.patch(f"/api/machines/{laptop['id']}", json={"name": "Herbarium laptop"})
    body = b"system,machine,metric,value,unit\nVarrow 12,Laptop,boot.total,10.5,s\n"
    made = client.post(
        "/api/studies/import", data={"title": "T"}, files=[("files", ("a.csv", body))]
    ).json()
    (contender,) = made["study"]["contenders"]
    assert contender["install"]["machine"]["name"] == "Herbarium laptop"


def test_what_was_put_away_is_in_no_list_and_its_readings_stay(client, varrow, study):
    address = f"/api/systems/{varrow['id']}"
    client.patch(address, json={"is_put_away": True})
    assert names(client) == ["Quillfern 8"]
    assert names(client, put_away=True) == ["Varrow 12"]
    query = {"metric": "boot.total"}
    assert len(client.get(f"/api/studies/{study.id}/readings", params=query).json()) == 16
    client.patch(address, json={"is_put_away": False})
    assert names(client) == ["Quillfern 8", "Varrow 12"]


def test_what_tells_a_system_from_others_can_be_changed(client, varrow):
    address = f"/api/systems/{varrow['id']}"
    client.patch(address, json={"distribution": "Varrow", "release": "12"})
    identity = page(client, varrow)["thing"]["identity"]
    assert (identity["distribution"], identity["release"]) == ("Varrow", "12")
    client.patch(address, json={"release": None})
    identity = page(client, varrow)["thing"]["identity"]
    assert (identity["distribution"], identity["release"]) == ("Varrow", None)
    (act, *_) = client.get("/api/audit").json()
    assert (act["what"], act["facts"]["was"]) == ("system changed", {"release": "12"})


def about(**facts):
    made = Capture(
        id=str(uuid4()),
        made_at="2026-10-05T08:00:00+00:00",
        probe="0",
        asked="about",
        machine="Laptop",
        system="Varrow 12",
        outcome="done",
        evidence=[Evidence("facts", json.dumps(facts))],
    )
    return dump_capture(made)


def test_an_about_capture_fills_what_is_known_and_keeps_what_was_stated_before(client, varrow):
    address = f"/api/systems/{varrow['id']}"
    before = {"value": "6.12", "source": "release notes"}
    client.put(f"{address}/facts/kernel", json=before)
    body = about(kernel="6.14", init="systemd")
    filled = client.post(f"{address}/about", content=body)
    assert filled.json() == {"stated": ["Init", "Kernel"]}
    lines = {line["key"]: line for line in page(client, varrow)["lines"]}
    assert lines["kernel"]["stated"]["value"] == "6.14"
    assert lines["kernel"]["stated"]["source"] == {"text": "an about capture", "on": "2026-10-05"}
    assert [one["value"] for one in lines["kernel"]["before"]] == ["6.12"]
    assert client.post(f"{address}/about", content=body).json() == {"stated": []}
    for wrong in (b"no capture", about(nothing=1)):
        assert client.post(f"{address}/about", content=wrong).status_code == 422
    laptop = next(one for one in client.get("/api/machines").json() if one["name"] == "Laptop")
    told = client.post(f"/api/machines/{laptop['id']}/about", content=about(firmware="uefi"))
    assert told.json() == {"stated": ["Firmware"]}


def test_installs_tell_what_changed_in_them_and_are_put_away(client, bench):
    body = (
        b"system,machine,metric,value,unit,at,condition.kernel,condition.updates_pending\n"
        b"A,Laptop,boot.total,10,s,2026-10-05T08:00:00Z,6.1,0\n"
        b"A,Laptop,boot.total,11,s,2026-10-06T08:00:00Z,6.2,0\n"
    )
    import_study(bench.studies, bench.readings, "T", body)
    (system,) = client.get("/api/systems").json()
    address = f"/api/systems/{system['id']}/installs"
    (one,) = client.get(address).json()
    assert (one["install"]["machine"]["name"], one["runs"]) == ("Laptop", 2)
    changes = [(c["key"], c["before"], c["after"]) for c in one["changes"]]
    assert changes == [
        ("kernel", "6.1", "6.2"),
        ("updates_pending", None, "0"),
        ("kernel", None, "6.1"),
    ]
    install = f"/api/installs/{one['install']['id']}"
    client.patch(install, json={"is_put_away": True, "is_reference": True})
    (after,) = client.get(address).json()
    assert (after["is_put_away"], after["install"]["is_reference"]) == (True, True)
    assert client.get("/api/installs").json() == []
    client.patch(install, json={"is_put_away": False})
    assert len(client.get("/api/installs").json()) == 1
    assert client.patch(f"/api/installs/{uuid4()}", json={"is_put_away": True}).status_code == 404


def test_what_was_added_to_an_install_is_noted_and_what_stood_there_is_kept(client, bench):
    system = client.post("/api/systems", json={"name": "Varrow 12"}).json()["id"]
    machine = client.post("/api/machines/ladder", json={"name": "Guest", "memories": [512]})
    image = {"image": "osterfell-base", "ready": "probe"}
    client.put(f"/api/systems/{system}/image", json=image)
    bench.library.put_on(UUID(system), UUID(machine.json()["ids"][0]))
    (one,) = client.get(f"/api/systems/{system}/installs").json()
    assert one["added"] == ""
    install = f"/api/installs/{one['install']['id']}"
    for text in ("Inkwarren 4, 90 MiB", "Inkwarren 5"):
        assert client.patch(install, json={"added": text}).status_code == 204
    (one,) = client.get(f"/api/systems/{system}/installs").json()
    assert one["added"] == "Inkwarren 5"
    act = next(one for one in bench.access.acts() if one.what == "added noted")
    assert (act.facts["was"], act.facts["is"]) == ("Inkwarren 4, 90 MiB", "Inkwarren 5")


def test_the_main_measures_of_a_system_stand_study_after_study(client, bench, varrow):
    rows = "".join(f"Varrow 12,Laptop,boot.total,{20 + n / 10},s\n" for n in range(8))
    body = f"system,machine,metric,value,unit\n{rows}Varrow 12,Board,boot.total,40,s\n"
    import_study(bench.studies, bench.readings, "A year later?", body.encode())
    board, laptop = client.get(f"/api/systems/{varrow['id']}/over-time").json()
    assert (board["other"], [one["n"] for one in board["studies"]]) == ("Board", [1])
    assert board["studies"][0]["low"] is None
    assert [one["title"] for one in laptop["studies"]] == ["Which?", "A year later?"]
    first, later = laptop["studies"]
    assert first["low"] <= first["median"] <= first["high"] < later["low"]
    (machine,) = [one for one in client.get("/api/machines").json() if one["name"] == "Laptop"]
    on_it = client.get(f"/api/machines/{machine['id']}/over-time").json()
    assert {one["other"] for one in on_it} == {"Quillfern 8", "Varrow 12"}
