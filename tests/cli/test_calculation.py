import contextlib
import io
import json
import os
import signal
import subprocess
import sys
from unittest import mock

import pytest

from haremile.cli.main import main
from haremile.demo.load import readings_file
from haremile.demo.world import HERBARIUM

A, B = "Varrow 12 Tarnwick", "Quillfern 9-rc Tarnwick"


@pytest.fixture
def file(tmp_path):
    made = tmp_path / "herbarium.csv"
    made.write_bytes(readings_file(HERBARIUM))
    return str(made)


def haremile(*words):
    """The command line in this process: starting anew for each would take most of the time."""
    out, err = io.StringIO(), io.StringIO()
    kept = [signal.getsignal(one) for one in (signal.SIGINT, signal.SIGTERM)]
    code = 0
    with (
        mock.patch.object(sys, "argv", ["haremile", *words]),
        mock.patch.dict(os.environ, {"DATABASE_URL": "none://at.all", "COLUMNS": "160"}),
        contextlib.redirect_stdout(out),
        contextlib.redirect_stderr(err),
    ):
        try:
            main()
        except SystemExit as end:
            code = end.code or 0
    for one, handler in zip((signal.SIGINT, signal.SIGTERM), kept, strict=True):
        signal.signal(one, handler)
    return subprocess.CompletedProcess(words, code, out.getvalue(), err.getvalue())


def test_the_verbs_start_no_database(file):
    """As a process of its own, whose database address would be refused."""
    environment = {
        **os.environ,
        "DATABASE_URL": "none://at.all",
        "PYTHONPATH": os.pathsep.join(sys.path),
    }
    done = subprocess.run(
        [sys.executable, "-m", "haremile", "summary", file, "--metric", "boot.total"],
        capture_output=True,
        text=True,
        check=False,
        env=environment,
    )
    assert done.returncode == 0, done.stderr
    assert "5 groups" in done.stdout


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
    assert one["p90_interval"]["low"] <= one["p90"] <= one["p90_interval"]["high"]


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
        (
            ["compare", "--metric", "boot.total", "--between", "A", "A"],
            "A is compared with itself",
        ),
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
    mirror = {"ahead": "behind", "behind": "ahead", "undecided": "undecided", "level": "level"}
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


HEAD = "system,machine,metric,value,unit"
HERE = "Bench,boot.total"


def written(tmp_path, rows, columns=""):
    made = tmp_path / "made.csv"
    made.write_text("\n".join([HEAD + columns, *rows]) + "\n")
    return str(made)


def boots(system, start, n=8, machine="Bench"):
    return [f"{system},{machine},boot.total,{start + i / 10},s" for i in range(n)]


def test_runs_that_timed_out_count_in_ranks_and_medians(tmp_path):
    rows = [row + ",," for row in boots("A", 10) + boots("B", 10)]
    rows += [f"B,{HERE},,s,timed-out,no login within 180 s"] * 12
    found = document("summary", written(tmp_path, rows, ",outcome,reason"))
    late = next(group for group in found["groups"] if group["system"] == "B")
    assert (late["n"], late["timed_out"], late["failed"], late["median"]) == (8, 12, 12, None)
    assert late["mean"] == pytest.approx(10.35)
    words = ["compare", written(tmp_path, rows, ",outcome,reason"), "--metric", "boot.total"]
    pair = document(*words, "--between", "A", "B", "--margin", "0.5s")
    assert (pair["n_a"], pair["n_b"], pair["median_b"]) == (8, 20, None)
    assert pair["shift"]["high"] is None
    assert pair["welch"]["t"] is None
    assert "failed in 12 of 20 runs" in pair["sentence"]
    assert "beyond the time limit" in haremile(*words, "--between", "A", "B").stdout


