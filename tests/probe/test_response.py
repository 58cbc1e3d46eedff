"""How soon a key shows: windows that answer after known delays, and what is made of answers."""

import json
import os
import pwd
import shlex
import statistics
import subprocess
import sys
from pathlib import Path

import pytest

from haremile_probe.interpret import account_of, capture_of
from haremile_probe.interpret.response import within
from haremile_probe.launching.process_tree import become_subreaper
from haremile_probe.launching.start import LaunchPlan
from haremile_probe.load.busy import Busy
from haremile_probe.main import main
from haremile_probe.wire import Record, load_capture
from haremile_probe.x.launch import launch
from haremile_probe.x.response import Keys, KeysPlan
from haremile_probe.x.watch import WindowWatch

KNOWN = [sys.executable, str(Path(__file__).with_name("x_applications.py"))]
PLAN = LaunchPlan(quiet_s=0.4, limit_s=20.0)
ME = pwd.getpwuid(os.geteuid()).pw_name


@pytest.fixture
def watch(display):
    become_subreaper()
    made = WindowWatch()
    yield made
    made.close()


def answers(watch, *words, keys=12):
    """What `keys` keys were answered after, and what the window does by itself."""
    found = []

    def use(window):
        pressing = Keys(watch, window, KeysPlan(keys, limit_s=1.0))
        found.extend([pressing.blinking, pressing.answers()])

    assert launch(watch, [*KNOWN, *words], PLAN, use).outcome.gives_readings
    return found


@pytest.mark.parametrize("delay", [0.02, 0.15])
def test_a_window_that_answers_after_a_known_delay_is_timed(watch, delay):
    blinking, found = answers(watch, "answer", str(delay))
    assert blinking is None
    assert None not in found
    assert statistics.median(found) == pytest.approx(delay, abs=0.02)
    assert min(found) > delay - 0.002


def test_a_caret_that_blinks_beside_is_no_answer(watch):
    blinking, found = answers(watch, "answer", "0.2", "blinking")
    assert blinking.period_s == pytest.approx(0.5, abs=0.1)
    known = [one for one in found if one is not None]
    assert len(known) == len(found)
    assert statistics.median(known) == pytest.approx(0.2, abs=0.03)
    assert min(known) > 0.19


def test_a_sessions_own_menu_is_opened_timed_and_closed(display, capsys):
    words = ["response", "--json", "--quiet", "--system", "Varrow 12", "--keys", "10"]
    with subprocess.Popen([*KNOWN, "menu", "0.1"], stdout=subprocess.PIPE) as session:
        try:
            assert session.stdout.readline() == b"ready\n"
            assert main([*words, "--busy", "0", "--", "menu:ctrl-escape"]) == 0
        finally:
            session.kill()
    capture = load_capture(capsys.readouterr().out.encode())
    found = {one.metric: one.value for one in capture.readings}
    told = json.loads(capture.text_of("response"))["answers"]["rest"]
    assert capture.conditions["app"] == "menu:ctrl-escape"
    assert None not in told, "each time it was closed again"
    assert min(told) > 0.098
    assert found["response.rest"] == statistics.median_low(told)


def test_no_menu_opens_by_a_key_that_is_none(display, capsys):
    assert main(["response", "--", "menu:enter"]) == 2
    assert "one of super, menu" in capsys.readouterr().err


def test_a_window_that_shows_nothing_is_said_to(watch):
    _, found = answers(watch, "deaf", keys=10)
    assert found == [None] * 10


def captured(**told):
    told = {"answers": {}, "busy": "", "reason": None, "is_ours": False, **told}
    account = account_of("response", [Record("response", 1.0, json.dumps(told))])
    return capture_of(account, "response", "x", "now", "Bench", "Varrow 12")


def test_median_tail_and_late_keys_are_told_at_rest_and_beside_work():
    rest = [0.01] * 18 + [0.15, None]
    capture = captured(answers={"rest": rest, "busy": [0.05] * 20}, busy="2 busy processes")
    found = {one.metric: one for one in capture.readings}
    assert found["response.rest"].value == 0.01
    assert found["response.rest_p95"].value == 0.15
    assert found["response.rest_late"].value == pytest.approx(0.1)
    assert found["response.busy"].conditions == {"background": "2 busy processes"}
    assert found["response.rest"].conditions == {}
    assert found["response.busy_late"].value == 0.0


def test_a_tail_that_never_came_is_no_value():
    assert within([0.1] * 9 + [None], 0.5) == 0.1
    assert within([0.1] * 9 + [None], 0.95) is None
    assert within([0.3, 0.1, 0.2], 0.5) == 0.2


@pytest.mark.parametrize(
    ("told", "outcome", "says"),
    [
        ({"answers": {"rest": [None] * 20}}, "could-not-measure", "no key changed anything"),
        ({"reason": "exited without a window"}, "failed", "exited without a window"),
        ({"reason": "command not found", "is_ours": True}, "could-not-measure", "not found"),
        ({"answers": {"rest": [-1.0]}}, "could-not-measure", "no time"),
        ({"answers": {"rest": [0.1] * 1001}}, "could-not-measure", "more than 1000 keys"),
    ],
)
def test_what_gives_no_value_has_its_reason(told, outcome, says):
    capture = captured(**told)
    assert (capture.outcome, capture.readings) == (outcome, [])
    assert says in capture.reason


def test_other_work_goes_on_until_it_is_closed_and_leaves_nothing(tmp_path):
    busy = Busy(2, str(tmp_path))
    children = [child.pid for child in busy._children]
    assert busy.lacking() == 0
    assert busy.said == "2 busy processes, one that writes to the disk"
    busy.close()
    assert not any(Path(f"/proc/{pid}").exists() for pid in children)
    assert list(tmp_path.iterdir()) == []


def test_the_verb_tells_both_and_keeps_every_answer(display, capsys, tmp_path):
    answering = tmp_path / "answering"  # an own name: other processes of this interpreter run
    answering.write_text(f"#!/bin/sh\nexec {shlex.join(KNOWN)} answer 0.03\n")
    answering.chmod(0o755)
    words = ["response", "--json", "--quiet", "--system", "Varrow 12", "--user", ME]
    command = ["--keys", "10", "--busy", "1", "--", str(answering)]
    assert main([*words, *command]) == 0
    capture = load_capture(capsys.readouterr().out.encode())
    found = {one.metric: one.value for one in capture.readings}
    assert found["response.rest"] >= 0.028
    assert found["response.busy"] >= 0.028
    told = json.loads(capture.text_of("response"))
    assert [len(one) for one in told["answers"].values()] == [10, 10]
