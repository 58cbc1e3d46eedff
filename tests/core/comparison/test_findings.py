import numpy as np
import pytest

from haremile.core.comparison.records import Observation, Plan, RunOutcome
from haremile.core.comparison.verdict import Verdict
from haremile.core.records.interim_looks import InterimLooks
from haremile.core.records.margin import Margin
from haremile.core.records.study import RunState
from helpers import worded

NAMES = {1: "Osterfell Base", 2: "Varrow 12 Tarnwick", 3: "Quillfern 8 Tarnwick"}
PLAN = Plan({"boot.total": Margin(amount=0.5)})


def study(medians, n=12, failed=(), conditions=None, planned=0, aside=(), metric="boot.total"):
    generator = np.random.default_rng(5)
    seen, runs = [], []
    for lane, median in medians.items():
        for i in range(n):
            value = median + 0.1 * generator.normal()
            stated = (conditions or {}).get(lane, {"accelerator": "tcg"})
            seen.append(
                Observation(
                    lane, "Bench", metric, "host-marker", value, stated, "boot", (lane, i) in aside
                )
            )
            runs.append(RunOutcome(lane, "Bench", "boot", RunState.DONE))
    runs += [RunOutcome(lane, "Bench", "boot", RunState.FAILED) for lane in failed]
    runs += [RunOutcome(1, "Bench", "boot", RunState.PLANNED)] * planned
    return worded({lane: NAMES[lane] for lane in medians}, seen, runs, PLAN)


def test_a_leader_is_named_with_shift_interval_and_direction():
    (row,) = study({1: 10.0, 2: 13.0, 3: 17.0}).rows
    assert row.verdict is Verdict.AHEAD
    assert row.leader == 1
    assert row.sentence.startswith(
        "Osterfell Base is ahead of every other. Against the next, Varrow 12 Tarnwick: typically 3."
    )
    assert "sooner (" in row.sentence
    assert row.family == 3


def test_failures_are_said_in_the_same_sentence_as_praise():
    found = study({1: 10.0, 2: 13.0}, failed=[1, 1, 1])
    (row,) = found.rows
    assert row.verdict is Verdict.AHEAD
    assert "Osterfell Base failed in 3 of 15 boots" in row.sentence
    assert "failed in 3 of 15 boots; the other never did" in found.reliability[0].sentence


def test_every_pair_speaks_both_ways_with_the_per_cent_the_right_way_round():
    (row,) = study({1: 10.0, 2: 12.5}).rows
    says = {(pair.a, pair.b): pair.sentence for pair in row.pairs}
    assert "takes 125 % of Osterfell Base’s time (25 % more)" in says[(1, 2)]
    assert "takes 80 % of Varrow 12 Tarnwick’s time (20 % less)" in says[(2, 1)]


def test_unlike_conditions_are_not_compared():
    unlike = {1: {"accelerator": "tcg"}, 2: {"accelerator": "kvm"}}
    (row,) = study({1: 10.0, 2: 13.0}, conditions=unlike).rows
    assert row.verdict is Verdict.NOT_COMPARABLE
    assert row.sentence == (
        "Not alike at the start: accelerator: tcg, kvm (run all guests with the same accelerator)."
    )
    assert {pair.found.verdict for pair in row.pairs} == {Verdict.NOT_COMPARABLE}


def test_no_verdict_is_read_before_the_sheet_is_done():
    found = study({1: 10.0, 2: 13.0}, planned=4)
    assert not found.is_complete
    assert found.rows[0].verdict is Verdict.UNDECIDED
    assert "24 of 28 so far" in found.rows[0].sentence
    assert {pair.found.verdict for pair in found.rows[0].pairs} == {Verdict.UNDECIDED}


def test_what_is_set_aside_does_not_count_but_is_counted():
    (row,) = study({1: 10.0, 2: 13.0}, aside={(1, 3), (1, 4)}).rows
    assert row.lanes[0].summary.n == 10
    assert row.lanes[0].set_aside == 2


def test_a_lane_whose_every_boot_failed_is_named():
    found = worded(
        {1: NAMES[1], 2: NAMES[2]},
        [Observation(1, "Bench", "boot.total", "host-marker", 3.0, {}, "boot")],
        [
            RunOutcome(1, "Bench", "boot", RunState.DONE),
            RunOutcome(2, "Bench", "boot", RunState.FAILED),
        ],
        Plan(),
    )
    assert found.rows[0].verdict is Verdict.UNDECIDED
    assert "No readings from Varrow 12 Tarnwick" in found.rows[0].sentence