def test_a_group_in_which_nothing_counts_has_nulls(tmp_path):
    rows = [f"A,{HERE},,s,failed", f"B,{HERE},10,s,"]
    found = document("summary", written(tmp_path, rows, ",outcome"))["groups"]
    empty = next(group for group in found if group["n"] == 0)
    other = next(group for group in found if group["n"] == 1)
    assert set(empty) == set(other)
    assert empty["median"] is None
    assert empty["median_interval"] is None
    assert other["p90_interval"] is None


def test_a_failed_run_counts_with_the_lane_that_it_does_not_contradict(tmp_path):
    rows = [f"{row},,{medium}" for medium in ("live", "installed") for row in boots("A", 10)]
    rows += [f"A,{HERE},,s,failed,", f"A,{HERE},,s,failed,live"]
    made = written(tmp_path, rows, ",outcome,condition.medium")
    groups = document("summary", made)["groups"]
    failed = {group["conditions"]["medium"]: group["failed"] for group in groups}
    assert failed == {"live": 2, "installed": 1}


def test_machines_are_pairs_of_their_own(tmp_path):
    rows = [
        row
        for k, machine in enumerate(("Herbarium laptop", "Field-kit board", "Mini PC"), 1)
        for row in boots("A", 20.0 * k, machine=machine) + boots("B", 16.1 * k, machine=machine)
    ]
    made = written(tmp_path, rows)
    words = ["compare", made, "--metric", "boot.total", "--between", "A", "B"]
    assert "more than one machine" in haremile(*words).stderr
    found = document(*words, "--paired-by", "machine", "--margin", "3%")
    assert (found["n_a"], found["machine"]) == (3, None)
    assert found["machines"]["geometric_mean"] == pytest.approx(0.807, abs=0.003)
    assert not found["machines"]["disagree"]
    assert found["repeats_needed"] == 6
    field = ["field", made, "--metric", "boot.total", "--paired-by", "machine"]
    assert document(*field)["omnibus_test"]["method"] == "Friedman"
    assert "over 3 machines" in haremile(*field).stdout


def test_several_installs_are_what_is_repeated(tmp_path):
    rows = [
        f"{row},{system}{k}"
        for system, start in (("A", 10), ("B", 14))
        for k in range(3)
        for row in boots(system, start + k / 10)
    ]
    words = ["compare", written(tmp_path, rows, ",install"), "--metric", "boot.total"]
    found = document(*words, "--between", "A", "B", "--margin", "0.5s")
    assert (found["method"], found["verdict"]) == ("install means", "behind")
    assert "3 and 3 installs" in found["scope"]
    uneven = written(tmp_path, rows[:8] + rows[24:], ",install")
    again = haremile("compare", uneven, *words[2:], "--between", "A", "B")
    assert "A has 1 and B has 3 installs" in again.stderr


def test_an_overruled_difference_is_compared_and_said(tmp_path):
    rows = [f"{row},live" for row in boots("A", 10)]
    rows += [f"{row},installed" for row in boots("B", 14)]
    words = ["compare", written(tmp_path, rows, ",condition.medium"), "--metric", "boot.total"]
    words += ["--between", "A", "B", "--margin", "0.5s"]
    refused = document(*words)
    assert (refused["verdict"], refused["lean"]) == ("not comparable", None)
    assert "measure all from the same medium" in refused["sentence"]
    found = document(*words, "--override", "medium=same SSD")
    assert found["verdict"] == "behind"
    assert "compared despite medium: live, installed (overridden: same SSD)" in found["sentence"]
    assert "written as KEY=VALUE" in haremile(*words, "--override", "medium").stderr


def test_a_share_decides_on_the_scale_of_ratios(tmp_path):
    words = ["compare", written(tmp_path, boots("A", 10) + boots("B", 10.01)), "--metric"]
    words += ["boot.total", "--between", "A", "B"]
    found = document(*words, "--margin", "9%")
    assert (found["verdict"], found["equivalence"]["scale"]) == ("level", "ratio")
    assert 1 / 1.09 < found["equivalence"]["low"] < found["equivalence"]["high"] < 1.09
    assert found["tost"]["p"] < 0.05
    wider = document(*words, "--margin", "0.1%", "--margin", "2s")
    assert (wider["verdict"], wider["equivalence"]["scale"]) == ("level", "amount")


