"""By hand over HTTP: a person's sheet, what they hand in, their drills."""

import base64
from datetime import UTC, datetime, timedelta
from uuid import uuid4

import pytest

from haremile.api.guard import AT_THE_BENCH
from haremile.core.records.study import RunState
from haremile.usecases.plan import checked_plan
from helpers import DATA

AT = "2026-03-04T10:00:00+00:00"
RACE = [{"kind": "power", "at_s": 1.0}, {"kind": "desktop", "at_s": 21.2}]


def result(system="Varrow 12", machine="Laptop", **more):
    said = {
        "id": str(uuid4()),
        "system": system,
        "machine": machine,
        "at": AT,
        "person": "Ida",
        "method": "hand",
        "marks": RACE,
    }
    return {**said, **more}


def hand_in(client, *results, **more):
    return client.post("/api/by-hand/results", json={"results": list(results), **more})


def drill(client, person="Ida", delay=0.2):
    asked = {
        "id": str(uuid4()),
        "person": person,
        "answers_s": [delay - 0.02, delay, delay + 0.02] * 5,
    }
    return client.post("/api/by-hand/drills", json=asked)


def photograph_of(size):
    """A JPEG's frame with so many bytes in it."""
    body = b"\xff\xd8\xff\xe0\x00\x04ab\xff\xda\x00\x02" + bytes(size) + b"\xff\xd9"
    return "data:image/jpeg;base64," + base64.b64encode(body).decode()


@pytest.fixture
def sheet(client, bench):
    """A study of two systems, each on a laptop of its own, that a person measures."""
    installs = []
    for system, machine in (("Varrow 12", "Left laptop"), ("Quillfern 8", "Right laptop")):
        ids = [
            client.post(f"/api/{noun}", json={"name": name}).json()["id"]
            for noun, name in (("systems", system), ("machines", machine))
        ]
        asked = {"system": ids[0], "machine": ids[1]}
        made = client.post("/api/by-hand/installs", json=asked).json()
        assert made["rig"] == "person"
        installs.append(made["id"])
    known = {str(one.id): one for one in bench.library.installs()}
    study = bench.studies.create(checked_plan("Which?", [known[key] for key in installs], 2, 1))
    bench.runner.start(study.id)
    yield study
    bench.conductor.cut(study.id)
    bench.runner.join()


def waiting(client, study, least=1):
    """What the sheet asks for, once it asks for so much."""
    while (
        len(found := client.get("/api/by-hand/waiting", params={"study": study.id}).json()) < least
    ):
        pass
    return found


def answer(one, **more):
    return result(one["system"], one["machine"], run=one["run"], attempt=one["attempt"], **more)


def until_over(bench, one, study):
    while not all(
        run.state.is_finished for run in bench.studies.runs(study.id) if str(run.id) == one["run"]
    ):
        pass


def test_a_persons_study_is_done_once_everything_is_handed_in(client, bench, sheet):
    first = waiting(client, sheet, 2)  # a laptop each: both at once
    assert {one["machine"] for one in first} == {"Left laptop", "Right laptop"}
    assert (first[0]["of"], first[0]["finished"], first[0]["procedure"]) == (4, 0, "boot")
    assert "your finger on its switch" in first[0]["ready"]
    assert hand_in(client, *map(answer, first)).json() == {
        "study": str(sheet.id),
        "taken": 2,
        "known": 0,
    }
    for one in first:
        until_over(bench, one, sheet)
    assert hand_in(client, *map(answer, waiting(client, sheet, 2))).status_code == 201
    bench.runner.join()
    runs = bench.studies.runs(sheet.id)
    assert [run.state for run in runs] == [RunState.DONE] * 4
    readings = bench.readings.readings(sheet.id, "boot.total")
    assert {(one.value, one.method, one.resolution) for one in readings} == {(20.2, "hand", 0.2)}
    assert readings[0].conditions["person"] == "Ida"


def test_the_same_result_sent_again_is_kept_once_and_another_is_refused(client, sheet):
    one = waiting(client, sheet)[0]
    told = answer(one)
    assert hand_in(client, told).json()["taken"] == 1
    again = hand_in(client, told)
    assert (again.status_code, again.json()["known"]) == (201, 1)
    other = hand_in(client, answer(one))
    assert (other.status_code, "handed in already" in other.json()["detail"]) == (409, True)
    assert hand_in(client, answer(one) | {"run": str(uuid4())}).status_code == 404


