from haremile.core.records.study import RunState
from haremile.errors import RunFailedError
from haremile.usecases.conduct import Conductor
from haremile.usecases.plan import checked_plan
from helpers import FakeRig, install


def test_evidence_is_trimmed_but_never_what_a_reading_rests_on(bench):
    study = bench.studies.create(checked_plan("Q", [install("A"), install("B")], 2, seed=4))
    outcomes = [3.0, RunFailedError("no"), 4.0, RunFailedError("no")]
    rigs = {"simulated": FakeRig(outcomes)}
    Conductor(bench.studies, bench.queue, bench.events, rigs).conduct(study.id)
    sizes = bench.corrections.evidence_sizes()
    assert (sizes.all_count, sizes.spare_count) == (4, 2)
    assert bench.corrections.trim_evidence(sizes.all_bytes) == sizes
    one_less = bench.corrections.trim_evidence(sizes.all_bytes - 1)
    assert (one_less.all_count, one_less.spare_count) == (3, 1)
    least = bench.corrections.trim_evidence(0)
    assert (least.all_count, least.spare_count) == (2, 0)
    runs = bench.studies.runs(study.id)
    assert [run.state for run in runs].count(RunState.FAILED) == 2
    assert len(bench.readings.readings(study.id)) == 2
