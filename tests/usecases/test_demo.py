"""The sample world: its findings recover what is true of it."""

import pytest

from haremile.core.comparison.claims import Kept
from haremile.core.comparison.verdict import Verdict
from haremile.core.load.smallest import Fit
from haremile.core.records.library import Noun
from haremile.core.records.metrics import GoodEnd
from haremile.core.records.study import StudyState
from haremile.core.records.units import MIB
from haremile.core.simulation.machine import MetricTruth
from haremile.demo.by_hand import STICKS
from haremile.demo.load import load_sample_world
from haremile.demo.ramps import GIGABYTE
from haremile.demo.world import DRAFT, EVERYWHERE, HERBARIUM, INSTALLS, LADDER, STUDIES
from haremile.usecases.boot_parts import boot_units, study_boot_parts
from haremile.usecases.compare import study_findings
from haremile.usecases.early_end import asked_of, is_all_decided
from haremile.usecases.library import library_page
from haremile.usecases.noise import row_noise
from haremile.usecases.ramps import Asked, Check, study_ramps
from haremile.usecases.row_notes import row_notes


@pytest.fixture(name="world")
def bench_with_world(bench, world):
    return bench, world


def true_value(lane, metric):
    if metric == "boot.total":
        return lane.typical_total
    found: MetricTruth | None = lane.metrics.get(metric)
    return found.typical if found else None


def test_all_studies_but_two_are_finished(world):
    _, digests = world
    assert len(digests) == len(STUDIES) + 4
    states = sorted(digest.state for digest in digests.values())
    done = [StudyState.DONE] * (len(STUDIES) + 2)
    assert states == [*done, StudyState.DRAFT, StudyState.PAUSED]
    drafted = digests.pop(DRAFT.title)
    assert (drafted.runs, len(drafted.contenders)) == (0, 2)
    half = next(d for d in digests.values() if d.state is StudyState.PAUSED)
    assert 0 < half.finished < half.runs
    assert half.can_run
    assert sum(digest.failed for digest in digests.values()) >= 4
    for title in (STICKS.title, GIGABYTE.title):
        digests.pop(title)
    assert all(1 <= len(digest.contenders) <= 12 for digest in digests.values())


@pytest.mark.parametrize(
    "truth",
    [t for t in STUDIES if t.done_runs is None and len(t.lanes) > 1],
    ids=lambda t: t.title,
)
def test_findings_recover_the_truth(world, truth):
    bench, digests = world
    found = study_findings(bench.studies, bench.readings, digests[truth.title].id)
    lanes = list(truth.lanes.values())
    judged = 0
    for row in found.rows:
        margin = row.margin.amount
        if row.start or row.verdict is Verdict.NOT_COMPARABLE or row.good_end is GoodEnd.HIGH:
            continue
        for pair in row.pairs:
            a, b = (true_value(lanes[lane - 1], row.metric) for lane in (pair.a, pair.b))
            difference = b - a
            is_calm = all(lanes[lane - 1].failure_share == 0 for lane in (pair.a, pair.b))
            if pair.found.verdict in (Verdict.AHEAD, Verdict.LOWER):
                assert difference < -0.8 * margin, (row.label, pair.sentence)
            if abs(difference) > 3 * margin and is_calm:
                assert pair.found.verdict.is_decided_difference, (row.label, pair.sentence)
                judged += 1
    least = 0 if truth.ended_after else 21 if truth.began is None else 2
    assert judged >= least


def test_every_run_of_a_sheet_that_is_done_has_its_readings(world):
    _, digests = world
    assert (digests[LADDER.title].runs, digests[LADDER.title].finished) == (8, 8)