@pytest.mark.parametrize(
    ("outcome", "state"), [("failed", RunState.FAILED), ("skipped", RunState.VOID)]
)
def test_a_run_that_failed_or_was_left_out_says_why(client, bench, sheet, outcome, state):
    one = waiting(client, sheet)[0]
    refused = hand_in(client, answer(one, outcome=outcome, marks=[]))
    assert (refused.status_code, "say why" in refused.json()["detail"]) == (422, True)
    told = answer(one, outcome=outcome, marks=[], reason="black screen")
    assert hand_in(client, told).status_code == 201
    until_over(bench, one, sheet)
    run = next(run for run in bench.studies.runs(sheet.id) if str(run.id) == one["run"])
    assert run.state is state
    assert "black screen" in run.reason


def test_a_drill_is_taken_off_and_its_error_stated(client, bench):
    made = drill(client).json()["drill"]
    assert made["reaction"]["delay_s"] == 0.2
    newest = client.get("/api/by-hand/drills/newest", params={"person": "Ida"}).json()
    assert newest["id"] == made["id"]
    assert client.get("/api/by-hand/drills/newest", params={"person": "Bo"}).json() is None
    kept = hand_in(client, result(drill=made["id"]), title="Old stopwatch").json()
    (reading,) = bench.readings.readings(kept["study"], "boot.total")
    assert reading.value == pytest.approx(20.0)
    (seen,) = bench.readings.observations(kept["study"])
    assert seen.absolute_error == pytest.approx(1.96 * made["reaction"]["error_s"], abs=1e-3)
    few = {"id": str(uuid4()), "person": "Ida", "answers_s": [0.2] * 3}
    assert client.post("/api/by-hand/drills", json=few).status_code == 422


def test_a_drill_afterwards_counts_for_what_was_timed_before_it(client, bench):
    just_now = datetime.now(UTC) - timedelta(minutes=5)
    told = result(at=just_now.isoformat())
    kept = hand_in(client, told, result("Quillfern 8", at=just_now.isoformat(), person="Bo")).json()
    made = drill(client).json()
    assert made["retimed"] == 1
    readings = bench.readings.readings(kept["study"], "boot.total")
    assert [one.value for one in readings] == [pytest.approx(20.0), pytest.approx(20.2)]
    assert readings[0].resolution < 0.01
    (seen, _) = bench.readings.observations(kept["study"])
    assert seen.absolute_error > 0
    acts = client.get(f"/api/readings/{readings[0].id}/history").json()
    assert [act["facts"]["was"] for act in acts] == [20.2]
    assert drill(client, delay=0.3).json()["retimed"] == 0  # once


def test_a_reading_tells_to_what_it_is_good(client):
    kept = hand_in(
        client, result(), result("Quillfern 8", drill=drill(client).json()["drill"]["id"])
    )
    columns = client.get(
        f"/api/studies/{kept.json()['study']}/reading-columns", params={"metric": "boot.total"}
    ).json()
    assert columns["half_width"][0] == 0.1
    assert 0.03 < columns["half_width"][1] < 0.06


def test_a_photograph_of_the_largest_kind_goes_with_a_result(client, bench):
    shown = [{"name": f"desktop {i}", "image": photograph_of(1_400_000)} for i in range(2)]
    told = hand_in(client, result(photographs=shown))
    assert told.status_code == 201, told.json()


def test_a_paired_device_hands_in_and_does_its_drill(client):
    assert AT_THE_BENCH.fullmatch("/api/by-hand/results")
    assert AT_THE_BENCH.fullmatch("/api/by-hand/drills")
    assert not AT_THE_BENCH.fullmatch("/api/by-hand/installs")


def test_figures_without_a_study_make_one(client, bench):
    def typed(system, text, place):
        figure = [{"metric": "boot.total", "text": text}, {"metric": "memory.used", "text": "505M"}]
        at = f"2026-03-0{place}T10:00:00+00:00"
        return result(system, marks=[], method="typed", written=figure, at=at)

    told = [typed("Varrow 12", "47 s", 1), typed("Quillfern 8", "1:02", 2)]
    kept = hand_in(client, *told, title="Old notes").json()
    assert kept["taken"] == 2
    study = bench.studies.get(kept["study"])
    assert [one.label for one in study.contenders] == ["Varrow 12", "Quillfern 8"]
    values = {one.value for one in bench.readings.readings(study.id, "boot.total")}
    assert values == {47.0, 62.0}
    more = hand_in(client, typed("Marlstone 3", "51 s", 3), study=kept["study"])
    assert more.json()["taken"] == 1
    assert len(bench.studies.get(study.id).contenders) == 3


