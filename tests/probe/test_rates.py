"""Rates: what our own program prints of each phase is read, and why one could not be told."""

import os

import pytest

from haremile_probe import native
from haremile_probe.collect.rates import RatesPlan, read_rates
from haremile_probe.collect.sources import Sources
from haremile_probe.interpret import account_of, capture_of
from haremile_probe.interpret.rate import PHASES, parse_rates
from haremile_probe.native import Native, Said
from haremile_probe.parsers import UnreadableError


class Printing:
    """Stands for the program: prints a line for each phase, or fails as it is told."""

    def __init__(self, **failing):
        self.failing, self.asked = failing, []

    def run(self, words, limit_s):
        self.asked.append(words)
        said = self.failing.get(words[0])
        if said is not None:
            return said
        how = "direct" if words[0].startswith("disk_") else "-"
        return Said(0, f"{words[0]} {words[1]} 5000 2.500000000 {how}\n", "")


WITH_FILE = RatesPlan(folder="/srv")


def captured(program, plan=WITH_FILE):
    sources = Sources()
    read_rates(sources, program, plan, lambda text: None)
    account = account_of("rate", sources.records, sources.faults)
    return capture_of(account, "rate", "x", "now", "Bench", "Varrow 12")


def test_each_phase_gives_what_was_done_a_second_and_pinned_ones_beside():
    program = Printing()
    capture = captured(program)
    found = {(one.metric, one.method): (one.value, one.unit) for one in capture.readings}
    assert len(found) == len(PHASES) == 15
    assert found["rate.cpu_one", "native"] == (2000.0, "1/s")
    assert found["rate.handover", "native-pinned"] == (2000.0, "1/s")
    assert found["rate.mem_copy", "native"] == (2000.0, "B/s")
    work = "least 2 s, memory 256 MiB, file 256 MiB, direct"
    assert capture.conditions["rate_work"] == work
    assert ["disk_seq", "0", "2", str(256 * 2**20), "/srv"] in program.asked
    assert ["mem_read", "0", "2", str(256 * 2**20)] in program.asked


def test_one_that_cannot_be_told_is_named_and_the_others_stand():
    full = Said(1, "", "too little space: twice the size of the file has to be free\n")
    capture = captured(Printing(disk_seq=full, mem_read=Said(None, "", "still at it after 600 s")))
    assert capture.outcome == "done"
    told = {one.what: one.kind for one in capture.faults}
    assert told["rate.mem_read: still at it after 600 s"] == "timed-out"
    assert any("rate.disk_seq: too little space" in what for what in told)
    metrics = {one.metric for one in capture.readings}
    assert {"rate.disk_rand", "rate.mem_write"} <= metrics
    assert not {"rate.disk_seq", "rate.mem_read"} & metrics


def test_without_a_folder_no_file_is_worked_on():
    program = Printing()
    capture = captured(program, RatesPlan())
    assert not any(words[0].startswith("disk_") for words in program.asked)
    assert capture.conditions["rate_work"] == "least 2 s, memory 256 MiB, no file"


@pytest.mark.parametrize(
    "line",
    ["cpu_one 0 5 0.0 -", "cpu_two 0 5 1.0 -", "cpu_one 2 5 1.0 -", "cpu_one 0 -5 1.0 -", "x"],
)
def test_a_line_that_is_no_phase_is_never_guessed(line):
    with pytest.raises(UnreadableError, match="no phase of rates"):
        parse_rates(line + "\n")


@pytest.mark.parametrize(
    ("machine", "target"),
    [
        ("x86_64", "x86_64"),
        ("i686", "x86"),
        ("i386", "x86"),
        ("aarch64", "aarch64"),
        ("armv7l", "arm"),
        ("riscv64", None),
    ],
)
def test_a_machine_gets_the_program_of_its_kernel(monkeypatch, machine, target):
    there = os.uname()
    names = type(there)((*there[:4], machine))
    monkeypatch.setattr(native.os, "uname", lambda: names)
    assert native.processor() == target


def test_where_no_program_runs_the_reason_is_told(monkeypatch):
    monkeypatch.setattr(native, "processor", lambda: None)
    with pytest.raises(OSError, match="no native program for"):
        Native()
    monkeypatch.setattr(native, "processor", lambda: "x86_64")
    monkeypatch.setattr(native, "BUILT", "there is none")
    with pytest.raises(OSError, match="built without native programs"):
        Native()


def test_a_program_is_run_from_memory_alone(monkeypatch):
    script = b'#!/bin/sh\necho "$@"; echo why >&2; exit 3\n'
    monkeypatch.setattr(native, "processor", lambda: "x86_64")
    monkeypatch.setattr(native.pkgutil, "get_data", lambda *_: script)
    program = Native()
    try:
        assert program.run(["cpu_one", "0"], 20.0) == Said(3, "cpu_one 0\n", "why\n")
    finally:
        program.close()
