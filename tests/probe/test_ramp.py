"""Load ramps of an application whose truth is known, and their rules."""

import hashlib
import io
import json
import os
import shlex
import signal
import subprocess
import sys
import urllib.error
import urllib.request
import zipfile
from pathlib import Path
from uuid import uuid4
from xml.etree import ElementTree

import pytest
from tenacity import Retrying, stop_after_delay, wait_fixed

from haremile.core.comparison.comparability import Grade, fair_start
from haremile_probe.interpret import account_of
from haremile_probe.interpret.ramp import line, parse_ramp, swap_at
from haremile_probe.launching.process_tree import become_subreaper, descendants
from haremile_probe.load.copies import Documents
from haremile_probe.load.documents import document
from haremile_probe.load.group import OLD, PREFIX, MemoryGroup
from haremile_probe.load.kinds import KINDS, NAMES, opening_of, parse_mix
from haremile_probe.load.page_set import items
from haremile_probe.load.ramp import RampPlan, ramp
from haremile_probe.load.rules import MIB, Sample, StopRules, ended_by
from haremile_probe.load.signs import PageServer
from haremile_probe.main import main
from haremile_probe.parsers import UnreadableError
from haremile_probe.runtime import BadInput
from haremile_probe.wire import Record, load_capture

APPLICATION = str(Path(__file__).with_name("load_application.py"))
SET_ONE = "d2aaf07a2299d0d80d644a1d7275159bee7fde2ff7389884d71cbf079b3fc123"
DOCUMENTS_ONE = "c6824521f2f5cec0fea92b40b015e09b9a7f2db983d78b270c01eb35202aadba"
TAKES = 24
RULES = StopRules(steps=6, launch_s=20.0, silence_s=2.0)


def command(how="carries", at=0):
    return [sys.executable, APPLICATION, str(TAKES), how, str(at), str(uuid4())]


def ramped(words, rules=RULES, group=None, mix=KINDS, commands=None):
    become_subreaper()
    plan = RampPlan(rules, settle_s=0.6, mix=mix, commands=commands or {})
    return ramp(words, plan, group, lambda text: None)


def of_tree(found):
    return line([(s.number, s.sample.tree) for s in found.steps if s.sample]).slope / MIB


@pytest.fixture(autouse=True)
def nothing_is_left():
    """Whatever a ramp started is gone after it."""
    before = descendants({os.getpid()})
    yield
    assert descendants({os.getpid()}) <= before


@pytest.mark.parametrize("how", ["carries", "in-child", "alone"])
def test_what_a_page_takes_is_read_to_one_per_cent(how):
    found = ramped(command(how))
    assert (found.carried, found.ended) == (6, "all pages")
    extra = 0.0
    if how != "carries":  # a process of its own for each takes something too
        words = command(how)
        extra = of_tree(ramped([*words[:2], "1", *words[3:]])) - 1
    assert of_tree(found) - extra == pytest.approx(TAKES, rel=0.01)


def test_documents_count_as_open_once_they_are_read_and_all_is_at_rest():
    found = ramped(command(), mix=("reading", "text", "sheet", "picture"))
    assert (found.carried, found.ended) == (6, "all pages")
    assert [step.kind for step in found.steps][:3] == ["reading", "text", "sheet"]
    assert of_tree(found) == pytest.approx(TAKES, rel=0.01)


def test_a_document_that_nothing_opens_timed_out():
    found = ramped(command("blind"), RULES._replace(launch_s=3.0), mix=("text",))
    assert (found.carried, found.ended) == (0, "launch timed out")


def test_other_applications_and_addresses_of_ones_own_are_steps_too():
    other = [*command(), "/etc/hostname"]
    mix = ("reading", "app:Coppicer", "https://seeds.example/")
    found = ramped(command(), RULES._replace(steps=3), mix=mix, commands={"Coppicer": other})
    assert (found.carried, found.ended) == (3, "all pages")
    extra = of_tree(ramped([*other[:2], "1", *other[3:5], str(uuid4())], RULES._replace(steps=2)))
    assert of_tree(found) == pytest.approx(TAKES, abs=12 + extra)


