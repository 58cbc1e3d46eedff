"""Files dropped on a page: previewed, taken in, refused with what is wrong."""

import json
from uuid import UUID, uuid4

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from haremile.formats import readings_csv
from haremile.formats.probe_archive import read_gatherer, read_probe_archive
from haremile_probe.wire import Capture, CaptureReading, CaptureTrace, Evidence, Fault, dump_capture


def document(**change):
    made = Capture(
        id=str(uuid4()),
        made_at="2026-10-05T08:00:00+00:00",
        probe="0",
        asked="boot",
        machine="Laptop",
        system="Varrow 12",
        outcome="done",
        conditions={"cores": "2"},
        readings=[CaptureReading("boot.kernel", 3.0, "s", "kernel-log", 1e-6)],
        traces=[CaptureTrace("memory.used", "B", [1.0], [5.0])],
        evidence=[Evidence("kernel-log", "<script>alert('seeds')</script>\n")],
        faults=[Fault("absent", "systemd: not there")],
    )
    return {**json.loads(dump_capture(made)), **change}


def sent(*documents):
    return [
        ("files", (f"{n}.json", json.dumps(one).encode(), "application/json"))
        for n, one in enumerate(documents)
    ]


def address(study, rest=""):
    return f"/api/studies/{study.id}/intake{rest}"


def test_files_are_previewed_then_taken_in_then_known(client, study):
    files = sent(document())
    (item,) = client.post(address(study, "/preview"), files=files).json()
    assert (item["asked"], item["lane_no"], item["is_known"]) == ("boot", 1, False)
    assert item["faults"] == ["absent: systemd: not there"]
    assert client.post(address(study), files=files).json() == {"taken": 1, "known": 0, "notes": []}
    assert client.post(address(study), files=files).json() == {"taken": 0, "known": 1, "notes": []}
    assert client.post(address(study, "/preview"), files=files).json()[0]["is_known"]


def test_a_person_says_which_contender_a_stray_capture_is_of(client, study):
    files = sent(document(system="Marlstone 26.1"), document())
    refused = client.post(address(study), files=files)
    assert refused.status_code == 422
    assert "say which it is" in refused.json()["detail"]
    taken = client.post(address(study), files=files, data={"lanes": ["2", "0"]})
    assert taken.json() == {"taken": 2, "known": 0, "notes": []}
    runs = client.get(f"/api/studies/{study.id}/runs").json()["runs"]
    assert sorted(run["lane_no"] for run in runs if run["procedure"] == "boot")[-1] == 2


def test_markup_in_a_capture_stays_text(client, study):
    client.post(address(study), files=sent(document()))
    runs = client.get(f"/api/studies/{study.id}/runs").json()["runs"]
    found = [client.get(f"/api/runs/{run['id']}/capture").json() for run in runs]
    texts = {e["text"] for capture in found for e in capture["evidence"]}
    assert "<script>alert('seeds')</script>\n" in texts


def test_other_bytes_under_a_known_id_are_a_conflict(client, study):
    known = document()
    client.post(address(study), files=sent(known))
    answer = client.post(address(study), files=sent({**known, "probe": "1"}))
    assert answer.status_code == 409
    assert answer.headers["content-type"] == "application/problem+json"


def test_too_large_too_many_and_none_are_refused_with_the_size(client, study, monkeypatch):
    monkeypatch.setattr("haremile.api.routers.intake.MOST_BYTES", 2**20)
    monkeypatch.setattr("haremile.formats.captures.MOST_BYTES", 2**20)
    big = [("files", ("big.json", b"{" + b" " * (3 * 2**20), "application/json"))]
    answer = client.post(address(study, "/preview"), files=big)
    assert (answer.status_code, "3.0 MiB" in answer.json()["detail"]) == (422, True)
    many = sent(*[document()] * 201)
    assert client.post(address(study), files=many).status_code == 422
    assert client.post(address(study)).status_code == 422
    assert readings_csv.MOST_BYTES > 2**20


def test_a_request_beyond_every_limit_is_refused_before_it_is_read(client, study):
    headers = {"content-length": str(2**40), "content-type": "multipart/form-data; boundary=x"}
    answer = client.post(address(study), content=b"x", headers=headers)
    assert answer.status_code == 413


@pytest.mark.parametrize("file", ["../../etc/passwd", "a/b.json", "<b>.json", ""])
def test_a_files_name_is_only_a_name(client, study, file):
    body = json.dumps(document()).encode()
    answer = client.post(address(study), files=[("files", (file, body, "application/json"))])
    assert answer.status_code in (200, 422)


def test_captures_of_two_systems_are_a_new_study(client):
    files = sent(document(), document(system="Quillfern 8"))
    answer = client.post("/api/studies/import", files=files, data={"title": "Which?"})
    assert answer.status_code == 201
    labels = [contender["label"] for contender in answer.json()["study"]["contenders"]]
    assert labels == ["Varrow 12", "Quillfern 8"]


