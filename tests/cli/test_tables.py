"""Documents as lines on a terminal."""

import pytest

from haremile.cli.tables import (
    contrast_rows,
    field_row,
    limits_text,
    machines_row,
    print_table,
    summary_row,
    total_row,
)
from haremile.core.records.units import scale_for

SECONDS = scale_for("s", 20.0)


def group(**change):
    return {
        "system": "Varrow 12",
        "machine": "Bench",
        "metric": "boot.total",
        "unit": "s",
        "conditions": {},
        "n": 10,
        "failed": 1,
        "median": 20.4,
        "max": 22.0,
        "median_interval": {"low": 20.1, "high": 20.8, "level": 0.979},
        **change,
    }


def contrast(**change):
    return {
        "a": "Varrow 12",
        "b": "Quillfern 8",
        "unit": "s",
        "n_a": 10,
        "n_b": 12,
        "median_a": 20.4,
        "median_b": 17.0,
        "shift": {"estimate": -3.4, "low": -3.9, "high": -2.9, "level": 0.95},
        "method": "studentised rank",
        "ratio": {"estimate": 0.833, "low": 0.8, "high": 0.87},
        "probability_b_lower": 0.97,
        "mann_whitney": {"method": "exact", "p": 0.00012},
        "signed_rank": None,
        "reliability": {"failed_a": 1, "runs_a": 11, "failed_b": 0, "runs_b": 12, "p": None},
        "verdict": "ahead",
        "lean": None,
        "scope": "these installs",
        "fair_start": [],
        **change,
    }


def test_limits_have_their_level_and_may_be_open():
    found = {"low": 9.1, "high": None, "level": 0.979}
    assert limits_text(found, SECONDS) == "9.1 to no limit (97.9 %)"
    assert limits_text(None, SECONDS) == "none at this n"


@pytest.mark.parametrize(
    ("change", "tail"),
    [
        ({}, ["10", "1", "20.4 s", "20.1 to 20.8 (97.9 %)"]),
        ({"n": 0}, ["0", "1", "no readings", ""]),
        ({"median": None}, ["10", "1", "timed out", "20.1 to 20.8 (97.9 %)"]),
    ],
    ids=["readings", "none", "mostly timed out"],
)
def test_a_group_is_summed_up_in_a_line(change, tail):
    assert summary_row(group(**change)) == ["Varrow 12", "Bench", "boot.total", *tail]


def test_cold_and_warm_are_told_apart():
    row = summary_row(group(conditions={"start": "warm"}))
    assert row[2] == "boot.total, warm"


def test_two_systems_are_set_side_by_side():
    rows = dict(contrast_rows(contrast()))
    assert rows["Varrow 12"] == "20.4 s (n = 10)"
    assert rows["typical difference"] == "−3.4 s, −3.9 to −2.9 (95.0 %)"
    assert rows["ratio"] == "0.833 (0.800 to 0.870)"
    assert rows["rank-sum test, exact"] == "p = 0.00012"
    assert rows["failed runs"] == "1 of 11 against 0 of 12, p undefined"
    assert rows["verdict"] == "ahead"


def test_what_is_not_known_is_left_out_or_said():
    rows = dict(contrast_rows(contrast(ratio=None, verdict=None, median_b=None)))
    assert "ratio" not in rows
    assert "verdict" not in rows
    assert rows["Quillfern 8"] == "beyond the time limit (n = 12)"


def test_a_lean_and_pairs_are_said():
    found = contrast(verdict="undecided", lean="behind", signed_rank={"method": "exact", "p": 0.03})
    rows = dict(contrast_rows(found))
    assert rows["verdict"] == "undecided, leaning to behind"
    assert rows["signed-rank test, exact"] == "p = 0.03"


def test_conditions_that_differ_stand_below_with_what_to_do():
    differs = {
        "grade": "breaks",
        "key": "medium",
        "values": ["installed", None],
        "overridden": None,
        "remedy": "measure both installed",
    }
    same = {**differs, "grade": "same"}
    allowed = {**differs, "overridden": "same disk"}
    rows = contrast_rows(contrast(fair_start=[differs, same, allowed]))
    assert rows[-2:] == [
        ("breaks", "medium: installed, not stated; measure both installed"),
        ("breaks", "medium: installed, not stated; overridden: same disk"),
    ]


def test_a_contender_of_a_field_has_its_place_and_verdict():
    lane = {"system": "Osterfell", "n": 9, "failed": 0, "median": 17.0, "standing": (2, 3)}
    pair = {"shift": {"estimate": -3.4}, "verdict": "ahead"}
    assert field_row(lane, pair, "s") == [
        "Osterfell",
        "9",
        "0",
        "17.0 s",
        "2 to 3",
        "−3.4 s",
        "ahead",
    ]
    assert field_row({**lane, "standing": (2, 2)}, None, "s")[4:] == ["2", "baseline", ""]
    assert field_row({**lane, "n": 0}, None, "s")[3] == "no readings"


def test_a_pair_over_machines_says_where_they_disagree():
    pair = {
        "a": "Varrow 12",
        "b": "Osterfell",
        "geometric_mean": 0.91,
        "interval": {"low": 0.88, "high": 0.94, "level": 0.95},
        "disagree": True,
    }
    assert machines_row(pair) == [
        "Osterfell",
        "Varrow 12",
        "0.910",
        "0.880 to 0.940 (95.0 %)",
        "machines disagree",
    ]
    assert machines_row({**pair, "interval": None, "disagree": False})[3:] == ["none", ""]


def test_a_total_has_its_parts_or_what_it_lacks():
    parts = [{"metric": "boot.total", "points": 112.3}]
    one = {
        "system": "Osterfell",
        "total": 112.3,
        "interval": {"low": 108.0, "high": 116.2, "method": "BCa"},
        "parts": parts,
        "missing": [],
    }
    assert total_row(one) == ["Osterfell", "112.3", "108.0 to 116.2 (BCa)", "boot.total 112.3"]
    lacking = {**one, "total": None, "missing": ["memory.used", "disk.used"]}
    assert total_row(lacking)[1:3] == ["none", "lacks memory.used, disk.used"]


def test_a_table_is_printed_as_wide_as_it_needs(capsys):
    print_table(["system", "n"], [["a name that is far too long for any usual terminal " * 3, "4"]])
    printed = capsys.readouterr().out
    assert "terminal a name" in printed.replace("\n", " ")
    assert "system" in printed
