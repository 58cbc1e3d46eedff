from dataclasses import replace
from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from haremile.errors import ReadingsFileError
from haremile.formats.readings_csv import ReadingLine, parse_readings, write_readings

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


@pytest.mark.parametrize(
    ("row", "place", "says"),
    [
        ("V,L,boot.totl,1,s", (2, 3), "unknown metric: boot.totl"),
        ("V,L,boot.total,fast,s", (2, 4), "not a number: fast"),
        ("V,L,boot.total,nan,s", (2, 4), "not a number: nan"),
        ("V,L,boot.total,1,MiB", (2, 5), "boot.total is measured in s, not in MiB"),
        ("V,L,boot.total,1,lightyears", (2, 5), "unknown unit: lightyears"),
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
    line=st.just(0), system=names, machine=names, install=st.just("") | names,
    metric=st.just("boot.total"), method=st.just("serial"),
    value=st.just(0.0) | st.floats(1e-18, 1e9), unit=st.just("s"),
    resolution=st.none() | st.just(0.01), run=st.none() | names,
    block=st.none() | st.integers(1, 9),
    at=st.none() | st.just(datetime(2026, 1, 2, tzinfo=UTC)), outcome=st.just("done"),
    reason=st.none(), set_aside=st.none() | names,
    step=st.none() | st.integers(1, 9),
    conditions=st.dictionaries(st.sampled_from(["start", "power"]), names),
)  # fmt: skip


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
