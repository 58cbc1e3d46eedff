"""Tables as people have them, read by what a person says of their columns."""

import pytest

from haremile.errors import BadInputError, ReadingsFileError
from haremile.formats.column_map import ColumnMap, Measure, columns_of, map_text, parse_mapped
from haremile.formats.readings_csv import is_understood

WIDE = (
    b"Distro;Boot time (s);RAM MiB;Remark\n"
    b"Varrow 12;21,4;512;first\n"
    b"Varrow 12;20,9;;\n"
    b"Quillfern 8;18,2;498;\n"
)


def told(lines):
    return [(one.line, one.system, one.machine, one.metric, one.value, one.unit) for one in lines]


def test_the_columns_of_a_table_are_shown_with_what_they_seem_to_mean():
    found = columns_of(WIDE)
    assert found.header == ("Distro", "Boot time (s)", "RAM MiB", "Remark")
    assert found.rows[1] == ("Varrow 12", "20,9", "", "")
    assert found.guess.columns == {"Distro": "system"}
    assert found.guess.measures == {
        "Boot time (s)": Measure("boot.total", "s"),
        "RAM MiB": Measure("memory.used", "MiB"),
    }
    assert found.missing == ("machine",)
    assert not is_understood(WIDE)


def test_a_column_for_each_measure_gives_a_reading_for_each_cell_that_is_filled():
    guess = columns_of(WIDE).guess
    meant = ColumnMap(guess.columns, guess.measures, {"machine": "Herbarium laptop"})
    lines = parse_mapped(WIDE, meant)
    mib = 2**20
    assert [(one.system, one.metric, one.value) for one in lines] == [
        ("Varrow 12", "boot.total", 21.4),
        ("Varrow 12", "memory.used", 512 * mib),
        ("Varrow 12", "boot.total", 20.9),
        ("Quillfern 8", "boot.total", 18.2),
        ("Quillfern 8", "memory.used", 498 * mib),
    ]
    assert {one.machine for one in lines} == {"Herbarium laptop"}
    assert [one.resolution for one in lines][:2] == [pytest.approx(0.1), mib]


def test_a_long_table_with_other_words_and_units():
    body = b"what;where;sec;kind\nVarrow 12;Board;1.5;Sek\n"
    meant = ColumnMap(
        columns={"what": "system", "where": "machine", "sec": "value", "kind": "unit"},
        fixed={"metric": "boot.total"},
        units={"Sek": "s"},
    )
    (line,) = parse_mapped(body, meant)
    assert (line.system, line.machine, line.value, line.unit) == ("Varrow 12", "Board", 1.5, "s")
    assert "the unit Sek is s" in map_text(meant)


def test_faults_name_the_line_of_the_file_as_it_came():
    body = WIDE.replace(b"498", b"many")
    guess = columns_of(body).guess
    meant = ColumnMap(guess.columns, guess.measures, {"machine": "Board"})
    with pytest.raises(ReadingsFileError) as refused:
        parse_mapped(body, meant)
    assert [(line, what) for line, _, what in refused.value.faults] == [(4, "not a number: many")]


@pytest.mark.parametrize(
    ("meant", "says"),
    [
        (ColumnMap({"Distro": "system"}), "still to be said: machine, metric, value, unit"),
        (ColumnMap({"Nothing": "system"}), "no column Nothing"),
        (ColumnMap({"Distro": "colour"}), "no column of a readings file: colour"),
        (ColumnMap({"Distro": "system", "Remark": "system"}), "system is given twice"),
        (
            ColumnMap({"Distro": "system"}, {"RAM MiB": Measure("memory.used", "s")}),
            "memory.used is measured in B",
        ),
        (ColumnMap({"Distro": "system"}, {"RAM MiB": Measure("nothing", "s")}), "unknown metric"),
        (ColumnMap({"Distro": "system"}, units={"x": "parsec"}), "unknown unit"),
        (
            ColumnMap(
                {"Distro": "system"}, {"RAM MiB": Measure("memory.used", "MiB")}, {"unit": "s"}
            ),
            "unit is given by the columns of measures already",
        ),
    ],
)
def test_a_map_that_does_not_fit_is_refused_in_words(meant, says):
    with pytest.raises(BadInputError, match=says):
        parse_mapped(WIDE, meant)


def test_a_map_is_kept_as_a_document_and_read_again():
    meant = ColumnMap(
        {"a": "system"}, {"b": Measure("boot.total", "s")}, {"machine": "M"}, {"x": "s"}
    )
    assert ColumnMap.of(meant.as_document()) == meant