def test_a_field_at_looks_says_when_it_was_decided(file):
    words = ["field", file, "--metric", "boot.total", "--interim-looks"]
    found = document(*words, "10,15,20", "--margin", "0.5s")
    assert {pair["look"]["blocks"] for pair in found["pairs"]} <= {10, 15, 20}
    assert found["omnibus_test"]["method"] == "Kruskal-Wallis"
    assert "blocks of the looks must rise" in haremile(*words, "20,10").stderr


def test_a_total_is_said_with_parts_interval_and_what_turns_it(file):
    words = ["total", file, "--reference", "Varrow 12 Thistlow", "--weights"]
    found = document(*words, "boot.total=2,memory.used=1")
    own = next(one for one in found["systems"] if one["system"] == "Varrow 12 Thistlow")
    assert found["format"] == "haremile-total/1"
    assert own["total"] == pytest.approx(100)
    assert own["interval"]["low"] < 100 < own["interval"]["high"]
    assert {part["metric"] for part in own["parts"]} == {"boot.total", "memory.used"}
    assert found["turns"]
    plain = haremile(*words, "boot.total=2,memory.used=1").stdout
    assert "The highest total is" in plain
    assert found["sentence"] in plain


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["--reference", "Nobody", "--weights", "boot.total=1"], "Nobody has no readings"),
        (["--reference", A, "--weights", "boot.total"], "written as KEY=VALUE"),
        (["--reference", A, "--weights", "boot.total=x"], "no number: x"),
        (["--reference", A, "--weights", "boot.total=-1"], "must be positive, not -1"),
        (["--reference", A, "--weights", "process.count=1"], "no good end"),
        (["--reference", A, "--weights", "boot.total=1,boot.total=2"], "stands twice"),
        (["--reference", A, "--weights", "launch.settled=1"], "more than one start"),
        (["--reference", A, "--weights", "boot.total=1", "--floor", "boot.total=3MiB"], "not in B"),
    ],
)
def test_a_total_that_cannot_be_meant_exits_2(file, words, says):
    done = haremile("total", file, *words)
    assert done.returncode == 2
    assert says in done.stderr


def test_hours_and_looks_are_planned_with_the_time_they_take():
    words = ["plan", "--spread", "0.4s", "--margin", "0.5s"]
    found = document(*words, "--hours", "8", "--run-time", "90s", "--contenders", "5")
    assert found["repeats"] == 64
    assert found["seconds"] == 64 * 5 * 90
    looks = document(*words, "--difference", "0.8s", "--looks", "3")
    assert looks["repeats"] > document(*words, "--difference", "0.8s")["repeats"]
    assert "--hours needs --run-time" in haremile(*words, "--hours", "8").stderr
    wrong = haremile(*words, "--hours", "8", "--run-time", "3MiB")
    assert (wrong.returncode, "90s or 2min" in wrong.stderr) == (2, True)


def test_what_could_not_be_measured_is_no_failure_and_memory_stalls_too(tmp_path):
    rows = [f"A,M,memory.used,{500 + i % 3},MiB,,{i},idle" for i in range(1, 12)]
    rows += ["A,M,memory.used,1500,MiB,,12,idle", "A,M,memory.used,,MiB,failed,13,idle"]
    rows += ["A,M,memory.used,,MiB,could-not-measure,14,idle"]
    made = tmp_path / "memory.csv"
    made.write_text("system,machine,metric,value,unit,outcome,run,procedure\n" + "\n".join(rows))
    (group,) = document("summary", str(made))["groups"]
    assert (group["n"], group["failed"]) == (12, 1)
    assert group["reliability"]["runs"] == 13
    assert group["reliability"]["stalls"] == [11]