def test_the_ladder_tells_the_least_memory_and_a_claim_that_does_not_hold(world):
    bench, digests = world
    (row,) = study_findings(bench.studies, bench.readings, digests[LADDER.title].id).rows
    assert row.headline == "Osterfell Base needs 256 MiB less"
    assert "can still pass" in row.sentence
    assert "usability not measured" in row.label
    kept = {}
    for system in bench.things.all(Noun.SYSTEM):
        for claim in library_page(bench.things, Noun.SYSTEM, system.id).claims:
            if claim.claim.key == "least_memory":
                kept[system.name] = [one.kept for one in claim.measured]
    assert kept == {
        "Osterfell Base": [Kept.KEPT],
        "Quillfern 9-rc Tarnwick": [Kept.KEPT],
        "Marlstone 26.1 Mossgate": [Kept.NOT_KEPT],
    }


def test_a_race_by_hand_is_recovered_in_spite_of_who_timed_it(world):
    bench, digests = world
    study = digests[STICKS.title].id
    rows = {row.metric: row for row in study_findings(bench.studies, bench.readings, study).rows}
    total = rows["boot.total"]
    (left, right) = STICKS.desktop_s.values()
    pair = next(pair for pair in total.pairs if (pair.a, pair.b) == (1, 2))
    assert pair.found.verdict is Verdict.BEHIND
    shift = pair.found.contrast.shift.interval
    assert shift.low <= right - left <= shift.high
    for lane, true in zip(total.lanes, (left, right), strict=True):
        interval = lane.summary.median_interval
        assert interval.low <= true <= interval.high
    assert rows["wait.person"].good_end is GoodEnd.NONE
    (quoted,) = bench.beside.quoted(study)
    assert quoted.row_key == total.key


def test_ramps_tell_who_carries_how_many_and_what_they_need(world):
    bench, digests = world
    asked = Asked(10, 100 * MIB, 0.0, [2**30, 2 * 2**30])
    found = study_ramps(bench.studies, bench.readings, digests[GIGABYTE.title].id, asked)
    assert found.headline.startswith("Quillfern 9-rc Tarnwick carries 13 pages, Varrow 12")
    for lane, (name, true) in zip(found.lanes, GIGABYTE.systems.items(), strict=True):
        assert lane.carried == GIGABYTE.carried(name)
        assert not lane.is_at_least
        needs = (true.base + 10 * true.page + 100) * MIB
        assert lane.need.low - 6 * MIB <= needs <= lane.need.high + 6 * MIB
        assert lane.step == pytest.approx(true.page * MIB, rel=0.02)
        assert {run.memory for run in lane.runs} == {2.0**30}
    assert [lane.fits[1] for lane in found.lanes] == [Fit.FITS] * 3
    assert found.lanes[2].fits[0] is Fit.DOES_NOT_FIT
    seen = [lane.checks for lane in found.lanes]
    assert seen == [(Check(0, 6), None), (Check(6, 6), None), (Check(0, 6), None)]


def test_loading_twice_adds_nothing(world):
    bench, _ = world
    assert load_sample_world(bench, bench.intake_here(), print) == 0


def test_the_systems_have_facts_and_claims_some_kept_and_some_not(world):
    bench, _ = world
    kept = set()
    for system in bench.things.all(Noun.SYSTEM):
        assert system.present() or not system.studies
        page = library_page(bench.things, Noun.SYSTEM, system.id)
        kept |= {one.kept for claim in page.claims for one in claim.measured}
    assert {Kept.KEPT, Kept.NOT_KEPT} <= kept


def test_other_browser_versions_are_not_compared(world):
    bench, digests = world
    herbarium = next(d for d in digests.values() if "Herbarium laptop soonest" in d.title)
    found = study_findings(bench.studies, bench.readings, herbarium.id)
    launches = [row for row in found.rows if row.metric == "launch.settled"]
    assert {row.verdict for row in launches} == {Verdict.NOT_COMPARABLE}
    assert "application version: 41, 42" in launches[0].sentence