def test_an_application_that_nothing_stands_for_is_said():
    with pytest.raises(BadInput, match="what command Coppicer stands for"):
        ramped(command(), mix=("app:Coppicer",))


def test_an_application_that_dies_carried_the_pages_before():
    found = ramped(command("dies", 4))
    assert (found.carried, found.ended) == (3, "application gone")
    assert of_tree(found) == pytest.approx(TAKES, rel=0.01)


def test_a_page_that_falls_silent_is_lost():
    found = ramped(command("stalls", 3))
    assert found.ended == "page lost"
    assert abs(found.carried - 2) <= 1


def test_an_application_that_never_paints_timed_out():
    rules = RULES._replace(launch_s=1.0)
    found = ramped([sys.executable, "-c", "import time; time.sleep(100)"], rules)
    assert (found.carried, found.ended) == (0, "launch timed out")


def test_a_command_that_is_not_there_is_said():
    with pytest.raises(BadInput, match="no such command"):
        ramped(["wayfarrow-that-is-not-here"])


def test_within_a_limit_the_application_runs_out_of_memory_and_nobody_else():
    if os.geteuid() != 0 or not os.path.exists(os.path.join(OLD, "memory.limit_in_bytes")):
        pytest.skip("a memory limit needs root and a control group")
    limit = MemoryGroup(110 * MIB)
    try:
        found = ramped(command(), RULES._replace(steps=20, floor=1), limit)
    finally:
        limit.close()
    assert found.ended in ("out of memory", "application gone")
    assert found.carried in (2, 3, 4)
    assert not os.path.exists(limit.path)


def test_a_floor_ends_it_before_anything_is_killed():
    if os.geteuid() != 0 or not os.path.exists(os.path.join(OLD, "memory.limit_in_bytes")):
        pytest.skip("a memory limit needs root and a control group")
    # the floor is several pages high: what the kernel counts besides is no more than one
    limit = MemoryGroup(256 * MIB)
    try:
        found = ramped(command(), RULES._replace(steps=20, floor=104 * MIB), limit)
    finally:
        limit.close()
    assert found.ended == "memory floor"
    assert found.steps[-1].sample is None


def test_the_kernel_counts_the_application_alone_where_it_can():
    if os.geteuid() != 0 or not os.path.exists(os.path.join(OLD, "memory.limit_in_bytes")):
        pytest.skip("a memory limit needs root and a control group")
    group = MemoryGroup()
    try:
        found = ramped(command(), RULES._replace(steps=3), group)
    finally:
        group.close()
    own = [(step.number, step.sample.own) for step in found.steps]
    assert line(own).slope / MIB == pytest.approx(TAKES, rel=0.01)
    assert found.peak >= own[-1][1]
    assert found.limit is None


def test_what_a_killed_probe_left_is_ended_and_removed(tmp_path):
    if os.geteuid() != 0 or not os.path.exists(os.path.join(OLD, "memory.limit_in_bytes")):
        pytest.skip("a memory limit needs root and a control group")
    gone = subprocess.Popen(["true"])
    gone.wait()
    left = Path(OLD) / f"{PREFIX}{gone.pid}"
    left.mkdir()
    with subprocess.Popen(["sleep", "1000"]) as sleeper:
        (left / "cgroup.procs").write_text(str(sleeper.pid))
        MemoryGroup().close()
        assert sleeper.wait() == -signal.SIGKILL
    assert not left.exists()