def test_a_lane_without_readings_does_not_silence_the_others():
    seen = [o for lane in (1, 2) for o in observed(lane, 10.0 + 3 * lane)]
    runs = [RunOutcome(lane, "Bench", "boot", RunState.DONE) for lane in (1, 2)] * 12
    runs += [RunOutcome(3, "Bench", "boot", RunState.FAILED)] * 12
    (row,) = worded(NAMES, seen, runs, PLAN).rows
    assert row.leader == 1
    assert row.sentence.endswith("; Quillfern 8 Tarnwick failed in 12 of 12 boots.")
    assert row.family == 1


def observed(lane, median):
    values = median + np.linspace(-0.2, 0.2, 12)
    return [Observation(lane, "Bench", "boot.total", "serial", v, {}, "boot") for v in values]


def test_a_slow_first_reading_is_flagged_and_no_stall():
    values = [14.0, *np.linspace(10.0, 10.3, 11)]
    seen = [Observation(1, "B", "boot.total", "host-marker", v, {}, "boot") for v in values]
    runs = [RunOutcome(1, "B", "boot", RunState.DONE)] * 12
    (lane,) = worded({1: "A"}, seen, runs, Plan()).rows[0].lanes
    assert lane.slow_first
    assert lane.far_first
    assert lane.stalled == 0


def readings_of(lane, values):
    return [Observation(lane, "Bench", "boot.total", "serial", v, {}, "boot") for v in values]


def test_a_first_run_far_off_and_a_tail_beside_level_are_said():
    calm = list(np.linspace(10.0, 10.2, 11))
    seen = [*readings_of(1, [16.0, *calm]), *readings_of(2, [10.1, *calm])]
    runs = [RunOutcome(lane, "Bench", "boot", RunState.DONE) for lane in (1, 2) for _ in range(12)]
    (row,) = worded({1: "A", 2: "B"}, seen, runs, PLAN).rows
    assert "A’s first run took far longer than the rest" in row.sentence
    slow = [*np.linspace(10.0, 10.2, 16), *[12.0] * 4]
    seen = [*readings_of(1, slow), *readings_of(2, list(np.linspace(10.0, 10.2, 20)))]
    runs = [RunOutcome(lane, "Bench", "boot", RunState.DONE) for lane in (1, 2) for _ in range(20)]
    (row,) = worded({1: "A", 2: "B"}, seen, runs, PLAN).rows
    assert row.verdict is Verdict.LEVEL
    assert "one in ten runs of A lies 1.8 s above one in ten of B" in row.sentence


def test_cold_and_warm_starts_never_pool():
    seen = [
        Observation(lane, "B", "launch.settled", "probe", 1.0 + lane, {"start": start}, "launch")
        for lane in (1, 2)
        for start in ("warm", "first-after-boot")
        for _ in range(5)
    ]
    found = worded({1: "A", 2: "B"}, seen, [], Plan())
    assert [row.start for row in found.rows] == ["first-after-boot", "warm"]


def test_any_baseline_gives_the_same_pair_verdicts():
    (row,) = study({1: 10.0, 2: 10.4, 3: 13.0}).rows
    verdicts = {(pair.a, pair.b): pair.found.verdict for pair in row.pairs}
    for (a, b), verdict in verdicts.items():
        assert verdicts[(b, a)] is verdict.mirrored


def test_few_boots_say_what_they_cannot_see():
    found = study({1: 10.0, 2: 13.0}, n=20)
    assert "a failure rate of up to 14 % can go unseen" in found.reliability[0].sentence
    assert found.reliability[0].verdict is Verdict.UNDECIDED


def test_failures_beyond_doubt_are_behind():
    found = study({1: 10.0, 2: 13.0}, n=12, failed=[2] * 14)
    assert found.reliability[0].verdict is Verdict.BEHIND


def staged(medians, n, looks, late=None, finished=None, conditions=None):
    """A study in blocks: lane `late` becomes 5 s slower after block 10."""
    generator = np.random.default_rng(6)
    seen, runs = [], []
    for block in range(1, n + 1):
        for lane, median in medians.items():
            value = median + 0.1 * generator.normal() + 5.0 * (lane == late and block > 10)
            done = finished is None or block <= finished
            state = RunState.DONE if done else RunState.PLANNED
            runs.append(RunOutcome(lane, "Bench", "boot", state, block))
            if done:
                stated = conditions or {}
                seen.append(
                    Observation(
                        lane, "Bench", "boot.total", "serial", value, stated, "boot", block=block
                    )
                )
    return worded(NAMES, seen, runs, Plan(PLAN.margins, looks))


