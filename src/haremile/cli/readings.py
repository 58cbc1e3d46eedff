"""``haremile import`` and ``haremile export``: readings files."""

import sys
from pathlib import Path
from typing import Annotated

import typer

from haremile.cli.calculation import read_file
from haremile.cli.session import bench, say
from haremile.cli.study import Name, study_named
from haremile.errors import BadInputError
from haremile.formats.column_map import ColumnMap, Measure
from haremile.formats.readings_csv import write_readings
from haremile.usecases.export_readings import export_lines


def import_readings(
    file: Annotated[Path, typer.Argument(help="A readings file (CSV).")],
    title: Annotated[str | None, typer.Option(help="The question; else the file's name.")] = None,
    column: Annotated[
        list[str] | None, typer.Option(metavar="THEIRS=OURS", help="A column as one of ours.")
    ] = None,
    measure: Annotated[
        list[str] | None,
        typer.Option(metavar="THEIRS=METRIC:UNIT", help="A column as the values of a measure."),
    ] = None,
    fixed: Annotated[
        list[str] | None,
        typer.Option(metavar="OURS=TEXT", help="A column that is the same in every row."),
    ] = None,
    unit: Annotated[
        list[str] | None, typer.Option(metavar="THEIRS=OURS", help="A unit as one of ours.")
    ] = None,
) -> None:
    """Make a study from a readings file; print its id. What the columns of a table of your own mean
    is said once, and remembered for files with the same header."""
    body = read_file(file)
    measures = {theirs: _measure(text) for theirs, text in _pairs(measure).items()}
    asked = ColumnMap(_pairs(column), measures, _pairs(fixed), _pairs(unit))
    meant = None if asked == ColumnMap() else asked
    with bench() as opened:
        intake = opened.intake_here(_progress)
        result = intake.new_study(title or file.stem, [(file.name, body)], meant)
        study = result.study
        say(f"took in {len(opened.studies.runs(study.id))} runs")
        for note in result.notes:
            say(note)
        typer.echo(study.id)


def _pairs(asked: list[str] | None) -> dict[str, str]:
    found = {}
    for text in asked or ():
        name, sign, meant = text.rpartition("=")
        if not sign or not name or not meant:
            raise BadInputError(f"not NAME=MEANING: {text}")
        found[name] = meant
    return found


def _measure(text: str) -> Measure:
    name, sign, unit = text.partition(":")
    if not sign or not unit:
        raise BadInputError(f"not METRIC:UNIT: {text}; write for example boot.total:s")
    return Measure(name, unit)


def _progress(what: str, done: int, of: int) -> None:
    say(f"{what} {done:,} of {of:,} rows")


def export_readings(name: Name) -> None:
    """Write all readings of a study to stdout as a readings file."""
    with bench() as opened:
        study = study_named(opened, name)
        lines = export_lines(
            study, opened.readings.readings(study.id), opened.studies.runs(study.id)
        )
        sys.stdout.buffer.write(write_readings(lines))