def test_machines_fetch_the_probe_and_the_gatherer_from_here(client):
    assert client.get("/haremile-probe.pyz").content == read_probe_archive()
    assert client.get("/haremile-gather.sh").content == read_gatherer()


def paths_of(value, at=()):
    """Every place in a document."""
    yield at
    if isinstance(value, list):
        value = dict(enumerate(value))
    for key, inner in value.items() if isinstance(value, dict) else ():
        yield from paths_of(inner, (*at, key))


PATHS = sorted(filter(None, paths_of(document())), key=repr)
JUNK = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(),
    st.floats(),
    st.text(max_size=12),
    st.lists(st.integers(), max_size=3),
    st.dictionaries(st.text(max_size=4), st.text(max_size=4)),
    st.sampled_from(["\x00", "\ud800", "x" * 3000, "9" * 400, "-1", "nan", "../..", "<b>", "2026"]),
)


MUTATED = given(path=st.sampled_from(PATHS), junk=JUNK, takes=st.booleans())
SHARED = [HealthCheck.function_scoped_fixture]


@settings(max_examples=250, suppress_health_check=SHARED)
@MUTATED
def test_mutated_captures_are_taken_or_refused_and_never_break(client, study, path, junk, takes):
    send_mutated(client, study, path, junk, takes)


@pytest.mark.long
@settings(max_examples=2000, suppress_health_check=SHARED, derandomize=False)
@MUTATED
def test_two_thousand_mutated_captures_never_break(client, study, path, junk, takes):
    send_mutated(client, study, path, junk, takes)


def send_mutated(client, study, path, junk, takes):
    changed = document(id=str(UUID(int=0)))
    place = changed
    for key in path[:-1]:
        place = place[key]
    if takes and isinstance(place, dict):
        place.pop(path[-1])
    else:
        place[path[-1]] = junk
    answer = client.post(address(study), files=sent(changed), data={"lanes": ["1"]})
    assert answer.status_code in (200, 409, 422), answer.text
    if answer.status_code != 200:
        assert answer.json()["detail"]


WIDE = b"Distro,Boot time (s),RAM MiB\nVarrow 12,21.4,512\nVarrow 12,20.9,511\n"
MEANING = {
    "columns": {"Distro": "system"},
    "measures": {
        "Boot time (s)": {"metric": "boot.total", "unit": "s"},
        "RAM MiB": {"metric": "memory.used", "unit": "MiB"},
    },
    "fixed": {"machine": "Laptop"},
}


def wide(name="mine.csv"):
    return [("files", (name, WIDE))]


def test_a_table_of_ones_own_is_explained_once_and_then_remembered(client):
    (columns,) = client.post("/api/intake/columns", files=wide()).json()
    assert (columns["missing"], columns["is_remembered"]) == (["machine"], False)
    refused = client.post("/api/studies/import", data={"title": "T"}, files=wide())
    assert refused.status_code == 422
    data = {"title": "T", "column_map": json.dumps(MEANING)}
    made = client.post("/api/studies/import", data=data, files=wide()).json()
    assert "RAM MiB as memory.used in MiB" in made["notes"][0]
    (columns,) = client.post("/api/intake/columns", files=wide()).json()
    assert (columns["missing"], columns["is_remembered"]) == ([], True)
    again = client.post("/api/studies/import", data={"title": "U"}, files=wide())
    assert again.status_code == 201
    study = again.json()["study"]["id"]
    found = client.get(f"/api/studies/{study}/readings", params={"metric": "boot.total"}).json()
    assert [one["value"] for one in found] == [21.4, 20.9]


def test_a_readings_file_has_no_columns_to_explain(client):
    body = b"system,machine,metric,value,unit\nA,M,boot.total,1,s\n"
    asked = client.post("/api/intake/columns", files=[("files", ("a.csv", body))])
    assert asked.json() == []


def test_a_table_is_explained_for_a_study_that_is_there(client, study):
    data = {"column_map": json.dumps(MEANING)}
    (item,) = client.post(f"/api/studies/{study.id}/intake/preview", data=data, files=wide()).json()
    assert (item["readings"], item["strangers"]) == (4, [])
    taken = client.post(f"/api/studies/{study.id}/intake", data=data, files=wide())
    assert taken.json()["taken"] == 1


@pytest.mark.parametrize("text", ["{", "[]", '{"columns": 3}', '{"columns": {"Distro": ""}}'])
def test_a_map_that_is_none_is_refused(client, text):
    data = {"title": "T", "column_map": text}
    refused = client.post("/api/studies/import", data=data, files=wide())
    assert refused.status_code == 422
    assert "column_map" in refused.json()["detail"]
