"""Loads the sample world, through the same take-in path as a user's file."""

import csv
import io
from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from functools import partial
from typing import Protocol

from haremile.core.planning.run_sheet import SheetLine, run_sheet
from haremile.core.records.draft import Draft
from haremile.core.records.interim_looks import InterimLooks
from haremile.core.records.metrics import metric
from haremile.core.records.study import Install, Study, StudyState
from haremile.core.simulation.machine import (
    LaneTruth,
    MetricTruth,
    SimulatedRun,
    simulate_run,
    simulated_method,
)
from haremile.demo.by_hand import EARLIER, STICKS, hand_files
from haremile.demo.captures import capture_file
from haremile.demo.facts import load_facts
from haremile.demo.incidents import load_incidents
from haremile.demo.own_measures import define_measures
from haremile.demo.ramps import GIGABYTE, ramp_files
from haremile.demo.scorecards import load_scorecards
from haremile.demo.world import (
    BANDS,
    DRAFT,
    DRIFT_BLOCKS,
    LADDER,
    LEAD,
    MACHINES,
    MARGINS,
    PUBLISHED,
    REFERENCE,
    REPORTED,
    STUDIES,
    SYSTEMS,
    WEIGHTS,
    StudyTruth,
)
from haremile.usecases.early_end import ALL_DECIDED
from haremile.usecases.import_readings import take_in_file
from haremile.usecases.intake import Intake
from haremile.usecases.ports import (
    Beside,
    EverMeasured,
    Incidents,
    OwnMeasures,
    ReadingRepository,
    RunQueue,
    Scorecards,
    StudyPlan,
    StudyRepository,
    Things,
    WeightSets,
)
from haremile.usecases.publish import Publishing
from haremile.usecases.quoted import quoted_figure
from haremile.usecases.report import study_report
from haremile.usecases.totals import AskedTotals, kept_set

FIRST_MORNING = datetime(2026, 10, 5, 8, 0, tzinfo=UTC)
BETWEEN_RUNS = timedelta(seconds=95)
COLUMNS = (
    "system",
    "machine",
    "install",
    "metric",
    "value",
    "unit",
    "method",
    "run",
    "block",
    "at",
    "outcome",
    "reason",
    "set_aside",
)


class Shelves(Protocol):
    """Where the sample world is kept."""

    @property
    def studies(self) -> StudyRepository:
        """Studies."""

    @property
    def queue(self) -> RunQueue:
        """Runs to be done."""

    @property
    def readings(self) -> ReadingRepository:
        """Readings and evidence."""

    @property
    def things(self) -> Things:
        """What is known of systems and machines."""

    @property
    def beside(self) -> Beside:
        """Quoted figures."""

    @property
    def own_measures(self) -> OwnMeasures:
        """Measures of the tester's own."""

    @property
    def incidents(self) -> Incidents:
        """What went wrong."""

    @property
    def scorecards(self) -> Scorecards:
        """What testers say of systems."""

    @property
    def publishing(self) -> Publishing:
        """Publishes reports."""

    @property
    def weight_sets(self) -> WeightSets:
        """Sets of weights."""

    @property
    def ever(self) -> EverMeasured:
        """Bands of measures."""


def load_sample_world(shelves: Shelves, intake: Intake, say: Callable[[str], None]) -> int:
    """Keep the studies that were never there; return how many were added."""
    studies = shelves.studies
    known = studies.titles_planned()

    def planned(truth: StudyTruth) -> None:
        study = studies.create(_plan(truth))
        for key, reason in truth.overrides.items():
            studies.override(study.id, key, reason)
        if truth.units:
            intake.take_in(study.id, capture_files(truth))
        else:
            take_in_file(shelves.readings, study, readings_file(truth))
        if truth.ended_after is not None:
            shelves.queue.end_after(study.id, truth.ended_after, ALL_DECIDED)
        is_whole = truth.done_runs is None
        studies.set_state(study.id, StudyState.DONE if is_whole else StudyState.PAUSED)
        if truth.machine == DRAFT.machine and DRAFT.title not in known:
            _draft(studies, study)

    def timed_by_hand() -> None:
        timed = intake.new_study(STICKS.title, hand_files()).study
        shelves.beside.quote(quoted_figure(EARLIER, timed, FIRST_MORNING))

    def ramped() -> None:
        intake.new_study(GIGABYTE.title, ramp_files())

    # captures know systems by name alone: what is planned, with all that is known of them, is first
    loaders: list[tuple[str, Callable[[], None]]] = [
        (truth.title, partial(planned, truth)) for truth in (LADDER, *STUDIES)
    ]
    loaders[-1:-1] = [(STICKS.title, timed_by_hand), (GIGABYTE.title, ramped)]
    missing = [one for one in loaders if one[0] not in known]
    for title, load in missing:
        say(f"loading the sample study: {title}")
        load()
    if missing:
        load_facts(shelves.things)
        define_measures(shelves.own_measures)
        _set_up_standings(shelves)
        load_incidents(shelves.incidents, shelves.things)
        load_scorecards(shelves.scorecards, shelves.things, shelves.incidents)
        _publish(shelves)
    return len(missing)


def _set_up_standings(shelves: Shelves) -> None:
    """Bands and sets of weights, where there are none."""
    if shelves.ever.bands("memory.used") is None:
        shelves.ever.set_bands("memory.used", BANDS)
    known = {one.name for one in shelves.weight_sets.all()}
    for name, (use, weights) in WEIGHTS.items():
        if name not in known:
            asked = AskedTotals(weights=weights, reference=REFERENCE)
            kept_set(shelves.ever, shelves.weight_sets, asked, name, use)