def test_nothing_is_kept_where_one_of_them_is_wrong(client, bench):
    wrong = result(marks=[], method="typed", written=[{"metric": "boot.total", "text": "1,180 s"}])
    told = hand_in(client, result(), wrong)
    assert (told.status_code, "may be 1180 or 1.180" in told.json()["detail"]) == (422, True)
    assert bench.studies.digests() == []
    assert hand_in(client, result(method="quoted")).status_code == 422


def test_figures_are_told_as_they_are_understood(client):
    asked = [
        {"metric": "boot.total", "text": "1:45"},
        {"metric": "memory.used", "text": "1.18 GiB"},
        {"metric": "package.count", "text": "1842"},
        {"metric": "boot.total", "text": "soon"},
        {"metric": "boot.nothing", "text": "1 s"},
    ]
    found = client.post("/api/by-hand/amounts", json={"figures": asked}).json()
    assert [one["shown"] for one in found[:3]] == ["105 s", "1.18 GiB", "1,842"]
    assert [one["resolution"] for one in found[:3]] == [1.0, pytest.approx(0.01 * 2**30), None]
    assert all(one["error"] for one in found[3:])


def test_what_a_person_cannot_operate_is_said(client):
    system = client.post("/api/systems", json={"name": "Varrow 12"}).json()["id"]
    machine = client.post("/api/machines/ladder", json={"name": "Guest", "memories": [512]})
    place = {"system": system, "machine": machine.json()["ids"][0]}
    client.put(f"/api/systems/{system}/image", json={"image": "osterfell-base", "ready": "probe"})
    client.post("/api/installs", json=place)
    assert client.post("/api/by-hand/installs", json=place).status_code == 409


def test_marks_and_lists_are_offered(client):
    found = client.get("/api/by-hand/marks").json()
    kinds = {one["key"] for one in found["kinds"]}
    assert all(set(one["kinds"]) <= kinds for one in found["lists"])


def test_a_pasted_output_is_told_piece_by_piece_and_kept_once_agreed_to(client, bench):
    text = (DATA / "pasted" / "session.txt").read_text()
    found = client.post("/api/by-hand/paste", json={"text": text}).json()
    memory = next(one for one in found["pieces"] if one["metric"] == "memory.used")
    assert found["text"][memory["start"] : memory["end"]].startswith("Mem:")
    assert (memory["label"], memory["definition"]) == ("Idle memory", "total less available")
    assert {one["key"] for one in found["stated"]} == {"kernel", "since_boot"}
    figure = {key: memory[key] for key in ("metric", "value", "resolution", "definition")}
    stated = {one["key"]: one["value"] for one in found["stated"]}
    told = result(
        marks=[], method="typed", procedure="idle", figures=[figure], pasted=text, conditions=stated
    )
    kept = hand_in(client, told, title="Pasted").json()
    (reading,) = bench.readings.readings(kept["study"], "memory.used")
    assert (reading.value, reading.conditions["kernel"]) == (memory["value"], "6.9.3-varrow1")
    assert client.post("/api/by-hand/paste", json={"text": ""}).status_code == 422


def test_a_long_output_in_colours_is_looked_at_and_kept(client, bench):
    session, processes = (
        (DATA / "pasted" / name).read_text() for name in ("session.txt", "ps.txt")
    )
    text = f"\x1b[1m{session}\x1b[0m\n{processes}"
    found = client.post("/api/by-hand/paste", json={"text": text}).json()
    assert "memory.used" in {one["metric"] for one in found["pieces"]}
    assert "\x1b" not in found["text"]
    piece = next(one for one in found["pieces"] if one["metric"] == "memory.used")
    figure = {key: piece[key] for key in ("metric", "value", "resolution", "definition")}
    told = result(marks=[], method="typed", figures=[figure], pasted=found["text"])
    assert hand_in(client, told).status_code == 201
    hidden = result(marks=[], method="typed", figures=[figure], pasted="\x1b[1mit")
    assert hand_in(client, hidden).status_code == 422
    assert client.post("/api/by-hand/paste", json={"text": "x" * 400_001}).status_code == 422
