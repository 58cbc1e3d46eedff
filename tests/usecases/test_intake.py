"""Files from machines become runs of a study."""

import json
from dataclasses import replace
from uuid import uuid4

import psycopg
import pytest

from haremile.core.records.study import RunState, entrants
from haremile.errors import BadInputError, CaptureConflictError
from haremile.usecases.compare import study_findings
from haremile.usecases.intake import NEW_CONTENDER
from haremile.usecases.plan import checked_plan
from haremile_probe.wire import Capture, CaptureReading, CaptureTrace, Evidence, dump_capture
from helpers import DATA, install

SYSTEMS = ("Varrow 12 Thistlow", "Varrow 12 Tarnwick")


def capture(system=SYSTEMS[0], asked="idle", value=400.0, **change):
    made = Capture(
        id=str(uuid4()),
        made_at="2026-10-05T08:00:00+00:00",
        probe="0",
        asked=asked,
        machine="Laptop",
        system=system,
        outcome="done",
        conditions={"cores": "2"},
        readings=[CaptureReading("memory.used", value, "MiB", "probe", 1.0)],
        traces=[CaptureTrace("memory.used", "B", [1.0, 2.0], [5.0, 4.0])],
    )
    return replace(made, **change)


def files(*captures):
    return [(f"{n}.json", dump_capture(one)) for n, one in enumerate(captures)]


@pytest.fixture
def intake(bench):
    return bench.intake_here()


@pytest.fixture
def study(bench):
    installs = [install(system, "Laptop", None) for system in SYSTEMS]
    return bench.studies.create(replace(checked_plan("Which?", installs, 1, 0), procedures=()))


def runs(bench, study):
    return [(r.lane_no, r.block, r.procedure, r.state) for r in bench.studies.runs(study.id)]


def test_a_preview_says_what_was_recognised_and_keeps_nothing(bench, intake, study):
    stray = capture("Marlstone 26.1")
    first, second = intake.preview(study.id, files(capture(), stray))
    assert (first.asked, first.lane_no, first.readings, first.is_known) == ("idle", 1, 1, False)
    assert second.lane_no is None
    assert runs(bench, study) == []
    assert bench.readings.readings(study.id) == []


def test_captures_go_into_their_contenders_next_free_blocks(bench, intake, study):
    taken = files(capture(value=400), capture(value=410), capture(SYSTEMS[1], value=300))
    assert intake.take_in(study.id, taken).taken == 3
    intake.take_in(study.id, files(capture(SYSTEMS[1], value=310)))
    assert sorted(runs(bench, study)) == [
        (lane, block, "idle", RunState.DONE) for lane in (1, 2) for block in (1, 2)
    ]
    found = bench.readings.readings(study.id)
    assert {(r.lane_no, r.block): r.value / 2**20 for r in found} == {
        (1, 1): 400,
        (1, 2): 410,
        (2, 1): 300,
        (2, 2): 310,
    }
    assert {r.resolution for r in found} == {2.0**20}
    assert study_findings(bench.studies, bench.readings, study.id).rows[0].metric == "memory.used"


def test_the_same_file_again_changes_nothing_and_other_bytes_are_refused(bench, intake, study):
    one = capture()
    intake.take_in(study.id, files(one))
    again = intake.take_in(study.id, files(one))
    assert (again.taken, again.known) == (0, 1)
    assert intake.preview(study.id, files(one))[0].is_known
    with pytest.raises(CaptureConflictError, match="other bytes"):
        intake.take_in(study.id, files(capture(value=1.0), replace(one, machine="laptop")))
    assert len(bench.readings.readings(study.id)) == 1
    with pytest.raises(CaptureConflictError, match="twice"):
        intake.preview(study.id, files(one, replace(one, machine="laptop")))


def test_a_capture_that_fits_nobody_waits_for_a_choice_and_nothing_is_kept_before(
    bench, intake, study
):
    stray = files(capture(), capture("Marlstone 26.1"))
    with pytest.raises(BadInputError, match=r"Marlstone 26.1 on Laptop is none of the contenders"):
        intake.take_in(study.id, stray)
    assert bench.readings.readings(study.id) == []
    with pytest.raises(BadInputError, match="no contender 7"):
        intake.take_in(study.id, stray, {1: 7})
    intake.take_in(study.id, stray, {1: 2})
    assert sorted(run[0] for run in runs(bench, study)) == [1, 2]