def test_the_application_goes_with_a_probe_that_is_killed(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    become_subreaper()
    told = tmp_path / "pid"
    wayfarrow = tmp_path / "wayfarrow"
    wayfarrow.write_text(
        f"#!/bin/sh\necho $$ >{told}.part\nmv {told}.part {told}\nexec sleep 1000\n"
    )
    wayfarrow.chmod(0o755)
    user = ["--user", "root"] if os.geteuid() == 0 else []
    words = [sys.executable, "-m", "haremile_probe", "ramp", "--quiet", *user, "--", str(wayfarrow)]
    with subprocess.Popen(words, cwd=tmp_path) as probe:
        for attempt in Retrying(stop=stop_after_delay(30), wait=wait_fixed(0.05)):
            with attempt:
                told.stat()
        probe.kill()
    _, status = os.waitpid(int(told.read_text()), 0)  # an orphan of the probe's became ours
    assert os.waitstatus_to_exitcode(status) == -signal.SIGKILL


def sample(**change):
    usual = {
        "at": 0.0,
        "used": 500 * MIB,
        "used_nocache": 400 * MIB,
        "available": 900 * MIB,
        "swap_used": 0,
        "tree": 100 * MIB,
        "shared": 9 * MIB,
        "own": None,
        "cpu_s": 1.0,
        "pressure": 0.0,
        "killed": 2,
        "is_alive": True,
        "delay_s": 0.1,
    }
    return Sample(**{**usual, **change})


@pytest.mark.parametrize(
    ("change", "rule"),
    [
        ({"available": 40 * MIB}, "memory floor"),
        ({"swap_used": 300 * MIB}, "swap growing"),
        ({"pressure": 0.5}, "pressure"),
        ({"delay_s": 6.0}, "delay"),
        ({"silent": [2]}, "page lost"),
        ({"silent": [2], "available": 40 * MIB}, "page lost"),
        ({"pressure": None}, None),
    ],
)
def test_a_limit_counts_once_it_is_passed_three_times_in_a_row(change, rule):
    passed = sample(**change)
    assert ended_by([sample(), passed, passed], sample(), StopRules()) is None
    assert ended_by([passed, sample(), passed], sample(), StopRules()) is None
    assert ended_by([sample(), passed, passed, passed], sample(), StopRules()) == rule


def test_a_kill_and_an_application_that_is_gone_count_at_once():
    assert ended_by([sample(killed=3)], sample(), StopRules()) == "out of memory"
    assert ended_by([sample(is_alive=False)], sample(), StopRules()) == "application gone"


def test_the_page_set_is_the_same_bytes_every_time():
    found = hashlib.sha256()
    for name in sorted(items()):
        found.update(name.encode() + items()[name].body)
    assert found.hexdigest() == SET_ONE
    assert [opening_of(KINDS, n).kind for n in (1, 3, 5)] == ["reading", "clip", "reading"]
    assert len(items()["clip.webm"].body) < 3 * 10**6


def test_documents_are_the_same_bytes_every_time_and_what_they_say_they_are():
    found = hashlib.sha256()
    for kind in NAMES:
        found.update(document(kind))
    assert found.hexdigest() == DOCUMENTS_ONE
    for kind, media in (("text", "text"), ("sheet", "spreadsheet")):
        with zipfile.ZipFile(io.BytesIO(document(kind))) as packed:
            first = packed.infolist()[0]
            assert (first.filename, first.compress_type) == ("mimetype", zipfile.ZIP_STORED)
            assert packed.read("mimetype").decode().endswith(f"opendocument.{media}")
            ElementTree.fromstring(packed.read("content.xml"))
    assert len(ElementTree.fromstring(document("drawing"))) == 2000


def test_copies_go_with_the_ramp_and_those_of_a_killed_probe_with_the_next(tmp_path):
    gone = subprocess.Popen(["true"])
    gone.wait()
    (tmp_path / f"{PREFIX}{gone.pid}-abc").mkdir()
    laid = Documents(place=str(tmp_path))
    assert list(tmp_path.iterdir()) == []
    path = Path(laid.lay(1, "drawing"))
    assert not laid.was_opened(1)
    assert path.read_bytes() == document("drawing")
    assert laid.was_opened(1)
    laid.close()
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize("text", ["", "reading,", "app:", "ftp://x/", "-x", "file:///etc/passwd"])
def test_only_what_is_known_can_be_opened(text):
    with pytest.raises(ValueError, match="a step opens one of"):
        parse_mix(text)


def test_pages_are_given_to_who_knows_their_address_alone():
    server = PageServer()
    try:
        with urllib.request.urlopen(server.address(1, "reading")) as answer:
            assert b"<h1>Reading</h1>" in answer.read()
        port = server.address(1, "reading").split(":")[2].split("/")[0]
        with pytest.raises(urllib.error.HTTPError, match="404"):
            urllib.request.urlopen(f"http://127.0.0.1:{port}/0123456789abcdef/1/reading")
        assert server.signs() == []
    finally:
        server.close()


def test_the_verb_writes_a_capture_with_what_ended_it(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    out = tmp_path / "it.json"
    words = ["ramp", "--steps", "3", "--settle", "0.6", "--out", str(out), "--quiet"]
    user = ["--user", "root"] if os.geteuid() == 0 else []
    wayfarrow = tmp_path / "wayfarrow"  # a program of its own: nobody else runs it
    quoted = " ".join(map(shlex.quote, command()))
    wayfarrow.write_text(f'#!/bin/sh\nexec {quoted} "$@"\n')
    wayfarrow.chmod(0o755)
    assert main([*words, *user, "--", str(wayfarrow)]) == 0
    capture = load_capture(out.read_bytes())
    values = {reading.metric: reading.value for reading in capture.readings}
    assert values["ramp.steps"] == 3.0
    assert values["app.memory_shared"] < values["app.memory"]
    own = {r.conditions["pages_open"] for r in capture.readings if r.metric == "app.memory"}
    assert own == {"1 at once", "1"}
    assert values["ramp.tree"] / MIB == pytest.approx(TAKES, rel=0.01)
    assert capture.conditions["page_set"] == "1"
    assert "at most 3 pages" in capture.conditions["stop_rules"]
    note = parse_ramp(next(e.text for e in capture.evidence if e.name == "ramp"))
    assert (note.carried, note.ended, swap_at(note)) == (3, "all pages", None)


@pytest.mark.parametrize(
    "change",
    [{"ended": "bored"}, {"carried": 7}, {"steps": None}, {"limit": -1}, {"rules": []}],
)
def test_what_is_no_ramp_is_refused(change):
    good = {
        "command": ["wayfarrow"],
        "page_set": "1",
        "before": sample()._asdict(),
        "limit": None,
        "steps": [],
        "carried": 0,
        "ended": "all pages",
        "rules": StopRules()._asdict(),
    }
    assert parse_ramp(json.dumps(good)).steps == []
    with pytest.raises(UnreadableError):
        parse_ramp(json.dumps({**good, **change}))


def test_addresses_of_ones_own_weaken_a_comparison_even_where_all_have_them():
    alike = {1: [{"own_addresses": "yes"}], 2: [{"own_addresses": "yes"}]}
    (found,) = fair_start(alike)
    assert found.grade is Grade.WEAKENS
    note = {
        "command": ["wayfarrow"],
        "page_set": "1",
        "mix": ["reading", "https://seeds.example/"],
        "before": sample()._asdict(),
        "limit": None,
        "steps": [],
        "carried": 0,
        "ended": "all pages",
        "rules": StopRules()._asdict(),
    }
    account = account_of("ramp", [Record("ramp", 0.0, json.dumps(note))])
    assert account.conditions["own_addresses"] == "yes"
    assert account.conditions["opens"] == "reading, https://seeds.example/"


def test_a_line_goes_through_the_middle_of_its_points():
    found = line([(1, 110.0), (2, 120.0), (3, 900.0), (4, 140.0), (5, 150.0)])
    assert (found.slope, found.at_zero) == (10.0, 100.0)
    assert line([(1, 5.0)]) is None