def test_a_verdict_reached_at_a_look_stands_over_later_blocks():
    looks = InterimLooks((10, 20))
    (row,) = staged({1: 10.0, 2: 12.0}, 20, looks, late=1).rows
    assert row.leader == 1
    assert row.pairs[0].found.look.blocks == 10
    (once,) = staged({1: 10.0, 2: 12.0}, 20, None, late=1).rows
    assert once.leader is None


def test_before_the_first_look_nothing_is_read_and_it_says_when():
    (row,) = staged({1: 10.0, 2: 12.0}, 20, InterimLooks((10, 20)), finished=9).rows
    assert row.verdict is Verdict.UNDECIDED
    assert "first read after block 10" in row.sentence
    (after,) = staged({1: 10.0, 2: 12.0}, 20, InterimLooks((10, 20)), finished=12).rows
    assert after.leader == 1


def test_a_sheet_says_once_how_many_false_rows_to_expect():
    found = staged({1: 10.0, 2: 12.0, 3: 12.01}, 12, None)
    assert found.expected_false.startswith("3 verdicts in 1 row;")
    assert "at most 0.05" in found.expected_false
    extended = staged({1: 10.0, 2: 12.0}, 12, InterimLooks((10,), (12,)))
    assert "at most 0.075" in extended.expected_false


def test_counts_of_an_install_are_exact_and_need_no_repeats():
    seen = [
        Observation(lane, "Bench", "disk.image", "package-db", size * 2.0**20, {}, "footprint")
        for lane, size in ((1, 2000), (2, 2600))
    ]
    runs = [RunOutcome(lane, "Bench", "footprint", RunState.DONE) for lane in (1, 2)]
    (row,) = worded(NAMES, seen, runs, Plan()).rows
    assert (row.verdict, row.leader) == (Verdict.AHEAD, 1)
    assert row.pairs[0].found.contrast.method == "counted"


def test_time_outs_count_in_the_whole_boot_and_not_in_its_parts():
    seen, runs = [], []
    for lane in (1, 2):
        for block in range(1, 13):
            late = lane == 2 and block <= 11
            state = RunState.FAILED if late else RunState.DONE
            runs.append(RunOutcome(lane, "Bench", "boot", state, block, late))
            if not late:
                for key in ("boot.total", "boot.kernel"):
                    value = 10.0 + block / 100
                    seen.append(Observation(lane, "Bench", key, "serial", value, {}, "boot"))
    total, kernel = worded(NAMES, seen, runs, Plan()).rows
    assert np.isinf(total.lanes[1].summary.median)
    assert (total.leader, kernel.leader) == (1, None)
    assert "beyond the time limit" in total.pairs[0].sentence
    assert "failed in 11 of 12 boots" in total.sentence


def test_one_after_the_other_is_said_to_mix_time_and_contender():
    (row,) = staged({1: 10.0, 2: 12.0}, 12, None, conditions={"switching": "reinstall"}).rows
    assert "one after the other, so contender and time are mixed up" in row.sentence


def test_fewer_than_twenty_runs_in_a_row_decide_nothing_and_say_why():
    (row,) = staged({1: 10.0, 2: 12.0}, 19, None, conditions={"switching": "reinstall"}).rows
    assert (row.verdict, row.leader) == (Verdict.UNDECIDED, None)
    assert row.pairs[0].found.repeats_needed == 20
    assert "it takes 20 of each" in row.sentence
    assert "of fewer than 20 runs in a row it cannot be known" in row.sentence


def in_blocks(drift, n=24, lanes=3, missing=(), looks=None, stated=None, is_late=False, apart=0.6):
    """Lanes so many seconds apart, with blocks that differ by so many times the noise (0.5 s)."""
    generator = np.random.default_rng(11)
    seen, runs = [], []
    for block in range(1, n + 1):
        shift = 0.5 * drift * generator.normal()
        for lane in range(1, lanes + 1):
            value = 10.0 + apart * lane + shift + 0.5 * generator.normal()
            is_there = (lane, block) not in missing
            state = RunState.DONE if is_there else RunState.FAILED
            late = is_late and not is_there
            runs.append(RunOutcome(lane, "Bench", "boot", state, block, late))
            if is_there:
                told = (lane, "Bench", "boot.total", "serial", value, stated or {}, "boot")
                seen.append(Observation(*told, block=block))
    margins = {"boot.total": Margin(amount=0.1)}
    return worded(NAMES, seen, runs, Plan(margins, looks)).rows[0]