def test_one_faulty_file_keeps_all_out_and_each_fault_is_named(bench, intake, study):
    bad = [("a.json", b"{}"), ("b.csv", b"x"), *files(capture())]
    with pytest.raises(BadInputError, match="nothing was taken in") as refused:
        intake.take_in(study.id, bad)
    assert "a.json: " in str(refused.value)
    assert "b.csv: " in str(refused.value)
    assert bench.readings.readings(study.id) == []


def test_a_planned_run_is_filled_by_what_was_measured_by_hand(bench, intake):
    installs = [install(system, "Laptop", None) for system in SYSTEMS]
    plan = replace(checked_plan("Which?", installs, 2, 0), procedures=("idle",))
    study = bench.studies.create(plan)
    intake.take_in(study.id, files(capture(), capture(SYSTEMS[1])))
    states = {run[:2]: run[3] for run in runs(bench, study)}
    assert states == {
        (1, 1): RunState.DONE,
        (2, 1): RunState.DONE,
        (1, 2): RunState.PLANNED,
        (2, 2): RunState.PLANNED,
    }


def launches(start="warm", app="inkwarren"):
    text = (DATA / "launches" / "one-did-not-settle.txt").read_text()
    notes = json.loads(text)["launches"]
    readings = [
        CaptureReading("launch.settled", note["settled_s"], "s", "probe", None, step)
        for step, note in enumerate(notes)
        if note["measured"]
    ]
    return capture(
        asked="launch",
        readings=readings,
        traces=[],
        evidence=[Evidence("launches", text)],
        conditions={"start": start, "app": app},
    )


def test_every_launch_is_a_run_and_one_that_did_not_settle_stays_as_a_failed_one(
    bench, intake, study
):
    intake.take_in(study.id, files(launches()))
    found = bench.studies.runs(study.id)
    assert [run.state for run in found] == [RunState.DONE, RunState.DONE, RunState.FAILED]
    assert {run.block for run in found} == {1}
    assert found[2].reason.startswith("timed out")
    assert len(bench.readings.readings(study.id)) == 2


def test_starts_and_applications_are_rows_of_their_own(bench, intake, study):
    for start, app in (("warm", "inkwarren"), ("warm", "coppicer"), ("cache-dropped", "coppicer")):
        intake.take_in(study.id, files(launches(start, app)))
    labels = [
        (row.label, row.start)
        for row in study_findings(bench.studies, bench.readings, study.id).rows
    ]
    assert sorted(labels) == [
        ("To a settled window, coppicer", "cache-dropped"),
        ("To a settled window, coppicer", "warm"),
        ("To a settled window, inkwarren", "warm"),
    ]
    assert {run.block for run in bench.studies.runs(study.id)} == {1}


def test_readings_at_an_instant_are_a_row_beside_the_settled_ones(bench, intake, study):
    at = CaptureReading(
        "memory.used", 450.0, "MiB", "probe", 1.0, 60, {"settle_rule": "at 60 s since boot"}
    )
    for system in SYSTEMS:
        one = capture(system)
        intake.take_in(study.id, files(replace(one, readings=[*one.readings, at])))
    rows = study_findings(bench.studies, bench.readings, study.id).rows
    assert [row.label for row in rows] == ["Idle memory", "Idle memory, at 60 s since boot"]
    assert all(lane.summary.n == 1 for row in rows for lane in row.lanes)


def test_what_a_machine_says_of_itself_is_kept_as_evidence_and_noted(bench, intake, study):
    facts = json.dumps({"root": {"storage": "SSD"}})
    about = capture(asked="about", readings=[], traces=[], evidence=[Evidence("facts", facts)])
    assert intake.take_in(study.id, files(about)).taken == 1
    assert bench.studies.runs(study.id) == []
    contender = bench.studies.get(study.id).contenders[0]
    assert contender.install.machine.facts == {"cores": "2", "storage": "SSD"}


