"""PostgreSQL goes down and comes back while a study runs."""

import threading

import pytest

from haremile.bootstrap import wire
from haremile.config import settings_from
from haremile.core.records.study import RunState
from haremile.store import cluster as clusters
from haremile.store.cluster import Cluster
from haremile.store.rows import database
from haremile.usecases.conduct import Conductor
from haremile.usecases.plan import checked_plan
from helpers import FakeRig, capture_for, install, readable_folder

WAIT_S = 60


class HeldRig(FakeRig):
    """Holds the third run until the test lets it go."""

    def __init__(self):
        super().__init__()
        self.reached, self.go = threading.Event(), threading.Event()

    def run(self, asked, mark):
        self.orders.append(asked)
        if len(self.orders) == 3:
            self.reached.set()
            assert self.go.wait(WAIT_S)
        mark("ready", 1.0)
        return capture_for(asked)


@pytest.fixture
def own_cluster(monkeypatch):
    """A server of its own, which comes back at the same address."""
    kept = getattr(database, "obj", None)
    port = clusters._free_port()
    monkeypatch.setattr(clusters, "_free_port", lambda: port)
    with readable_folder() as folder:
        made = Cluster(folder / "data")
        yield made
        database.obj.close_all()
        database.initialize(kept)
        made.stop()


def test_a_restarted_database_costs_no_reading_and_doubles_none(own_cluster, monkeypatch, tmp_path):
    monkeypatch.setattr("haremile.usecases.worker.LONGEST_PAUSE_S", 0.1)
    url = own_cluster.start()
    bench = wire(settings_from({"HAREMILE_DATA": str(tmp_path)}), url)
    study = bench.studies.create(checked_plan("Q", [install("A"), install("B")], 4, seed=1))
    rig = HeldRig()
    conductor = Conductor(bench.studies, bench.queue, bench.events, {"simulated": rig})
    outcome = []
    worker = threading.Thread(target=lambda: outcome.append(conductor.conduct(study.id)))
    worker.start()
    assert rig.reached.wait(WAIT_S)
    own_cluster.stop()
    rig.go.set()
    assert own_cluster.start() == url
    worker.join(WAIT_S)
    assert outcome == [True]
    runs = bench.studies.runs(study.id)
    assert [(run.state, run.attempt) for run in runs] == [(RunState.DONE, 1)] * 8
    assert len(bench.readings.readings(study.id)) == len(rig.orders) == 8
    kinds = [event.kind for event in bench.events.after(0, study.id)]
    assert kinds.count("run.done") == 8
    assert kinds.count("run.phase") == 8
