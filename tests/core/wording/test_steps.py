"""How a verdict came about: every step has the very figures that the verdict is read from."""

import numpy as np
import pytest

from haremile.core.comparison.findings import find
from haremile.core.comparison.records import Observation, Plan, RunOutcome
from haremile.core.records.margin import Margin
from haremile.core.records.study import RunState
from haremile.core.wording.steps import steps_against

NAMES = {1: "Varrow 12", 2: "Quillfern 8", 3: "Marlstone 26"}


def found(places, n=20, margin=None, noise=0.2, drift=0.0, late=(), **stated):
    """The only row of a study in blocks; lane 1 stands at 10 s."""
    generator = np.random.default_rng(3)
    seen, runs = [], []
    for block in range(1, n + 1):
        shift = drift * generator.normal()
        for lane, place in enumerate(places, 1):
            value = place + shift + noise * generator.normal()
            is_late = (lane, block) in late
            state = RunState.FAILED if is_late else RunState.DONE
            runs.append(RunOutcome(lane, "Bench", "boot", state, block, is_late))
            if not is_late:
                told = (lane, "Bench", "boot.total", "serial", value, stated, "boot")
                seen.append(Observation(*told, block=block))
    margins = {"boot.total": margin or Margin(amount=0.5)}
    (row,) = find(NAMES, seen, runs, Plan(margins)).rows
    return row


def told(row, against=1):
    (first, *_) = steps_against(row, NAMES, against)
    return {step.title: step.text for step in first.steps}


def test_a_decided_difference_is_told_from_its_readings_to_its_verdict():
    row = found([10.0, 12.4])
    pair = next(one.found for one in row.pairs if one.a == 1)
    steps = told(row)
    assert list(steps) == ["Readings", "Differences", "Interval", "Margin", "Verdict"]
    assert "Varrow 12: 20 readings, half of them up to 10.0 s." in steps["Readings"]
    assert "400 differences" in steps["Differences"]
    assert f"+{pair.contrast.shift.value:.1f} s, the typical difference" in steps["Differences"]
    limits = pair.contrast.shift.interval
    assert f"+{limits.low:.1f} s to +{limits.high:.1f} s" in steps["Interval"]
    assert f"{100 * limits.level:.2f}".rstrip("0") in steps["Interval"]
    assert "Stated before the runs: 0.5 s" in steps["Margin"]
    assert steps["Verdict"] == ("The whole interval lies beyond the margin: Quillfern 8 is behind.")


def test_the_error_of_several_pairs_is_said_to_be_shared_out():
    row = found([10.0, 12.4, 15.0])
    assert [one.b for one in steps_against(row, NAMES, 2)] == [1, 3]
    assert "5 % of error shared out over all 3 pairs" in told(row)["Interval"]


def test_level_is_told_by_the_narrower_interval_inside_the_margin():
    row = found([10.0, 10.05])
    pair = next(one.found for one in row.pairs if one.a == 1)
    said = told(row)["Verdict"]
    assert f"{pair.inner.shift.interval.high:.2f}" in said
    assert said.endswith("lies within the margin: level.")


def test_an_undecided_pair_says_what_lacks_and_where_it_leans():
    assert "undecided, leaning to behind" in told(found([10.0, 10.5]))["Verdict"]
    few = told(found([10.0, 12.0], n=3))["Verdict"]
    assert few == "Too few readings: it takes 4 of each."
    none = told(found([10.0, 12.0], margin=Margin()))
    assert "None was stated" in none["Margin"]


def test_a_margin_that_is_a_share_has_the_interval_as_a_ratio():
    row = found([10.0, 12.4], margin=Margin(share=0.03))
    ratio = next(one.found for one in row.pairs if one.a == 1).contrast.ratio.interval
    assert f"(as a ratio {ratio.low:.3f} to {ratio.high:.3f})" in told(row)["Interval"]


def test_blocks_and_runs_in_a_row_are_explained():
    within = told(found([10.0, 12.4], drift=0.6))
    assert "In each of 20 blocks the reading of Quillfern 8 less" in within["Differences"]
    assert "% of the noise lies between them" in within["Differences"]
    in_a_row = told(found([10.0, 12.4], n=25, switching="reinstall"))
    assert "times as wide, for runs that follow one another" in in_a_row["Interval"]


@pytest.mark.parametrize("late", [{(2, 4)}, {(2, block) for block in range(1, 15)}])
def test_runs_that_timed_out_are_said_to_count(late):
    steps = told(found([10.0, 12.4], late=late))
    assert f"{len(late)} that timed out, taken as slower than all" in steps["Readings"]
    assert "nan" not in " ".join(steps.values())


def test_a_lane_that_is_not_there_has_no_steps():
    assert steps_against(found([10.0, 12.4]), NAMES, 9) == []
