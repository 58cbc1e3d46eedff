"""What a plan promises to tell is what studies planned so then tell."""

import numpy as np
import pytest

from haremile.core.comparison.verdict import Verdict, VerdictRule, pair_verdict
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import metric
from haremile.core.simulation.machine import LaneTruth, MetricTruth, simulate_run
from haremile.demo.world import HERBARIUM, MARGINS
from haremile.usecases.import_readings import import_study
from haremile.usecases.outlook import Asked

SYSTEM = "Varrow 12 Tarnwick"
BOOT = HERBARIUM.lanes[SYSTEM].metrics
TRUTHS: dict[str, MetricTruth] = {
    "boot.kernel": BOOT["boot.kernel"],
    "memory.used": BOOT["memory.used"],
    "launch.settled": HERBARIUM.launches[SYSTEM].warm,
}
PAST, STUDIES = 150, 2000


def values(truth, seed, lane, count):
    """Readings of one metric, run after run; the first run, which is slower, is left out."""
    made = LaneTruth({"launch.settled": truth})
    return [
        simulate_run(made, seed, lane, block).values["launch.settled"]
        for block in range(2, count + 2)
    ]


@pytest.mark.long
@pytest.mark.parametrize("repeats", [5, 8, 12, 20])
@pytest.mark.parametrize("key", TRUTHS)
def test_nine_studies_in_ten_call_the_difference_that_is_promised(bench, key, repeats):
    truth, unit = TRUTHS[key], metric(key).unit
    launch = key.startswith("launch")
    rows = [
        f"{system},Laptop,{key},{value},{unit}{',Wayfarrow,warm' if launch else ''}"
        for lane, system in enumerate("AB")
        for value in values(truth, 1, lane, PAST)
    ]
    head = "system,machine,metric,value,unit"
    head += ",condition.app,condition.start" if launch else ""
    import_study(bench.studies, bench.readings, "Past", "\n".join([head, *rows]).encode())
    procedure = "launch:Wayfarrow" if launch else metric(key).procedures[0]
    asked = Asked(bench.library.installs(), [procedure], repeats, MARGINS)
    told = bench.outlooks.tell(asked).lines
    found = next(line.found for line in told if line.found.metric == key)
    rule = VerdictRule(Margin(amount=found.margin), metric(key).good_end)
    called = 0
    for study in range(STUDIES):
        a, b = (np.array(values(truth, 100 + study, lane, repeats)) for lane in (1, 2))
        called += pair_verdict(a, b + found.smallest, rule).verdict is Verdict.BEHIND
    assert called / STUDIES == pytest.approx(0.9, abs=0.03)