def test_the_half_done_study_goes_on_in_the_lanes_it_began(world):
    bench, digests = world
    half = next(d for d in digests.values() if d.state is StudyState.PAUSED)
    assert bench.conductor.conduct(half.id)
    found = study_findings(bench.studies, bench.readings, half.id)
    assert found.is_complete
    row = next(row for row in found.rows if row.metric == "memory.used")
    assert row.verdict is Verdict.AHEAD
    assert [d.key for d in row.fair_start] == ["kernel"]
    assert sum(lane.summary.n for lane in row.lanes) + sum(lane.failed for lane in row.lanes) == 80
    total = next(row for row in found.rows if row.metric == "boot.total")
    assert total.lanes[2].stalled > 0
    assert "Marlstone 26.1 Thistlow stalls in" in total.sentence
    notes = {
        one.lane_no: " ".join(one.notes)
        for one in row_notes(found.rows, bench.readings.observations(half.id), total.key)
    }
    assert "Readings rise over the runs" in notes[4]
    assert "The first run is" in notes[1]


def test_two_humps_failures_and_slow_first_runs_are_pointed_out(world):
    bench, digests = world
    study_id = digests[HERBARIUM.title].id
    rows = study_findings(bench.studies, bench.readings, study_id).rows
    observed = bench.readings.observations(study_id)
    notes = {one.lane_no: one.notes for one in row_notes(rows, observed, rows[0].key)}
    assert notes[3] == (
        "Readings gather around 20.3 and 23.0 s: one typical value does not tell it all.",
    )
    assert all(notes[lane][0].startswith("The first run is") for lane in (1, 2, 4, 5))
    assert "Quillfern 9-rc Tarnwick failed in 3 of 20 boots" in rows[0].sentence


def test_of_calm_lanes_nothing_is_pointed_out(world):
    """Humps, drifts and slow first runs are told where they are true, and hardly anywhere else."""
    bench, digests = world
    told, lanes = [], 0
    for truth in STUDIES:
        if truth.done_runs is not None:
            continue
        study_id = digests[truth.title].id
        rows = study_findings(bench.studies, bench.readings, study_id).rows
        observed = bench.readings.observations(study_id)
        true = {i: lane.metrics for i, lane in enumerate(truth.lanes.values(), start=1)}
        for row in rows:
            if row.metric not in ("memory.used", "disk.used", "process.count", "boot.kernel"):
                continue
            for lane in row_notes(rows, observed, row.key):
                lanes += 1
                told += [(row.label, true[lane.lane_no], lane.notes)] if lane.notes else []
    assert lanes > 100
    assert len(told) <= 0.01 * lanes, told


def test_machines_disagree_where_that_is_true(world):
    bench, digests = world
    found = study_findings(bench.studies, bench.readings, digests[EVERYWHERE.title].id)
    total = next(row for row in found.machines if row.metric == "boot.total")
    turned = {(pair.a, pair.b): pair.found.disagree for pair in total.pairs}
    assert turned["Quillfern 8 Tarnwick", "Quillfern 9-rc Tarnwick"]
    memory = next(row for row in found.machines if row.metric == "memory.used")
    assert memory.headline == "Quillfern 9-rc Tarnwick uses least on all 4 machines"
    assert not any(pair.found.disagree for pair in memory.pairs)


def test_the_study_of_two_installs_each_ended_where_all_was_decided(world):
    bench, digests = world
    study = bench.studies.get(digests[INSTALLS.title].id)
    assert (study.blocks, study.interim_looks.blocks) == (12, 36)
    rows = study_findings(bench.studies, bench.readings, study.id).rows
    assert is_all_decided(asked_of(study), rows)
    key = next(row.key for row in rows if row.metric == "boot.total")
    noise = row_noise(bench.studies, bench.readings, study.id, key)
    assert all(part.sd is not None for part in noise.parts)


def test_a_boot_of_the_sample_world_can_be_opened(world):
    bench, digests = world
    board = study_boot_parts(bench.studies, bench.readings, digests[EVERYWHERE.title].id)
    lane = next(found for found in board if found.machine == "Field-kit board").lanes[2]
    units = boot_units(bench.readings, lane.opened[0].run_id)
    longest = max(units, key=lambda unit: (unit.ready_s or 0.0) - unit.start_s)
    assert longest.name == "coppicer-index.service"
    assert [unit.start_s for unit in units] == sorted(unit.start_s for unit in units)
