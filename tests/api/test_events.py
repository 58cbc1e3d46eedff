import json
import threading

import httpx
import pytest
import uvicorn

from haremile.api.application import create_app
from haremile.bench.conduct import Conductor
from haremile.bench.plan import checked_plan
from helpers import FakeRig, install


@pytest.fixture
def served(bench, throwaway_url):
    server = uvicorn.Server(
        uvicorn.Config(create_app(bench, throwaway_url, None), port=0, log_level="warning",
                       timeout_graceful_shutdown=1)
    )  # fmt: skip
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        assert thread.is_alive()
    port = server.servers[0].sockets[0].getsockname()[1]
    yield f"http://127.0.0.1:{port}"
    server.should_exit = True
    thread.join(10)


def events_of(response, until):
    for line in response.iter_lines():
        if line.startswith("data: "):
            event = json.loads(line.removeprefix("data: "))
            yield event
            if event["kind"] == until:
                return


def test_a_study_is_told_as_it_runs_and_a_page_that_was_away_catches_up(bench, served):
    study = bench.studies.create(checked_plan("Q", [install("A"), install("B")], 1, seed=1))
    address = f"{served}/api/events?study={study.id}"
    with httpx.stream("GET", address, timeout=20) as response:
        conductor = Conductor(bench.studies, bench.desk, bench.events, {"simulated": FakeRig()})
        worker = threading.Thread(target=conductor.conduct, args=(study.id,))
        worker.start()
        told = list(events_of(response, "study.done"))
        worker.join()
    one = ["run.leased", "run.running", "run.mark", "run.done"]
    expected = ["study.planned", "study.running", *one, *one, "study.done"]
    assert [event["kind"] for event in told] == expected
    ids = [event["id"] for event in told]
    assert ids == sorted(set(ids))
    headers = {"Last-Event-ID": str(ids[4])}
    with httpx.stream("GET", address, headers=headers, timeout=20) as response:
        assert [event["id"] for event in events_of(response, "study.done")] == ids[5:]
