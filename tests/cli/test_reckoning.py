import json
import os
import subprocess
import sys

import pytest

from haremile.demo.load import readings_file
from haremile.demo.world import HERBARIUM

A, B = "Varrow 12 Tarnwick", "Quillfern 9-rc Tarnwick"


@pytest.fixture
def file(tmp_path):
    made = tmp_path / "herbarium.csv"
    made.write_bytes(readings_file(HERBARIUM))
    return str(made)


def haremile(*words):
    """The verbs start no database: its address would be refused."""
    environment = {
        **os.environ, "DATABASE_URL": "none://at.all", "PYTHONPATH": os.pathsep.join(sys.path),
        "COLUMNS": "160",
    }  # fmt: skip
    return subprocess.run(
        [sys.executable, "-m", "haremile", *words], capture_output=True, text=True, check=False,
        env=environment,
    )  # fmt: skip


def refuse_constants(text):
    raise AssertionError(f"{text} is no JSON")


def document(*words):
    done = haremile(*words, "--json")
    assert done.returncode == 0, done.stderr
    return json.loads(done.stdout, parse_constant=refuse_constants)


def test_summary_holds_every_group_with_its_failures(file):
    found = document("summary", file, "--metric", "boot.total")
    assert found["format"] == "haremile-summary/1"
    groups = {group["system"]: group for group in found["groups"]}
    assert len(found["groups"]) == len(groups) == 5
    assert (groups[B]["n"], groups[B]["failed"]) == (17, 3)
    assert groups[B]["reliability"]["reasons"] == {"hung: the desktop never came": 3}
    one = groups["Varrow 12 Thistlow"]
    assert one["n"] == 19  # one is set aside
    assert one["sequence"]["first_run"]["is_unlike"]
    assert one["median_interval"]["low"] < one["median"] < one["median_interval"]["high"]
    assert one["conditions"]["medium"] == "installed"


def test_cold_and_warm_are_groups_of_their_own(file):
    found = document("summary", file, "--metric", "launch.settled")
    starts = {group["conditions"]["start"] for group in found["groups"]}
    assert starts == {"warm", "first-after-boot"}


def test_compare_says_b_against_a(file):
    words = ["compare", file, "--metric", "boot.total", "--between"]
    there = document(*words, A, B, "--margin", "0.5s")
    back = document(*words, B, A, "--margin", "0.5s")
    assert (there["verdict"], back["verdict"]) == ("behind", "ahead")
    assert there["shift"]["estimate"] == pytest.approx(-back["shift"]["estimate"])
    assert "later" in there["sentence"]
    assert "failed in 3 of 20 runs" in there["sentence"]
    graded = {d["key"]: (d["grade"], d["values"]) for d in there["fair_start"]}
    assert graded["kernel"] == ("note", ["6.12", "6.14"])
    assert graded["autologin"] == ("same", ["yes"])
    assert there["signed_rank"] is None


def test_without_a_margin_there_is_no_verdict(file):
    found = document("compare", file, "--metric", "boot.total", "--between", A, B)
    assert found["verdict"] is None
    assert found["equivalence"] is None


def test_pairs_by_block_use_the_signed_rank(file):
    words = ["compare", file, "--metric", "memory.used", "--between", A, B, "--paired-by", "block"]
    found = document(*words, "--margin", "15MiB")
    assert found["signed_rank"]["n_used"] == 17
    assert found["verdict"] == "ahead"


def test_tables_carry_the_same_facts_and_a_sentence(file):
    table = haremile("summary", file, "--metric", "boot.total")
    assert "5 groups" in table.stdout
    words = ["compare", file, "--metric", "boot.total", "--between", A, B, "--margin", "0.5s"]
    plain = haremile(*words)
    assert "typically 3.9 s later" in plain.stdout
    assert "behind" in plain.stdout


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["summary", "--metric", "boot.totl"], "unknown metric: boot.totl"),
        (["summary", "--metric", "rate.mem_read"], "no readings of rate.mem_read"),
        (["compare", "--metric", "boot.total", "--between", A, "Nobody"], "Nobody has no readings"),
        (["compare", "--metric", "launch.settled", "--between", A, B], "more than one start"),
        (["compare", "--metric", "boot.total", "--between", A, B, "--margin", "3MiB"], "not in B"),
        (["compare", "--metric", "boot.total", "--between", A, B, "--margin", "some"], "amount"),
        (["compare", "--metric", "boot.total", "--between", A, B, "--paired-by", "x"], "by block"),
    ],
)
def test_bad_input_exits_2_and_says_what(file, words, says):
    done = haremile(words[0], file, *words[1:])
    assert done.returncode == 2
    assert says in done.stderr
    assert done.stdout == ""


def test_a_field_judges_all_pairs_and_any_baseline_gives_the_same_verdicts(file):
    words = ["field", file, "--metric", "boot.total", "--margin", "0.5s"]
    found = document(*words)
    assert (found["verdict"], found["leader"], found["pairs_in_family"]) == ("ahead", A, 10)
    places = {lane["system"]: lane["standing"] for lane in found["lanes"]}
    assert places[A] == [1, 1]
    assert places["Marlstone 26.1 Mossgate"] == [5, 5]
    assert places[B][0] < places[B][1]  # its two humps leave its place open
    other = document(*words, "--baseline", B)
    there = next(
        pair for pair in found["pairs"] if (pair["a"], pair["b"]) == (found["baseline"], B)
    )
    back = next(pair for pair in other["pairs"] if pair["b"] == found["baseline"])
    mirror = {"ahead": "behind", "behind": "ahead", "open": "open", "level": "level"}
    assert back["verdict"] == mirror[there["verdict"]]
    assert "Varrow 12 Tarnwick is ahead of every other" in haremile(*words).stdout
    assert "no contender Nobody" in haremile(*words, "--baseline", "Nobody").stderr


def test_a_plan_says_how_many_repeats_or_never():
    words = ["plan", "--spread", "0.4s", "--margin", "500ms"]
    found = document(*words, "--difference", "0.8s", "--power", "0.9", "--contenders", "5")
    assert (found["aim"], found["family"]) == ("ahead", 10)
    assert found["repeats"] > 20
    assert haremile(*words, "--difference", "0.5s").stdout.startswith("Never")
    assert "20 repeats of each contender tell" in haremile(*words, "--repeats", "20").stdout
    assert document(*words, "--repeats", "3")["smallest_difference"] is None
    assert "give one of --difference, --repeats and --hours" in haremile(*words).stderr
    wrong = haremile(*words, "--difference", "3MiB")
    assert wrong.returncode == 2
    assert "one unit" in wrong.stderr
