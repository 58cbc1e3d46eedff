"""Loads the sample world, through the same take-in path as a user's file."""

import csv
import io
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta

from haremile.bench.ports import ReadingBook, StudyBook, StudyPlan
from haremile.bench.take_in import take_in_file
from haremile.core.metrics import metric
from haremile.core.run_sheet import SheetLine, run_sheet
from haremile.core.simulation import (
    LaneTruth,
    MetricTruth,
    SimulatedRun,
    simulate_run,
    simulated_method,
)
from haremile.core.study import Install, StudyState
from haremile.demo.world import MACHINES, STUDIES, SYSTEMS, StudyTruth

FIRST_MORNING = datetime(2026, 10, 5, 8, 0, tzinfo=UTC)
BETWEEN_RUNS = timedelta(seconds=95)
COLUMNS = (
    "system", "machine", "metric", "value", "unit", "method", "run", "block", "at", "outcome",
    "reason", "set_aside",
)  # fmt: skip


def load_sample_world(studies: StudyBook, readings: ReadingBook, say: Callable[[str], None]) -> int:
    """Keep the studies that are not there yet; return how many were added."""
    known = {digest.title for digest in studies.digests()}
    missing = [truth for truth in STUDIES if truth.title not in known]
    for truth in missing:
        say(f"loading the sample study: {truth.title}")
        study = studies.create(_plan(truth))
        take_in_file(readings, study, readings_file(truth))
        is_whole = truth.done_runs is None
        studies.set_state(study.id, StudyState.DONE if is_whole else StudyState.PAUSED)
    return len(missing)


def _plan(truth: StudyTruth) -> StudyPlan:
    machine = MACHINES[truth.machine]
    simulated = machine.kind == "simulated"
    installs = [
        Install(
            SYSTEMS[name],
            machine,
            rig="simulated" if simulated else None,
            recipe={"truth": f"{truth.machine}/{name}"} if simulated else {},
        )
        for name in truth.lanes
    ]
    return StudyPlan(truth.title, installs, truth.blocks, truth.seed, truth.margins)


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


_Row = dict[str, object]


def _rows(truth: StudyTruth) -> Iterator[_Row]:
    systems = list(truth.lanes)
    sheet = run_sheet(range(1, len(systems) + 1), truth.blocks, truth.seed)
    for line in sheet[: truth.done_runs]:
        system = systems[line.lane_no - 1]
        lane = truth.lanes[system]
        drawn = simulate_run(lane, truth.seed, line.lane_no, line.block)
        yield from _boot_rows(truth, system, line, drawn)
        if drawn.failure is None:
            yield from _launch_rows(truth, system, line)


def _base(truth: StudyTruth, system: str, line: SheetLine, run: str) -> _Row:
    lane = truth.lanes[system]
    stated: _Row = {f"condition.{key}": value for key, value in lane.conditions.items()}
    at = FIRST_MORNING + line.position * BETWEEN_RUNS
    return {
        "system": system, "machine": truth.machine, "run": run, "block": line.block,
        "at": at.isoformat(), "outcome": "done", **stated,
    }  # fmt: skip


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
            "metric": "launch.settled", "value": repr(value), "unit": "s",
            "method": simulated_method("launch.settled"), "condition.start": start,
            "condition.app": "Wayfarrow", "condition.app_version": launch.app_version,
        }  # fmt: skip


def _drawn_launch(truth: MetricTruth, seed: int, line: SheetLine) -> float:
    lane = LaneTruth({"launch.settled": truth})
    return simulate_run(lane, seed, line.lane_no, line.block).values["launch.settled"]