def test_captures_of_two_systems_make_a_study(bench, intake):
    result = intake.new_study("Which is lighter?", files(capture(), capture(SYSTEMS[1])))
    assert [c.label for c in result.study.contenders] == list(SYSTEMS)
    assert result.taken == 2
    assert len(bench.readings.readings(result.study.id)) == 2


def test_captures_of_one_system_make_a_study_that_compares_nothing(bench, intake):
    study = intake.new_study("What is it like?", files(capture())).study
    (row,) = study_findings(bench.studies, bench.readings, study.id).rows
    assert row.verdict_text == "one contender"
    assert row.pairs == ()
    assert row.sentence.startswith(f"{SYSTEMS[0]}: typically ")
    assert row.sentence.endswith("One contender, so nothing is compared.")


def test_a_readings_file_goes_into_a_study_of_its_contenders_only(bench, intake, study):
    head = "system,machine,metric,value,unit\n"
    good = ("r.csv", f"{head}{SYSTEMS[0]},Laptop,boot.total,17,s\n".encode())
    bad = ("x.csv", f"{head}Marlstone 26.1,Laptop,boot.total,17,s\n".encode())
    assert intake.preview(study.id, [good])[0].asked == "readings"
    with pytest.raises(BadInputError, match="takes no part"):
        intake.take_in(study.id, [good, bad])
    assert bench.studies.runs(study.id) == []
    assert intake.take_in(study.id, [good]).taken == 1


def test_the_curve_is_kept_with_its_run(bench, intake, study, throwaway_url):
    intake.take_in(study.id, files(capture()))
    with psycopg.connect(throwaway_url) as link:
        (found,) = link.execute("select metric, times_s, values from trace").fetchall()
    assert found == ("memory.used", [1.0, 2.0], [5.0, 4.0])


def test_the_same_file_made_into_a_second_study_is_noticed(intake):
    rows = [f"{system},Laptop,boot.total,2{i},s" for system in SYSTEMS for i in range(6)]
    body = "\n".join(["system,machine,metric,value,unit", *rows]).encode()
    first = intake.new_study("Which one?", [("a.csv", body)])
    assert not any("already" in note for note in first.notes)
    second = intake.new_study("Again?", [("b.csv", body)])
    assert "this very file is in the study “Which one?” already" in second.notes[0]


def test_who_takes_no_part_may_join_and_is_marked(bench, intake, study):
    head = "system,machine,metric,value,unit\n"
    rows = "".join(f"Marlstone 26.1,Laptop,boot.total,{20 + i / 10},s\n" for i in range(8))
    late = ("late.csv", f"{head}{rows}".encode())
    (item,) = intake.preview(study.id, [late])
    assert item.strangers == ("Marlstone 26.1 on Laptop",)
    with pytest.raises(BadInputError, match="let it join"):
        intake.take_in(study.id, [late])
    joined = intake.take_in(study.id, [late], {0: NEW_CONTENDER}).study
    assert [one.label for one in joined.contenders][-1].startswith("Marlstone 26.1")
    assert joined.contenders[-1].label.endswith("(joined after)")
    assert len(joined.contenders) == len(study.contenders) + 1
    names = [entrant.name for entrant in entrants(joined.contenders).values()]
    assert names[-1] == "Marlstone 26.1 (joined after)", "sentences and pictures say it too"
    values = [r for r in bench.readings.readings(study.id) if r.lane_no == len(joined.contenders)]
    assert len(values) == 8
    assert intake.preview(study.id, [late])[0].strangers == ()


def test_a_capture_of_a_stranger_joins_only_where_that_is_chosen(bench, intake, study):
    stray = files(capture("Marlstone 26.1"))
    assert intake.preview(study.id, stray)[0].strangers == ("Marlstone 26.1 on Laptop",)
    with pytest.raises(BadInputError, match="none of the contenders"):
        intake.take_in(study.id, stray)
    assert len(bench.studies.get(study.id).contenders) == len(study.contenders)
    joined = intake.take_in(study.id, stray, {0: NEW_CONTENDER})
    assert joined.taken == 1
    assert joined.study.contenders[-1].install.system.name == "Marlstone 26.1"
