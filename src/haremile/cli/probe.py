"""``haremile probe`` and ``haremile take-in``."""

from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console
from rich.table import Table

from haremile.cli.calculation import read_file
from haremile.cli.documents import Json, as_document, print_json
from haremile.cli.session import bench, say
from haremile.cli.study import study_named
from haremile.core.records.study import Study
from haremile.errors import BadInputError
from haremile.formats.probe_archive import GATHERER, NAME, read_gatherer, read_probe_archive
from haremile.native_build import build_native
from haremile.usecases.intake import NEW_CONTENDER, IntakeItem

app = typer.Typer(no_args_is_help=True, help="The probe, which measures on a machine itself.")


@app.command("build")
def build(
    folder: Annotated[Path, typer.Option("--to", help="The folder to write into.")] = Path(),
    native: Annotated[
        bool,
        typer.Option("--native", help="With the native programs, built here, that rates need."),
    ] = False,
) -> None:
    """Write haremile-probe.pyz and haremile-gather.sh; print where they are."""
    if not folder.is_dir():
        raise BadInputError(f"{folder} is no folder")
    if native:
        build_native(say)
    for name, body in ((NAME, read_probe_archive()), (GATHERER, read_gatherer())):
        path = folder / name
        path.write_bytes(body)
        path.chmod(0o755)
        typer.echo(path)


def take_in(
    files: Annotated[list[Path], typer.Argument(help="Captures, gathered texts, readings files.")],
    study: Annotated[
        str | None, typer.Option(help="The study's id, or a part of its title; else a new study.")
    ] = None,
    title: Annotated[str | None, typer.Option(help="The question of a new study.")] = None,
    contender: Annotated[
        str | None,
        typer.Option(help="The contender that all captures are of, where names do not tell."),
    ] = None,
    join: Annotated[
        bool, typer.Option("--join", help="Let those join the study that take no part in it yet.")
    ] = False,
    preview: Annotated[
        bool, typer.Option("--preview", help="Say what was recognised; keep nothing.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Take files from machines into a study; the same file again changes nothing."""
    brought = [(path.name, read_file(path)) for path in files]
    with bench() as opened:
        intake = opened.intake_here()
        if study is None:
            if preview or contender or join:
                raise BadInputError("--preview, --contender and --join go with --study")
            result = intake.new_study(title or files[0].stem, brought)
        else:
            found = study_named(opened, study)
            items = intake.preview(found.id, brought)
            lanes = _lanes(found, items, contender)
            if join:
                joining = [place for place, item in enumerate(items) if item.strangers]
                lanes = {**lanes, **dict.fromkeys(joining, NEW_CONTENDER)}
            if preview and as_json:
                print_json(as_document(items))
                return
            if preview:
                Console().print(_table(found, items, lanes))
                return
            result = intake.take_in(found.id, brought, lanes)
        say(f"took in {result.taken}; {result.known} known already")
        for note in result.notes:
            say(note)
        if as_json:
            print_json(as_document(result))
            return
        typer.echo(result.study.id)


def _lanes(study: Study, items: list[IntakeItem], contender: str | None) -> dict[int, int]:
    if contender is None:
        return {}
    fitting = [c for c in study.contenders if contender.casefold() in c.label.casefold()]
    if len(fitting) != 1:
        labels = "; ".join(c.label for c in study.contenders)
        raise BadInputError(f"{contender} fits {len(fitting)} contenders; there are: {labels}")
    return {place: fitting[0].lane_no for place in range(len(items))}


def _table(study: Study, items: list[IntakeItem], lanes: dict[int, int]) -> Table:
    labels = {c.lane_no: c.label for c in study.contenders}
    table = Table("file", "what", "of", "readings", "contender", "note", box=None)
    for place, item in enumerate(items):
        lane = lanes.get(place, item.lane_no)
        note = "known already" if item.is_known else item.reason or "; ".join(item.faults[:2])
        name = labels.get(lane or 0, "in the file" if item.asked == "readings" else "none fits")
        if lane == NEW_CONTENDER:
            name = f"joins: {', '.join(item.strangers)}"
        of = f"{item.system} on {item.machine}"
        table.add_row(item.file, item.asked, of, str(item.readings), name, note)
    return table
