import csv
import io
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from haremile.errors import ReadingsFileError
from haremile.formats.readings_csv import (
    ReadingLine,
    parse_readings,
    renamed_columns,
    write_readings,
)

HEAD = "system,machine,metric,value,unit"


def faults_of(text):
    with pytest.raises(ReadingsFileError) as caught:
        parse_readings(text.encode() if isinstance(text, str) else text)
    return caught.value


def test_required_columns_are_enough_and_units_become_canonical():
    (line,) = parse_readings(f"{HEAD}\nVarrow 12,Laptop,memory.used,300,MiB\n".encode())
    assert (line.value, line.unit, line.outcome) == (300 * 2.0**20, "B", "done")
    assert line.method == "typed"


def test_a_row_with_an_outcome_and_no_value_is_a_failed_run():
    text = f"{HEAD},outcome,reason\nV,L,boot.total,,s,failed,hung at login\n"
    (line,) = parse_readings(text.encode())
    assert line.value is None
    assert line.reason == "hung at login"


def test_conditions_times_and_order_of_columns_are_free():
    text = (
        "condition.start,value,unit,metric,machine,system,at,block\n"
        "warm,940,ms,launch.settled,L,V,2026-10-05T08:00:00+00:00,3\n"
    )
    (line,) = parse_readings(text.encode())
    assert line.conditions == {"start": "warm"}
    assert line.value == pytest.approx(0.94)
    assert line.at == datetime(2026, 10, 5, 8, tzinfo=UTC)
    assert line.block == 3


@pytest.mark.parametrize("sign", [";", "\t"])
def test_other_signs_between_cells_and_decimal_commas_are_understood(sign):
    rows = ["system,machine,metric,value,unit,block", "V,L,boot.total,COMMA,s,3"]
    text = "\ufeff" + "\n".join(row.replace(",", sign) for row in rows).replace("COMMA", "12,5")
    (line,) = parse_readings(text.encode())
    assert (line.value, line.block) == (12.5, 3)


def test_a_decimal_comma_between_commas_is_no_number():
    assert "not a number: 12,5" in str(faults_of(f'{HEAD}\nV,L,boot.total,"12,5",s\n'))


@pytest.mark.parametrize(
    ("row", "place", "says"),
    [
        ("V,L,boot.totl,1,s", (2, 3), "unknown metric: boot.totl; did you mean boot.total?"),
        ("V,L,boot.total,fast,s", (2, 4), "not a number: fast"),
        ("V,L,boot.total,nan,s", (2, 4), "not a number: nan"),
        ("V,L,boot.total,1,MiB", (2, 5), "boot.total is measured in s, not in MiB"),
        ("V,L,boot.total,1,lightyears", (2, 5), "unknown unit: lightyears; boot.total is in s"),
        ("V,L,boot.total,,s", (2, 4), "no value"),
        (",L,boot.total,1,s", (2, 1), "no system"),
        ("V,L,boot.total,1", (2, 1), "4 cells where the header has 5"),
    ],
)
def test_a_fault_is_told_by_line_and_column(row, place, says):
    fault = faults_of(f"{HEAD}\n{row}\n").faults[0]
    assert fault[:2] == place
    assert says in fault[2]


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("system,machine\n", "the column metric is missing"),
        (f"{HEAD},colour\n", "unknown column: colour"),
        (f"{HEAD},value\n", "the column value stands twice"),
        (f"{HEAD},condition.mood\n", "unknown condition: mood"),
        (HEAD, "no readings"),
        (b"\xff\xfe\x00", "not UTF-8"),
        ("", "is missing"),
        (f'{HEAD}\n"V,L', "not CSV"),
    ],
)
def test_files_of_another_shape_are_refused(text, says):
    assert says in str(faults_of(text))


def test_a_bad_file_is_refused_whole_with_one_summary_and_twenty_faults():
    rows = "\n".join(["V,L,boot.total,x,s"] * 50)
    error = faults_of(f"{HEAD}\n{rows}\nV,L,boot.total,1,s\n")
    told = str(error).splitlines()
    assert len(error.faults) == 50
    assert told[0] == "the readings file was refused whole: 50 faults"
    assert len(told) == 22
    assert told[-1] == "and 30 more"


