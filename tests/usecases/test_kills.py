"""A study whose process is killed again and again ends as if nothing had happened."""

import os
import random
import signal
import subprocess
import sys
import time
from contextlib import suppress

import psycopg
import pytest

from haremile.core.records.study import RunState
from haremile.processes import child_command, child_environment
from haremile.usecases.plan import checked_plan
from helpers import install

CHILD = """
import os
import sys
from uuid import UUID
from haremile.usecases.conduct import Conductor
from haremile.bootstrap import wire
from haremile.config import settings_from
from haremile.rigs.simulated import SimulatedRig
from helpers import truth
TRUTHS = {"A": truth(9.0), "B": truth(12.0, failure_share=0.2)}
def conduct(url, study, speed):
    bench = wire(settings_from({"HAREMILE_DATA": "/nonexistent"}), url)
    rigs = {"simulated": SimulatedRig(TRUTHS, speed=speed)}
    Conductor(bench.studies, bench.queue, bench.events, rigs).conduct(study)
for line in sys.stdin:
    url, study, speed = line.split()
    pid = os.fork()
    if pid == 0:
        conduct(url, UUID(study), float(speed))
        os._exit(0)
    print(pid, flush=True)
    print(os.waitpid(pid, 0)[1], flush=True)
"""
"""Brings forth conductors, each a process of its own, without loading everything anew."""


class Conductors:
    """Begins a conductor, and kills it or lets it end."""

    def __init__(self, process):
        self.process, self.pid = process, 0

    def begin(self, url, study, speed):
        self.process.stdin.write(f"{url} {study.id} {speed}\n")
        self.process.stdin.flush()
        self.pid = int(self.process.stdout.readline())

    def kill(self):
        with suppress(ProcessLookupError):
            os.kill(self.pid, signal.SIGKILL)
        self.end()

    def end(self):
        return int(self.process.stdout.readline())


@pytest.fixture(scope="module")
def conductors():
    process = subprocess.Popen(
        child_command([sys.executable, "-c", CHILD]),
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
        env={**child_environment(), "PYTHONPATH": os.pathsep.join(sys.path)},
    )
    yield Conductors(process)
    process.stdin.close()
    process.wait()
    process.stdout.close()


def planned(bench, title):
    plan = checked_plan(title, [install("A"), install("B")], 20, seed=11)
    return bench.studies.create(plan)


def story(bench, study):
    runs = [
        (run.position, run.lane_no, run.state, run.reason) for run in bench.studies.runs(study.id)
    ]
    readings = [(r.block, r.lane_no, r.metric, r.value) for r in bench.readings.readings(study.id)]
    return runs, readings


def wait_for_events(bench, study, more):
    """Until `more` further events are there, or the study is done; the moment is the seed's."""
    aim = len(bench.events.after(0, study.id, most=10_000)) + more
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline:
        events = bench.events.after(0, study.id, most=10_000)
        if len(events) >= aim or any(event.kind == "study.done" for event in events):
            return
    pytest.fail("the study did not go on")


@pytest.mark.parametrize("kills", [20, pytest.param(60, marks=pytest.mark.long)])
def test_random_kills_lose_nothing_and_repeat_nothing(bench, throwaway_url, conductors, kills):
    quiet, harried = planned(bench, "Quiet"), planned(bench, "Harried")
    conductors.begin(throwaway_url, quiet, 1e9)
    assert conductors.end() == 0
    moments = random.Random(2026)
    for _ in range(kills):
        conductors.begin(throwaway_url, harried, 2000)
        wait_for_events(bench, harried, moments.randint(0, 14))
        conductors.kill()
    conductors.begin(throwaway_url, harried, 1e9)
    assert conductors.end() == 0
    assert story(bench, harried) == story(bench, quiet)
    states = {run.state for run in bench.studies.runs(harried.id)}
    assert states == {RunState.DONE, RunState.FAILED}
    ended = [
        e.run_id
        for e in bench.events.after(0, harried.id, most=10_000)
        if e.kind in ("run.done", "run.failed")
    ]
    assert len(ended) == len(set(ended)) == 40
    with psycopg.connect(throwaway_url) as link:
        doubled = link.execute(
            "select count(*) from (select run_id from attempt where state in ('done', 'failed')"
            " group by run_id having count(*) > 1) twice"
        ).fetchone()
    assert doubled == (0,)
