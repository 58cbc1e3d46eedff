"""A tester's own command: what it prints is read, and nothing that it does gets out of hand."""

import json
import os
import sys
import time

import pytest

from haremile_probe.collect.command import MOST_OUTPUT, run_command
from haremile_probe.interpret import account_of, capture_of
from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.own_output import parse_own_output
from haremile_probe.wire import Record

KEY = "own.s.low.Sort_seeds"


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("2.5\n", "s", 2.5),
        ("  2500 ms ", "s", 2.5),
        ("-3", "1", -3.0),
        ("1e3", "1", 1000.0),
        ("1.5 GiB", "B", 1.5 * 2**30),
        ("12.5 W", "W", 12.5),
        ("40 %", "share", 0.4),
        ("warm up\nSort_seeds = 7 s\nother=9\n", "s", 7.0),
    ],
)
def test_one_number_is_read_or_the_line_of_that_name(text, unit, value):
    assert parse_own_output(text, "Sort_seeds", unit) == pytest.approx(value)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "it printed nothing; one number is wanted, or Sort_seeds=NUMBER"),
        ("1\n2\n", "it printed 2 lines"),
        ("quick", "no number: quick"),
        ("nan", "no number"),
        ("1" * 40, "no number"),
        ("12 MiB", "it says 12 MiB, and is measured in s"),
        ("12 W", "it says 12 W, and is measured in s"),
        ("other=1", "Sort_seeds=… not at all"),
        ("Sort_seeds=1\nSort_seeds=2", "Sort_seeds=… 2 times"),
    ],
)
def test_what_is_no_value_of_it_is_never_guessed(text, says):
    with pytest.raises(UnreadableError) as refused:
        parse_own_output(text, "Sort_seeds", "s")
    assert says in str(refused.value)


def python(text):
    return [sys.executable, "-c", text]


def told(words, limit_s=20.0, **more):
    found = run_command(words, limit_s)
    return {"measure": KEY, "unit": "s", "resolution": None, "limit_s": limit_s, **found, **more}


def captured(found):
    account = account_of("command", [Record("command", 1.0, json.dumps(found))])
    return capture_of(account, "command", "x", "now", "Bench", "Varrow 12")


def test_a_value_is_a_reading_with_its_steps_and_the_measure_is_a_condition():
    capture = captured(told(python("print('2.25')"), resolution="0.01"))
    (reading,) = capture.readings
    assert (reading.metric, reading.value, reading.unit) == (KEY, 2.25, "s")
    assert (reading.method, reading.resolution) == ("command", 0.01)
    assert capture.conditions["measure"] == KEY
    assert "2.25" in capture.text_of("command")


@pytest.mark.parametrize(
    ("script", "outcome", "reason"),
    [
        ("import sys; sys.exit('no seeds')", "failed", "code 1: no seeds"),
        ("import os; os.kill(os.getpid(), 11)", "failed", "SIGSEGV"),
        ("print('soon')", "could-not-measure", "no number: soon"),
        ("print('3 MiB')", "could-not-measure", "it says 3 MiB, and is measured in s"),
    ],
)
def test_a_command_that_fails_counts_and_one_that_does_not_tell_is_nobodys_fault(
    script, outcome, reason
):
    capture = captured(told(python(script)))
    assert (capture.outcome, capture.readings) == (outcome, [])
    assert reason in capture.reason


def test_a_command_that_is_not_there_is_no_failure_of_the_system():
    capture = captured(told(["/there/is/no/such/program"]))
    assert capture.outcome == "could-not-measure"
    assert "No such file" in capture.reason


def test_one_that_hangs_is_ended_with_all_that_it_started(tmp_path):
    inner = "import time; time.sleep(600)"
    script = (
        f"import subprocess, sys; p = subprocess.Popen([sys.executable, '-c', {inner!r}]);"
        f"open({str(tmp_path / 'child')!r}, 'w').write(str(p.pid));"
        f"open({str(tmp_path / 'child')!r} + '.there', 'w');" + inner
    )
    found = told(python(script), limit_s=5.0)
    child = int((tmp_path / "child").read_text())
    deadline = time.monotonic() + 20
    while _lives(child) and time.monotonic() < deadline:
        time.sleep(0.02)
    assert not _lives(child)
    capture = captured(found)
    assert (capture.outcome, capture.faults[-1].kind) == ("failed", "timed-out")
    assert "still at it after 5 s" in capture.reason


def _lives(pid):
    try:
        with open(f"/proc/{pid}/stat", encoding="utf-8") as file:
            return file.read().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


def test_one_that_prints_without_end_is_ended_and_what_it_said_is_bounded():
    found = told(python("while True: print('x' * 1000)"))
    assert found["ended"] == "flood"
    assert len(found["output"]) == MOST_OUTPUT
    capture = captured(found)
    assert capture.outcome == "could-not-measure"
    assert "printed without end" in capture.reason


def test_it_runs_without_a_shell_in_an_empty_folder_that_is_gone_afterwards():
    script = "import os, sys; print(sys.argv[1:], os.getcwd(), os.listdir())"
    found = told([*python(script), "$HOME; ls"])
    assert "['$HOME; ls']" in found["output"]
    assert found["output"].rstrip().endswith("[]")
    assert not os.path.exists(found["output"].split("] ")[1].split(" [")[0])