names = st.text("abcäß, \"'12=+-@", min_size=1, max_size=9).map(str.strip).filter(bool)
lines = st.builds(
    ReadingLine,
    line=st.just(0),
    system=names,
    machine=names,
    install=st.just("") | names,
    metric=st.just("boot.total"),
    method=st.just("serial"),
    value=st.just(0.0) | st.floats(1e-18, 6e5),
    unit=st.just("s"),
    resolution=st.none() | st.just(0.01),
    run=st.none() | names,
    block=st.none() | st.integers(1, 9),
    at=st.none() | st.just(datetime(2026, 1, 2, tzinfo=UTC)),
    outcome=st.just("done"),
    reason=st.none(),
    set_aside=st.none() | names,
    step=st.none() | st.integers(1, 9),
    conditions=st.dictionaries(st.sampled_from(["start", "power"]), names),
)


@given(st.lists(lines, min_size=1, max_size=8, unique_by=repr))
def test_what_is_written_is_read_again_to_the_last_bit(written):
    found = parse_readings(write_readings(written))
    assert [replace(line, line=0) for line in found] == written


@given(st.binary(max_size=300))
def test_any_bytes_are_read_or_refused(body):
    try:
        parse_readings(body)
    except ReadingsFileError as error:
        assert error.faults


@pytest.mark.parametrize(
    ("columns", "row", "says"),
    [
        ("", "V,L,boot.total,1_7.2,s", "not a number: 1_7.2"),
        ("", "V,L,boot.total,١٧,s", "not a number"),
        ("", "V,L,boot.total,-3,s", "a negative"),
        ("", "V,L,boot.total,1e308,min", "further from 0"),
        ("", "V,L,own.x,1e61,1", "further"),
        ("", "V,L,boot.total,1e-300,s", "nearer to 0"),
        ("", "V\x00,L,boot.total,1,s", "U+0000"),
        ("", "V\u202e,L,boot.total,1,s", "U+202E"),
        ("", "V" * 201 + ",L,boot.total,1,s", "longer"),
        (",resolution", "V,L,boot.total,1,s,-0.1", "a resolution is positive"),
        (",resolution", "V,L,boot.total,1,s,0", "a resolution is positive"),
        (",block", "V,L,boot.total,1,s,99999999999", "not a whole number"),
        (",block", "V,L,boot.total,1,s," + "9" * 5000, "not a whole number"),
        (",at", "V,L,boot.total,1,s,0001-01-01T00:00:00+14:00", "no time at which"),
        (",at", "V,L,boot.total,1,s,9999-12-31T23:00:00-14:00", "no time at which"),
    ],
)
def test_what_nothing_measured_can_be_is_refused_where_it_stands(columns, row, says):
    assert says in str(faults_of(f"{HEAD}{columns}\n{row}\n"))


def test_own_metrics_may_be_negative():
    (line,) = parse_readings(f"{HEAD}\nV,L,own.celsius,-4.5,1\n".encode())
    assert line.value == -4.5


@pytest.mark.parametrize(
    ("body", "says"),
    [
        ("," * 5_000_000, "longer than 16,384 characters"),
        (",".join(f"c{n}" for n in range(1500)), "1500 columns"),
        (HEAD + "\n" * 200_003, "at most 200,000 rows are taken"),
        (HEAD + "\n" + "x" * 20_000, "longer than"),
        (HEAD + '\n"' + "x\n" * 80_000, "not CSV"),
    ],
)
def test_what_is_too_large_is_refused_at_once_with_the_limit(body, says):
    assert says in str(faults_of(body))


def test_reading_ends_after_a_thousand_faults():
    error = faults_of(f"{HEAD}\n" + "V,L,boot.total,x,s\n" * 50_000)
    assert len(error.faults) == 1000
    assert "1000 faults and perhaps more" in str(error)


