"""``haremile import`` and ``haremile export``: readings files."""

import sys
from pathlib import Path
from typing import Annotated

import typer

from haremile.cli.calculation import read_file
from haremile.cli.session import bench, say
from haremile.cli.study import Name, study_named
from haremile.formats.readings_csv import write_readings
from haremile.usecases.export_readings import export_lines


def import_readings(
    file: Annotated[Path, typer.Argument(help="A readings file (CSV).")],
    title: Annotated[str | None, typer.Option(help="The question; else the file's name.")] = None,
) -> None:
    """Make a study from a readings file; print its id."""
    body = read_file(file)
    with bench() as opened:
        result = opened.intake_here(_progress).new_study(title or file.stem, [(file.name, body)])
        study = result.study
        say(f"took in {len(opened.studies.runs(study.id))} runs")
        for note in result.notes:
            say(note)
        typer.echo(study.id)


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
