import numpy as np
import pytest

from haremile.core.comparison.machines import contrast_over_machines, mirrored_machines
from haremile.core.comparison.records import Observation, Plan, RunOutcome
from haremile.core.records.margin import Margin
from haremile.core.records.study import RunState
from helpers import worded

NAMES = {1: "Varrow 12", 2: "Quillfern 9-rc", 3: "Varrow 12", 4: "Quillfern 9-rc"}
MACHINES = {1: "Laptop", 2: "Laptop", 3: "Board", 4: "Board"}
PLAN = Plan({"boot.total": Margin(amount=0.5)})


def found(medians, metric="boot.total", plan=PLAN):
    generator = np.random.default_rng(3)
    seen, runs = [], []
    for lane, median in medians.items():
        for _ in range(10):
            value = median + 0.1 * generator.normal()
            seen.append(Observation(lane, MACHINES[lane], metric, "hand", value, {}, "boot"))
            runs.append(RunOutcome(lane, MACHINES[lane], "boot", RunState.DONE))
    return worded({lane: NAMES[lane] for lane in medians}, seen, runs, plan)


def test_who_is_ahead_everywhere_is_said_with_the_mean_over_machines():
    (row,) = found({1: 20.0, 2: 16.0, 3: 40.0, 4: 34.0}).machines
    assert {one.machine: one.leader for one in row.leaders} == {
        "Board": "Quillfern 9-rc",
        "Laptop": "Quillfern 9-rc",
    }
    assert row.headline == "Quillfern 9-rc ahead on all 2 machines"
    assert "against the next it takes 82 % of Varrow 12’s time (18 % less)" in row.sentence
    pair = next(pair for pair in row.pairs if (pair.a, pair.b) == ("Varrow 12", "Quillfern 9-rc"))
    assert pair.found.geometric_mean == pytest.approx(np.sqrt(0.8 * 0.85), abs=0.01)


def test_where_machines_point_opposite_ways_no_mean_is_told():
    (row,) = found({1: 20.0, 2: 16.0, 3: 40.0, 4: 46.0}).machines
    assert row.headline.endswith("they disagree")
    assert "no mean is given there" in row.sentence
    pair = next(pair for pair in row.pairs if pair.b == "Quillfern 9-rc")
    assert pair.found.disagree
    assert pair.sentence == ("Quillfern 9-rc against Varrow 12: sooner on Laptop, later on Board.")


def test_a_pair_is_one_pair_in_whichever_order_its_lanes_stand(monkeypatch):
    monkeypatch.setitem(NAMES, 3, "Quillfern 9-rc")
    monkeypatch.setitem(NAMES, 4, "Varrow 12")
    (row,) = found({1: 20.0, 2: 16.0, 3: 34.0, 4: 40.0}).machines
    pair = next(pair for pair in row.pairs if (pair.a, pair.b) == ("Varrow 12", "Quillfern 9-rc"))
    assert [one.medians for one in pair.found.machines] == pytest.approx([0.85, 0.8], abs=0.01)
    assert len(row.pairs) == 2


def test_a_lane_that_mostly_times_out_has_no_ratio_over_machines():
    seen, runs = [], []
    for lane in (1, 2, 3, 4):
        for i in range(8):
            value = 10.0 + lane + i / 10
            late = lane == 2 and i < 6
            if not late:
                seen.append(
                    Observation(lane, MACHINES[lane], "boot.total", "hand", value, {}, "boot")
                )
            state = RunState.FAILED if late else RunState.DONE
            runs.append(RunOutcome(lane, MACHINES[lane], "boot", state, timed_out=late))
    told = worded(NAMES, seen, runs, PLAN)
    assert len(told.rows) == 2
    assert told.machines == ()


def test_rows_of_several_machines_name_theirs_and_those_of_one_do_not():
    several = found({1: 20.0, 2: 16.0, 3: 40.0, 4: 34.0}).rows
    assert [row.sentence.partition(":")[0] for row in several] == ["Board", "Laptop"]
    (alone,) = found({1: 20.0, 2: 16.0}).rows
    assert alone.sentence.startswith("Quillfern 9-rc is ahead of Varrow 12")
    assert not found({1: 20.0, 2: 16.0}).machines


def test_a_pair_turned_round_is_the_pair_the_other_way():
    ten = np.arange(10) / 10.0 + 10
    lanes = {"m": (ten, ten * 0.8), "n": (ten, ten * 0.7)}
    there = contrast_over_machines(lanes)
    back = contrast_over_machines({name: (b, a) for name, (a, b) in lanes.items()})
    turned = mirrored_machines(there)
    assert turned.geometric_mean == pytest.approx(back.geometric_mean)
    assert turned.interval.low == pytest.approx(back.interval.low)
    assert turned.machines[0].typical.interval.high == pytest.approx(
        back.machines[0].typical.interval.high
    )


def test_memory_is_never_told_without_the_swap_beside_it():
    seen, runs = [], []
    for lane, (used, swap) in {1: (300e6, 0.0), 2: (500e6, 64e6)}.items():
        for i in range(8):
            noise = i * 1e5
            for metric, value in (("memory.used", used + noise), ("memory.swap_used", swap)):
                seen.append(Observation(lane, "Bench", metric, "probe", value, {}, "idle"))
            runs.append(RunOutcome(lane, "Bench", "idle", RunState.DONE))
    rows = worded({1: "A", 2: "B"}, seen, runs, Plan()).rows
    memory = next(row for row in rows if row.metric == "memory.used")
    assert "B has 61.0 MiB in swap beside it" in memory.sentence
    assert "A has" not in memory.sentence


@pytest.mark.parametrize(
    ("medians", "says"),
    [
        ({1: 20.0, 2: 16.0}, "Quillfern 9-rc ahead by 4.0 s"),
        ({1: 20.0, 2: 20.0}, "Level: no difference beyond 0.5 s"),
        ({1: 20.0}, "20.0 s"),
    ],
)
def test_the_answer_is_told_in_a_few_words(medians, says):
    assert found(medians).rows[0].headline == says


def test_what_is_put_up_with_is_printed_in_the_sentence():
    seen, runs = [], []
    for lane, medium in ((1, "live"), (2, "installed")):
        for i in range(8):
            value, stated = 10.0 * lane + i / 9, {"medium": medium}
            seen.append(Observation(lane, "Bench", "boot.total", "hand", value, stated, "boot"))
            runs.append(RunOutcome(lane, "Bench", "boot", RunState.DONE))
    names = {1: "A", 2: "B"}
    (refused,) = worded(names, seen, runs, Plan()).rows
    assert refused.headline == "Not comparable: medium"
    (row,) = worded(names, seen, runs, Plan(overrides={"medium": "it is the question"})).rows
    assert row.leader == 1
    assert "overridden: it is the question" in row.sentence