def test_more_runs_in_a_row_have_intervals_widened_by_how_they_may_resemble_one_another():
    shuffled, in_a_row = (
        in_blocks(0.0, 30, lanes=2, stated=stated) for stated in ({}, {"switching": "reinstall"})
    )
    assert in_a_row.leader == shuffled.leader == 1
    narrow, wide = (row.pairs[0].found.contrast for row in (shuffled, in_a_row))
    factor = wide.shift.interval.width / narrow.shift.interval.width
    dependence = in_a_row.pairs[0].found.dependence
    assert 0.0 < dependence < 0.95
    assert factor == pytest.approx(((1 + dependence) / (1 - dependence)) ** 0.5)
    assert wide.shift.value == narrow.shift.value
    assert f"{factor:.1f} times as wide" in in_a_row.sentence


def test_blocks_that_differ_are_compared_within_and_it_is_said():
    row = in_blocks(2.0)
    assert row.pairs[0].found.contrast.method == "signed rank"
    assert row.leader == 1
    assert 0.6 < row.block_share < 1.0
    assert f"compared within blocks, between which {100 * row.block_share:.0f} %" in row.sentence


def test_blocks_that_are_alike_are_not_paired():
    row = in_blocks(0.0)
    assert row.block_share is None
    assert row.pairs[0].found.contrast.method == "studentised rank"
    assert "within blocks" not in row.sentence


def test_a_block_that_lacks_a_run_is_left_out_of_the_pairs_and_many_forbid_them():
    row = in_blocks(2.0, missing={(2, 5), (3, 9)})
    assert row.pairs[0].found.contrast.n_a == 22
    assert row.lanes[0].summary.n == 24
    few = in_blocks(2.0, missing={(1, block) for block in range(1, 7)})
    assert few.block_share is None


def test_a_run_that_timed_out_is_never_left_out_for_the_sake_of_pairs():
    row = in_blocks(2.0, missing={(3, 9)}, is_late=True)
    assert row.block_share is None
    assert row.pairs[0].found.contrast.n_a == 24
    assert max(lane.summary.timed_out for lane in row.lanes) == 1


def test_too_few_blocks_for_the_level_are_compared_as_they_are():
    row = in_blocks(2.0, n=6)
    assert row.block_share is None
    assert row.pairs[0].found.contrast.method == "studentised rank"


def test_a_first_look_that_pairs_cannot_decide_is_read_as_it_is():
    assert in_blocks(2.0, n=20, looks=InterimLooks((10, 20))).block_share is not None
    assert in_blocks(2.0, n=20, looks=InterimLooks((8, 20))).block_share is None


def test_a_look_that_is_too_early_decides_nothing_and_says_what_it_takes():
    row = in_blocks(0.0, n=4, looks=InterimLooks((2, 4)))
    assert {pair.found.repeats_needed for pair in row.pairs} == {5}
    assert row.leader is None


def test_verdicts_after_every_block_stand_from_the_first_that_is_reached():
    looks = InterimLooks.after_every_block(24)
    rows = [in_blocks(0.0, n=n, looks=looks, apart=0.4) for n in range(4, 25)]
    told = [row.pairs[0].found for row in rows if row.early is None]
    decided = [one for one in told if not one.is_open]
    assert 0 < len(decided) < len(told)
    assert {one.look.blocks for one in decided} == {decided[0].look.blocks}
    assert decided[-1].is_corrected
    once = in_blocks(0.0, n=decided[-1].look.blocks, apart=0.4).pairs[0].found
    assert abs(decided[-1].contrast.shift.value) < abs(once.contrast.shift.value)
    assert rows[0].early.first_look == 10


def test_the_form_is_told_once_at_the_first_look():
    looks = InterimLooks((12, 24))
    early, late = (in_blocks(2.0, n=n, looks=looks) for n in (12, 24))
    assert early.block_share == late.block_share
    assert late.pairs[0].found.contrast.method == "signed rank"


def test_a_condition_that_changes_on_the_way_is_a_break_and_said():
    seen, runs = [], []
    for block in range(1, 13):
        for lane, typical in ((1, 10.0), (2, 13.0)):
            kernel = "6.2" if lane == 2 and block > 6 else "6.1"
            stated = {"kernel": kernel, "host_load": str(block)}
            seen.append(
                Observation(
                    lane,
                    "Bench",
                    "boot.total",
                    "serial",
                    typical + block / 100,
                    stated,
                    "boot",
                    block=block,
                )
            )
            runs.append(RunOutcome(lane, "Bench", "boot", RunState.DONE, block))
    (row,) = worded(NAMES, seen, runs, PLAN).rows
    steady, changed = row.lanes
    assert steady.breaks == ()
    (found,) = changed.breaks
    assert (found.key, found.before, found.after, found.block) == ("kernel", "6.1", "6.2", 7)
    assert "Varrow 12 Tarnwick’s kernel changed from 6.1 to 6.2 at block 7" in row.sentence
