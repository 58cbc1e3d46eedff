"""A study whose process is killed again and again ends as if nothing had happened."""

import os
import random
import subprocess
import sys
import time

import psycopg
import pytest

from haremile.bench.plan import checked_plan
from haremile.core.study import RunState
from helpers import install

CHILD = """
import sys
from uuid import UUID
from haremile.bench.conduct import Conductor
from haremile.bootstrap import wire
from haremile.config import settings_from
from haremile.rigs.simulated import SimulatedRig
from helpers import truth
url, study = sys.argv[1], UUID(sys.argv[2])
bench = wire(settings_from({"HAREMILE_DATA": "/nonexistent"}), url)
truths = {"A": truth(9.0), "B": truth(12.0, failure_share=0.2)}
rig = SimulatedRig(truths, speed=float(sys.argv[3]))
print("begun", flush=True)
Conductor(bench.studies, bench.desk, bench.events, {"simulated": rig}).conduct(study)
"""


def begin(url, study, speed):
    child = subprocess.Popen(
        [sys.executable, "-c", CHILD, url, str(study.id), str(speed)], stdout=subprocess.PIPE,
        env={**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)},
    )  # fmt: skip
    assert child.stdout.readline() == b"begun\n"
    return child


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


@pytest.mark.parametrize("kills", [10, pytest.param(60, marks=pytest.mark.long)])
def test_random_kills_lose_nothing_and_repeat_nothing(bench, throwaway_url, kills):
    quiet, harried = planned(bench, "Quiet"), planned(bench, "Harried")
    child = begin(throwaway_url, quiet, 1e9)
    assert child.wait() == 0
    child.stdout.close()
    moments = random.Random(2026)
    for _ in range(kills):
        child = begin(throwaway_url, harried, 2000)
        wait_for_events(bench, harried, moments.randint(0, 14))
        child.kill()
        child.wait()
        child.stdout.close()
    child = begin(throwaway_url, harried, 1e9)
    assert child.wait() == 0
    child.stdout.close()
    assert story(bench, harried) == story(bench, quiet)
    states = {run.state for run in bench.studies.runs(harried.id)}
    assert states == {RunState.DONE, RunState.FAILED}
    ended = [e.run_id for e in bench.events.after(0, harried.id, most=10_000)
             if e.kind in ("run.done", "run.failed")]  # fmt: skip
    assert len(ended) == len(set(ended)) == 40
    with psycopg.connect(throwaway_url) as link:
        doubled = link.execute(
            "select count(*) from (select run_id from attempt where state in ('done', 'failed')"
            " group by run_id having count(*) > 1) twice"
        ).fetchone()
    assert doubled == (0,)
