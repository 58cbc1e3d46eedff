import pytest

from haremile.core.comparison.verdict import Verdict
from haremile.core.records.study import RunState, StudyState
from haremile.errors import BadInputError, ReadingsFileError
from haremile.formats.readings_csv import parse_readings, write_readings
from haremile.usecases.compare import study_findings
from haremile.usecases.export_readings import export_lines
from haremile.usecases.import_readings import import_study, take_in_file

HEAD = "system,machine,metric,value,unit,block,outcome,reason,set_aside,condition.start\n"


def file_of(*rows):
    return (HEAD + "\n".join(rows) + "\n").encode()


def plain(n=8):
    rows = [f"Varrow 12,Laptop,boot.total,{10 + i / 10},s,{i + 1},,,," for i in range(n)]
    rows += [f"Quillfern 8,Laptop,boot.total,{14 + i / 10},s,{i + 1},,,," for i in range(n)]
    return file_of(*rows)


def taken(bench, body, title="Which?"):
    return import_study(bench.studies, bench.readings, title, body)


def test_a_file_becomes_a_finished_study_with_findings(bench):
    study = taken(bench, plain())
    assert study.state is StudyState.DONE
    assert study.blocks == 8
    (row,) = study_findings(bench.studies, bench.readings, study.id).rows
    assert row.verdict is Verdict.AHEAD
    assert "Varrow 12 is ahead of Quillfern 8" in row.sentence


def test_failed_rows_are_failed_runs_and_set_aside_stays_visible(bench):
    study = taken(
        bench,
        file_of(
            "V,L,boot.total,10,s,1,,,the lid was closed,",
            "V,L,boot.total,,s,2,failed,hung,,",
            "Q,L,boot.total,12,s,1,,,,",
            "Q,L,boot.total,13,s,2,,,,",
        ),
    )
    runs = bench.studies.runs(study.id)
    assert [run.reason for run in runs if run.state is RunState.FAILED] == ["hung"]
    aside = [r.set_aside for r in bench.readings.readings(study.id) if r.set_aside]
    assert aside == ["the lid was closed"]


def test_the_same_file_twice_changes_nothing(bench):
    study = taken(bench, plain())
    before = bench.readings.readings(study.id)
    assert not take_in_file(bench.readings, study, plain())
    assert bench.readings.readings(study.id) == before


def test_rows_without_blocks_are_repeats_in_their_order(bench):
    rows = [f"{s},L,boot.total,{v},s,,,,," for v in (5, 6, 7) for s in ("V", "Q")]
    study = taken(bench, file_of(*rows))
    values = [(r.block, r.value) for r in bench.readings.readings(study.id) if r.lane_no == 1]
    assert values == [(1, 5.0), (2, 6.0), (3, 7.0)]


def test_start_conditions_make_runs_of_their_own(bench):
    rows = [
        f"{s},L,launch.settled,{v},s,1,,,,{start}"
        for s in ("V", "Q")
        for v, start in ((3.0, "first-after-boot"), (0.9, "warm"))
    ]
    study = taken(bench, file_of(*rows))
    assert len(bench.studies.runs(study.id)) == 4
    found = study_findings(bench.studies, bench.readings, study.id)
    assert [row.start for row in found.rows] == ["first-after-boot", "warm"]


def test_what_goes_out_comes_in_again_the_same(bench):
    first = taken(bench, plain())
    lines = export_lines(first, bench.readings.readings(first.id), bench.studies.runs(first.id))
    second = taken(bench, write_readings(lines), "Again?")
    values = [
        [(r.block, r.lane_no, r.value) for r in bench.readings.readings(study.id)]
        for study in (first, second)
    ]
    assert values[0] == values[1]


def test_nothing_of_a_bad_file_is_kept(bench):
    with pytest.raises(ReadingsFileError):
        taken(bench, plain() + b"V,L,boot.total,fast,s,9,,,,\n")
    assert bench.studies.digests() == []


def test_strangers_are_refused_by_line(bench):
    study = taken(bench, plain())
    with pytest.raises(BadInputError, match="line 2: Other on Laptop takes no part"):
        take_in_file(bench.readings, study, file_of("Other,Laptop,boot.total,1,s,1,,,,"))


def test_an_export_comes_back_equal_in_every_field(bench):
    """Every procedure, with conditions, failed runs, steps and readings set aside."""
    head = (
        "system,machine,metric,value,unit,procedure,method,resolution,run,block,at,outcome,reason"
    )
    rows = [
        f"{system},Laptop,{metric},{value},{unit},{procedure},probe,,{procedure} {block},{block},"
        f"2026-10-05T08:0{block}:00+00:00,{outcome},{reason},{aside},{start},{step}"
        for system in ("Varrow 12", "Quillfern 8")
        for procedure, metric, value, unit, start in (
            ("boot", "boot.total", 17.5, "s", ""),
            ("idle", "memory.used", 3e8, "B", ""),
            ("footprint", "disk.used", 4e9, "B", ""),
            ("launch", "launch.settled", 1.5, "s", "warm"),
        )
        for block, outcome, reason, aside, step in (
            (1, "done", "", "", ""),
            (1, "done", "", "a lorry", "3"),
            (2, "failed", "=hung", "", ""),
        )
        for value in ([value + block] if outcome == "done" else [""])
    ]
    body = "\n".join([f"{head},set_aside,condition.start,step", *rows]) + "\n"
    study = taken(bench, body.encode())
    first = exported(bench, study)
    again = exported(bench, taken(bench, write_readings(first), "Again?"))
    assert again == first
    failed = [line for line in first if line.outcome == "failed"]
    assert {(line.procedure, line.metric) for line in failed} == {
        ("boot", "boot.total"),
        ("idle", "memory.used"),
        ("footprint", "disk.used"),
        ("launch", "launch.settled"),
    }
    assert {line.set_aside for line in first} == {None, "a lorry"}
    states = {run.procedure: run.state for run in bench.studies.runs(study.id) if run.block == 2}
    assert set(states) == {"boot", "idle", "footprint", "launch"}


def exported(bench, study):
    lines = export_lines(study, bench.readings.readings(study.id), bench.studies.runs(study.id))
    return parse_readings(write_readings(lines))


def test_a_second_file_without_blocks_adds_to_what_is_there(bench):
    rows = "system,machine,metric,value,unit\n" + "".join(
        f"Varrow 12,Laptop,boot.total,{value},s\n" for value in (10, 11, 12)
    )
    study = taken(bench, rows.encode())
    more = rows.replace(",1", ",2")
    assert take_in_file(bench.readings, study, more.encode())
    found = [(one.block, one.value) for one in bench.readings.readings(study.id)]
    assert found == [(1, 10), (2, 11), (3, 12), (4, 20), (5, 21), (6, 22)]
    assert bench.studies.get(study.id).blocks == 6