def test_a_row_that_names_its_run_cannot_be_there_twice():
    row = "V,L,boot.total,1,s,7\n"
    error = faults_of(f"{HEAD},run\n{row}V,L,boot.total,1,s,8\n{row}")
    assert error.faults == ((4, 1, "the same as line 2, cell by cell"),)
    alike = f"{HEAD}\n" + "V,L,boot.total,1,s\n" * 2
    assert len(parse_readings(alike.encode())) == 2, "without a name they may be repeats"


@pytest.mark.parametrize("text", ["=1+1", "+x", "-x", "@x", "'=x", "'x", "''", "'"])
def test_no_cell_is_a_formula_and_all_come_back(text):
    line = ReadingLine(
        0,
        text,
        "L",
        "",
        "boot.total",
        "typed",
        1.0,
        "s",
        None,
        text,
        None,
        None,
        "done",
        None,
        text,
        conditions={"kernel": text},
    )
    written = write_readings([line])
    for cell in next(csv.reader(io.StringIO(written.decode().splitlines()[1]))):
        assert cell[:1] not in tuple("=+-@")
    assert [replace(one, line=0) for one in parse_readings(written)] == [line]


def test_progress_is_told_as_rows_are_read():
    said = []
    body = f"{HEAD}\n" + "".join(f"V,L,boot.total,{n}.5,s\n" for n in range(10_000))
    assert len(parse_readings(body.encode(), said.append)) == 10_000
    assert said == [5000, 10_000]


def test_without_a_stated_resolution_the_last_place_written_is_the_step():
    body = (
        b"system,machine,metric,value,unit\n"
        b"A,M,boot.total,12.3,s\nA,M,boot.total,12,s\nA,M,boot.total,61,s\n"
        b"A,M,memory.used,505,MiB\nA,M,memory.used,0.49,GiB\n"
        b"A,M,package.count,311,1\nA,M,own.pages,7,1\n"
    )
    steps = [line.resolution for line in parse_readings(body)]
    assert steps == [
        pytest.approx(0.1),
        pytest.approx(0.1),
        pytest.approx(0.1),
        2**20,
        pytest.approx(0.01 * 2**30),
        None,
        1.0,
    ]


def test_a_stated_resolution_stands_and_none_stays_none():
    body = (
        b"system,machine,metric,value,unit,resolution\n"
        b"A,M,boot.total,12.3,s,0.5\nA,M,boot.total,12,s,\n"
    )
    assert [line.resolution for line in parse_readings(body)] == [0.5, None]
    again = parse_readings(write_readings(parse_readings(body)))
    assert [line.resolution for line in again] == [0.5, None]


def test_columns_may_be_called_as_people_call_them():
    head = b"Distro;Host;Measurement;Result;Units;Set aside;Block\n"
    body = head + b"Varrow 12;Laptop;boot.total;17,3;s;a lorry;2\n"
    (line,) = parse_readings(body)
    assert (line.system, line.machine, line.metric) == ("Varrow 12", "Laptop", "boot.total")
    assert (line.value, line.set_aside, line.block) == (17.3, "a lorry", 2)
    assert renamed_columns(body) == {
        "Distro": "system",
        "Host": "machine",
        "Measurement": "metric",
        "Result": "value",
        "Units": "unit",
    }


def test_a_column_that_is_ours_already_is_not_taken_for_another():
    body = b"system,machine,metric,value,unit,host\nA,M,boot.total,1,s,x\n"
    with pytest.raises(ReadingsFileError, match="unknown column: host"):
        parse_readings(body)
    assert renamed_columns(b"system,machine,metric,value,unit\n") == {}


def test_the_template_that_the_pages_hand_out_is_a_readings_file():
    source = (Path(__file__).parents[2] / "web/src/format/template.ts").read_text()
    body = source.partition("`")[2].rpartition("`")[0].encode()
    assert len(parse_readings(body)) == 4


def test_calculated_values_tell_no_step():
    body = f"system,machine,metric,value,unit\nA,M,boot.total,{17 / 3},s\nA,M,boot.total,12,s\n"
    assert [line.resolution for line in parse_readings(body.encode())] == [None, None]
