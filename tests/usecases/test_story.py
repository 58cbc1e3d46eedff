from haremile.errors import RunFailedError
from haremile.usecases.conduct import Conductor
from haremile.usecases.plan import checked_plan
from haremile.usecases.story import described_states, told
from helpers import FakeRig, install


def test_events_alone_tell_what_became_of_every_run(bench):
    plan = checked_plan("Which?", [install("A"), install("B")], 4, seed=4)
    study = bench.studies.create(plan)
    rig = FakeRig([3.0, RunFailedError("its disk is full"), 3.0])
    conductor = Conductor(bench.studies, bench.queue, bench.events, {"simulated": rig})
    assert not conductor.conduct(study.id, stop=lambda: len(rig.orders) == 5)
    runs = bench.studies.runs(study.id)
    bench.queue.skip(runs[6].id, "the lid is broken")
    lease = bench.queue.lease_next(study.id)
    bench.queue.begin(lease)
    events = bench.events.after(0, study.id)
    found = described_states(events)
    runs = bench.studies.runs(study.id)
    assert {run.id: run.state for run in runs if run.id in found} == found
    assert all(run.state == "planned" for run in runs if run.id not in found)
    names = {run.id: f"run {run.position}" for run in runs}
    lines = [told(event, names) for event in events]
    assert lines[0] == "planned"
    assert "run 2: failed: failed: its disk is full" in lines
    assert "run 7: skipped: the lid is broken" in lines
    assert "it is paused" in lines
    assert "run 1: phase: power-on" in lines
