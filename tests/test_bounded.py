"""Calls in a bounded process: what they return, raise and use up."""

import time

import pytest

from haremile.bounded import BoundedCalls
from haremile.errors import BadInputError, ConflictError, HareMileError, ReadingsFileError
from haremile.formats.readings_csv import parse_readings


@pytest.fixture(scope="module")
def calls():
    made = BoundedCalls(at_once=1, memory_mib=400, limit_s=20.0)
    yield made
    made.close()


def doubled(number, tell):
    tell("half", 1, 2)
    return 2 * number


def greedy(tell):
    return len(bytearray(2**30))


def refused(body, tell):
    return parse_readings(body)


def broken(tell):
    raise KeyError("what was not thought of")


def endless(tell):
    while True:
        time.sleep(1)


def test_a_call_returns_and_tells_how_far_it_is(calls):
    said = []
    assert calls.run(doubled, 21, told=lambda *what: said.append(what)) == 42
    assert said == [("half", 1, 2)]


def test_an_error_crosses_with_all_that_it_says(calls):
    with pytest.raises(ReadingsFileError, match="the column metric is missing") as met:
        calls.run(refused, b"system,machine\n")
    assert met.value.faults[0][:2] == (1, 1)


def test_a_fault_that_was_not_thought_of_is_still_an_answer(calls):
    with pytest.raises(HareMileError, match="KeyError"):
        calls.run(broken)


def test_more_memory_than_allotted_is_refused_and_the_next_call_goes_on(calls):
    with pytest.raises(BadInputError, match="more than 400 MiB"):
        calls.run(greedy)
    assert calls.run(doubled, 1) == 2


def test_more_time_than_allotted_is_refused():
    short = BoundedCalls(memory_mib=400, limit_s=0.5)
    with pytest.raises(BadInputError, match="longer than"):
        short.run(endless)


def test_who_would_wait_too_long_is_told(monkeypatch):
    monkeypatch.setattr("haremile.bounded.WAIT_S", 0.0)
    full = BoundedCalls(at_once=1)
    assert full._turn.acquire()
    with pytest.raises(ConflictError, match="other files are being read"):
        full.run(doubled, 1)


def test_only_so_many_wait_at_all(monkeypatch):
    monkeypatch.setattr("haremile.bounded.MOST_WAITING", 0)
    full = BoundedCalls(at_once=1)
    assert full._queue.acquire()
    with pytest.raises(ConflictError, match="other files are being read"):
        full.run(doubled, 1)
