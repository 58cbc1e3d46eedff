import json
import threading

import httpx
import pytest

from haremile.usecases.access import Role
from haremile.usecases.conduct import Conductor
from haremile.usecases.plan import checked_plan
from helpers import FakeRig, install, served


@pytest.fixture
def address(bench, throwaway_url):
    with served(bench, throwaway_url) as made:
        yield made


@pytest.fixture
def key(bench):
    return {"Authorization": f"Bearer {bench.access.add_person('Ida', Role.LOOK)}"}


def events_of(response, until):
    for line in response.iter_lines():
        if line.startswith("data: "):
            event = json.loads(line.removeprefix("data: "))
            yield event
            if event["kind"] == until:
                return


def test_a_study_is_told_as_it_runs_and_a_page_that_was_away_catches_up(bench, address, key):
    study = bench.studies.create(checked_plan("Q", [install("A"), install("B")], 1, seed=1))
    stream = f"{address}/api/events?study={study.id}"
    with httpx.stream("GET", stream, timeout=20, headers=key) as response:
        conductor = Conductor(bench.studies, bench.queue, bench.events, {"simulated": FakeRig()})
        worker = threading.Thread(target=conductor.conduct, args=(study.id,))
        worker.start()
        told = list(events_of(response, "study.done"))
        worker.join()
    one = ["run.leased", "run.running", "run.phase", "run.done"]
    expected = ["study.planned", "study.running", *one, *one, "study.done"]
    assert [event["kind"] for event in told] == expected
    ids = [event["id"] for event in told]
    assert ids == sorted(set(ids))
    headers = {**key, "Last-Event-ID": str(ids[4])}
    with httpx.stream("GET", stream, headers=headers, timeout=20) as response:
        assert [event["id"] for event in events_of(response, "study.done")] == ids[5:]


def test_an_open_stream_ends_when_its_key_is_revoked(bench, address, key):
    with httpx.stream("GET", f"{address}/api/events", timeout=20, headers=key) as response:
        lines = response.iter_lines()
        bench.events.add("study.planned", None)
        next(lines)
        bench.access.revoke_person("Ida")
        for _ in lines:  # what was sent before; then it is over, long before the time-out
            pass
    assert httpx.get(f"{address}/api/studies", headers=key).status_code == 401


@pytest.mark.parametrize("last", ["-1", str(2**63), "x"])
def test_an_event_that_cannot_be_is_refused(address, key, last):
    headers = {**key, "Last-Event-ID": last}
    assert httpx.get(f"{address}/api/events", headers=headers).status_code == 422
    assert httpx.get(f"{address}/api/events?after={last}", headers=key).status_code == 422
