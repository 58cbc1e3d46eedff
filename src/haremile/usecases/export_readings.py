"""A study's readings and failed runs as lines of a readings file."""

from collections.abc import Sequence
from uuid import UUID

from haremile.core.records.metrics import metric
from haremile.core.records.procedures import PROCEDURES, headline_of
from haremile.core.records.study import Run, RunState, Study
from haremile.formats.readings_csv import ReadingLine
from haremile.usecases.import_readings import InstallKey, contender_key
from haremile.usecases.ports import StoredReading
from haremile.usecases.reading_lines import line_of
from haremile_probe.wire import NOT_MEASURED


def export_lines(
    study: Study, readings: Sequence[StoredReading], runs: Sequence[Run]
) -> list[ReadingLine]:
    """All readings, and runs that failed or could not be measured, as lines of a readings file."""
    installs = {c.lane_no: contender_key(c) for c in study.contenders}
    procedures = {run.id: run.procedure for run in runs}
    names: dict[UUID, str] = {run.id: str(number) for number, run in enumerate(runs, start=1)}
    lines = [
        line_of(item, installs[item.lane_no], names[item.run_id], procedures[item.run_id])
        for item in readings
    ]
    for run in runs:
        if run.state in (RunState.FAILED, RunState.VOID) and run.finished_at is not None:
            lines.append(_failed_line(run, installs[run.lane_no], names[run.id]))
    return lines


def _failed_line(run: Run, install: InstallKey, name: str) -> ReadingLine:
    known = PROCEDURES.get(run.procedure)
    headline = metric(headline_of(run.procedure, run.conditions) if known else "boot.total")
    return ReadingLine(
        line=0,
        system=install[0],
        machine=install[1],
        install=install[2],
        metric=headline.key,
        method="typed",
        value=None,
        unit=headline.unit,
        resolution=None,
        run=name,
        block=run.block,
        at=run.finished_at,
        outcome="failed" if run.state is RunState.FAILED else NOT_MEASURED,
        reason=run.reason,
        set_aside=None,
        procedure=run.procedure if known else None,
        conditions=dict(run.conditions),
    )