def _publish(shelves: Shelves) -> None:
    """The report of the first study, with a lead of the tester's own, where none is out yet."""
    told = next((one for one in shelves.studies.digests() if one.title == REPORTED), None)
    reports = shelves.publishing.sources.reports
    if told is None or reports.versions(told.id):
        return
    words = study_report(shelves.publishing.sources, told.id).words
    reports.write(told.id, replace(words, lead=f"{LEAD}\n\n{words.lead}"))
    shelves.publishing.publish(told.id, PUBLISHED)


def _draft(studies: StudyRepository, like: Study) -> None:
    """The study that is still being planned, with contenders of this one."""
    keys = {one.install.system.name: one.install.id for one in like.contenders}
    chosen = [keys[name] for name in DRAFT.systems]
    draft = Draft(installs=tuple(key for key in chosen if key is not None), margins=MARGINS)
    studies.create_draft(DRAFT.title, draft)


def _plan(truth: StudyTruth) -> StudyPlan:
    simulated = truth.done_runs is not None
    installs = []
    for name in truth.lanes:
        seat = truth.seat(name)
        installs.append(
            Install(
                SYSTEMS[seat.system],
                MACHINES[seat.machine],
                seat.install,
                rig="simulated" if simulated else None,
                recipe={"truth": f"{seat.machine}/{seat.system}"} if simulated else {},
            )
        )
    looks = InterimLooks.after_every_block(truth.blocks) if truth.ended_after else None
    return StudyPlan(
        truth.title,
        installs,
        truth.blocks,
        truth.seed,
        truth.margins,
        truth.procedures,
        interim_looks=looks.planned if looks else (),
    )


def readings_file(truth: StudyTruth) -> bytes:
    """The readings of a sample study as a file that a user might have."""
    conditions = sorted({key for lane in truth.lanes.values() for key in lane.conditions})
    if truth.launches:
        conditions = sorted({*conditions, "start", "app", "app_version"})
    output = io.StringIO(newline="")
    names = [*COLUMNS, *(f"condition.{key}" for key in conditions)]
    writer = csv.DictWriter(output, names, lineterminator="\n")
    writer.writeheader()
    for row in _rows(truth):
        writer.writerow(row)
    return output.getvalue().encode()


def capture_files(truth: StudyTruth) -> list[tuple[str, bytes]]:
    """The same as captures of the probe, one for each boot."""
    return [
        capture_file(truth, name, line, drawn, begun_at(truth, line))
        for name, line, drawn in drawn_runs(truth)
    ]


def begun_at(truth: StudyTruth, line: SheetLine) -> datetime:
    """When a run of the sheet was made."""
    began = truth.began or FIRST_MORNING
    if truth.months:
        began += (line.block - 1) // DRIFT_BLOCKS * timedelta(days=30)
    return began + line.position * BETWEEN_RUNS


_Row = dict[str, object]


def _rows(truth: StudyTruth) -> Iterator[_Row]:
    for name, line, drawn in drawn_runs(truth):
        yield from _boot_rows(truth, name, line, drawn)
        if drawn.failure is None:
            yield from _launch_rows(truth, name, line)


def drawn_runs(truth: StudyTruth) -> Iterator[tuple[str, SheetLine, SimulatedRun]]:
    """Every run that is in: its lane's name, its place in the sheet, and what was read."""
    names = list(truth.lanes)
    sheet = run_sheet(range(1, len(names) + 1), truth.blocks, truth.seed)
    for line in sheet[: truth.done_runs]:
        if truth.ended_after is not None and line.block > truth.ended_after:
            continue
        name = names[line.lane_no - 1]
        yield name, line, simulate_run(truth.lanes[name], truth.seed, line.lane_no, line.block)


def _base(truth: StudyTruth, system: str, line: SheetLine, run: str) -> _Row:
    lane, seat = truth.lanes[system], truth.seat(system)
    stated: _Row = {f"condition.{key}": value for key, value in lane.conditions.items()}
    return {
        "system": seat.system,
        "machine": seat.machine,
        "install": seat.install,
        "run": run,
        "block": line.block,
        "at": begun_at(truth, line).isoformat(),
        "outcome": "done",
        **stated,
    }


def _boot_rows(
    truth: StudyTruth, system: str, line: SheetLine, drawn: SimulatedRun
) -> Iterator[_Row]:
    base = _base(truth, system, line, f"boot {line.position}")
    if drawn.failure is not None:
        failed = {"metric": "boot.total", "unit": "s", "outcome": "failed"}
        yield {**base, **failed, "reason": drawn.failure}
        return
    for key, value in sorted(drawn.values.items()):
        row = {**base, "metric": key, "value": repr(value), "unit": metric(key).unit}
        row["method"] = simulated_method(key)
        if truth.set_aside is not None and truth.set_aside[:3] == (system, line.block, key):
            row["set_aside"] = truth.set_aside[3]
        yield row


def _launch_rows(truth: StudyTruth, system: str, line: SheetLine) -> Iterator[_Row]:
    launch = truth.launches.get(system)
    if launch is None:
        return
    starts = {"first-after-boot": launch.first_after_boot, "warm": launch.warm}
    for offset, (start, metric_truth) in enumerate(starts.items(), start=1):
        value = _drawn_launch(metric_truth, truth.seed + offset, line)
        yield {
            **_base(truth, system, line, f"launch {start} {line.position}"),
            "metric": "launch.settled",
            "value": repr(value),
            "unit": "s",
            "method": simulated_method("launch.settled"),
            "condition.start": start,
            "condition.app": "Wayfarrow",
            "condition.app_version": launch.app_version,
        }


def _drawn_launch(truth: MetricTruth, seed: int, line: SheetLine) -> float:
    lane = LaneTruth({"launch.settled": truth})
    return simulate_run(lane, seed, line.lane_no, line.block).values["launch.settled"]
