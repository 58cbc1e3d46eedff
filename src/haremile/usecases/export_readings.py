"""A study's readings and failed runs as lines of a readings file."""

from collections.abc import Sequence
from uuid import UUID

from haremile.core.records.metrics import metric
from haremile.core.records.procedures import PROCEDURES
from haremile.core.records.study import Run, RunState, Study
from haremile.formats.readings_csv import DONE, ReadingLine
from haremile.usecases.import_readings import InstallKey, contender_key
from haremile.usecases.ports import StoredReading
from haremile_probe.wire import NOT_MEASURED


def export_lines(
    study: Study, readings: Sequence[StoredReading], runs: Sequence[Run]
) -> list[ReadingLine]:
    """All readings, and runs that failed or could not be measured, as lines of a readings file."""
    installs = {c.lane_no: contender_key(c) for c in study.contenders}
    procedures = {run.id: run.procedure for run in runs}
    names: dict[UUID, str] = {run.id: str(number) for number, run in enumerate(runs, start=1)}
    lines = [
        ReadingLine(
            0,
            *installs[item.lane_no][:2],
            installs[item.lane_no][2],
            item.metric,
            item.method,
            item.value,
            item.unit,
            item.resolution,
            names[item.run_id],
            item.block,
            item.at,
            DONE,
            None,
            item.set_aside,
            item.step or None,
            procedures[item.run_id],
            dict(item.conditions),
        )
        for item in readings
    ]
    for run in runs:
        if run.state in (RunState.FAILED, RunState.VOID) and run.finished_at is not None:
            lines.append(_failed_line(run, installs[run.lane_no], names[run.id]))
    return lines


def _failed_line(run: Run, install: InstallKey, name: str) -> ReadingLine:
    known = PROCEDURES.get(run.procedure)
    headline = metric(known.headline if known else "boot.total")
    return ReadingLine(
        0,
        *install[:2],
        install[2],
        headline.key,
        "typed",
        None,
        headline.unit,
        None,
        name,
        run.block,
        run.finished_at,
        "failed" if run.state is RunState.FAILED else NOT_MEASURED,
        run.reason,
        None,
        None,
        run.procedure if known else None,
        dict(run.conditions),
    )
