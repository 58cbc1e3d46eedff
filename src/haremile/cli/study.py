"""``haremile study``: make, run, read, rename, put away and delete studies."""

import threading
from typing import Annotated
from uuid import UUID

import typer
from rich.console import Console
from rich.table import Table

from haremile.bootstrap import Bench
from haremile.cli.calculation import parse_margin
from haremile.cli.documents import Json, as_document, print_json
from haremile.cli.session import bench, say
from haremile.core.records.bounds import checked_text
from haremile.core.records.interim_looks import EVERY, parse_interim_looks
from haremile.core.records.margin import Margin
from haremile.core.records.precision import PrecisionPlan
from haremile.core.records.procedures import PROCEDURES
from haremile.core.records.study import Study
from haremile.errors import BadInputError, NotFoundError
from haremile.rigs.guest.build import build_guests
from haremile.rigs.guest.debian_build import build_debian, debian_image
from haremile.usecases.compare import study_findings
from haremile.usecases.plan import (
    DESKTOP_REPEATS,
    FIRST_MILE_REPEATS,
    checked_plan,
    extend_study,
    guest_installs,
    plan_desktop,
    plan_first_mile,
    plan_first_page,
    with_own_margins,
)
from haremile.usecases.story import told

app = typer.Typer(no_args_is_help=True, help="Studies: make, run, read, rename, put away, delete.")

REAL_SYSTEMS = {
    "desktop": (("bare", "desktop"), plan_desktop),
    "first-page": (("browser",), plan_first_page),
}
"""Which systems each takes, and how it is planned."""

Name = Annotated[str, typer.Argument(help="The study's id, or a part of its title.")]


def study_named(opened: Bench, name: str) -> Study:
    """The study of that id, or the only one whose title holds `name`."""
    try:
        return opened.studies.get(UUID(name))
    except ValueError:
        pass  # not an id, so a part of a title
    every = [*opened.studies.digests(), *opened.studies.digests(put_away=True)]
    found = [digest for digest in every if name.lower() in digest.title.lower()]
    if not found:
        raise NotFoundError("study", name)
    if len(found) > 1:
        titles = "; ".join(f"{d.id} {d.title}" for d in found)
        raise BadInputError(f"{name} fits {len(found)} studies: {titles}")
    return opened.studies.get(found[0].id)


@app.command("list")
def list_studies(
    as_json: Json = False,
    put_away: Annotated[bool, typer.Option(help="Those that were put away.")] = False,
) -> None:
    """List all studies."""
    with bench() as opened:
        listed = opened.studies.digests(put_away)
        if as_json:
            print_json(as_document(listed))
            return
        table = Table("id", "question", "state", "runs", "failed", box=None)
        for item in listed:
            runs = f"{item.finished} of {item.runs}"
            table.add_row(str(item.id), item.title, item.state, runs, str(item.failed))
        Console().print(table)


@app.command("create")
def create(
    title: Annotated[str, typer.Argument(help="The question.")],
    contender: Annotated[
        list[str], typer.Option(help="A system on a machine, as SYSTEM@MACHINE; twice or more.")
    ],
    repeats: Annotated[int, typer.Option(min=1, max=500, help="Boots of each contender.")] = 20,
    seed: Annotated[int | None, typer.Option(min=0, help="Seed of the order.")] = None,
    margin: Annotated[
        list[str] | None,
        typer.Option(help="What matters, as METRIC=AMOUNT: boot.total=0.5s, memory.used=3%."),
    ] = None,
    interim_looks: Annotated[
        str | None,
        typer.Option(
            help="Blocks after which verdicts are read: 10,15,20, or every; else once, at the end."
        ),
    ] = None,
    procedure: Annotated[
        list[str] | None,
        typer.Option(help="boot, idle, footprint or launch:NAME; may be given again. Else boot."),
    ] = None,
    until: Annotated[
        str | None,
        typer.Option(help="Stop when every difference is known to this width: boot.total=0.4s."),
    ] = None,
) -> None:
    """Plan a study of installs that are known; print its id."""
    margins = _margins(margin or [])
    with bench() as opened:
        known = {f"{i.system.name}@{i.machine.name}": i for i in opened.library.installs()}
        for install in guest_installs(opened.host):
            known.setdefault(f"{install.system.name}@{install.machine.name}", install)
        missing = [name for name in contender if name not in known]
        if missing:
            raise BadInputError(
                f"unknown contender: {missing[0]}; expected one of {', '.join(sorted(known))}"
            )
        at = _looks(interim_looks, repeats)
        installs = [known[name] for name in contender]
        margins = with_own_margins(margins, procedure or (), opened.own_measures.all())
        plan = checked_plan(
            title, installs, repeats, seed, margins, at, procedure or ("boot",), _precision(until)
        )
        typer.echo(opened.studies.create(plan).id)


def _looks(stated: str | None, repeats: int) -> tuple[int, ...]:
    """Blocks of the looks; *every* is after each."""
    if not stated:
        return ()
    return parse_interim_looks(f"{EVERY}:{repeats}" if stated == EVERY else stated).planned


def _margins(stated: list[str]) -> dict[str, Margin]:
    """Margins as they are written; an amount and a share of one metric go together."""
    margins: dict[str, Margin] = {}
    for text in stated:
        key, _, amount = text.partition("=")
        new, known = parse_margin(amount, key), margins.get(key, Margin())
        margins[key] = Margin(new.share or known.share, new.amount or known.amount)
    return margins


def _precision(text: str | None) -> PrecisionPlan | None:
    if text is None:
        return None
    key, _, amount = text.partition("=")
    width = parse_margin(amount, key).amount
    if width is None:
        raise BadInputError(f"the width of an interval is an amount, such as 0.4s; not {amount}")
    return PrecisionPlan(key, width)


@app.command("run")
def run(
    name: Annotated[
        str | None, typer.Argument(help="The study's id, or a part of its title.")
    ] = None,
    guests: Annotated[
        bool, typer.Option("--guests", help="Plan and run the two tiny real guests.")
    ] = False,
    desktop: Annotated[
        bool,
        typer.Option("--desktop", help="Build, plan and run the bare system and the desktop."),
    ] = False,
    first_page: Annotated[
        bool,
        typer.Option("--first-page", help="The same for a desktop's first page in a browser."),
    ] = False,
    repeats: Annotated[
        int | None,
        typer.Option(min=1, max=500, help="Boots each: of --guests 8, of the others 5."),
    ] = None,
    seed: Annotated[
        int | None, typer.Option(min=0, help="With --guests and the like: the order's seed.")
    ] = None,
) -> None:
    """Run a study from where it stands, then print its findings."""
    if [name is not None, guests, desktop, first_page].count(True) != 1:
        raise BadInputError("name a study, or give --guests, --desktop or --first-page")
    with bench() as opened:
        if name is None:
            kind = "guests" if guests else "desktop" if desktop else "first-page"
            study = _planned(opened, kind, repeats, seed)
            say(f"planned {study.id}: {study.title}")
        else:
            study = study_named(opened, name)
        stop = threading.Event()
        teller = threading.Thread(target=_tell, args=(opened, study, stop), daemon=True)
        teller.start()
        try:
            opened.conductor.conduct(study.id)
        finally:
            stop.set()
            teller.join(5)
        _print_findings(opened, study)


def _planned(opened: Bench, kind: str, repeats: int | None, seed: int | None) -> Study:
    """A study of guests; the real systems are built where they are not yet."""
    if kind == "guests":
        boots = repeats or FIRST_MILE_REPEATS
        return plan_first_mile(opened.studies, opened.host, boots, seed)
    if not opened.images.are_built:
        build_guests(opened.images, say)
    kinds, plan = REAL_SYSTEMS[kind]
    for image in [debian_image(opened.settings.guests, one) for one in kinds]:
        if not image.is_built:
            build_debian(image, say)
    return plan(opened.studies, opened.host, repeats or DESKTOP_REPEATS, seed)


def _tell(opened: Bench, study: Study, stop: threading.Event) -> None:
    """Progress on stderr: a line for each run that ends."""
    last = opened.events.last_id()
    total = len(opened.studies.runs(study.id))
    labels = {contender.lane_no: contender.label for contender in study.contenders}
    ended = {"run.done", "run.failed"}
    while True:
        over = stop.wait(0.3)
        for event in opened.events.after(last, study.id):
            last = event.id
            if event.kind in ended:
                runs = opened.studies.runs(study.id)
                run = next(item for item in runs if item.id == event.run_id)
                finished = sum(item.state.is_finished for item in runs)
                reason = f": {run.reason}" if run.reason else ""
                say(f"{finished} of {total}  {labels[run.lane_no]}  {run.state}{reason}")
        if over:
            return


@app.command("extend")
def extend(
    name: Name,
    blocks: Annotated[int, typer.Option(min=1, max=500, help="Blocks to add.")],
) -> None:
    """Add blocks to a study whose plan is done; what they decide is marked extended."""
    with bench() as opened:
        study = extend_study(opened.studies, study_named(opened, name).id, blocks)
        say(f"{study.title}: {study.blocks} blocks now; run it to go on")


@app.command("rename")
def rename(name: Name, title: Annotated[str, typer.Argument(help="The question anew.")]) -> None:
    """Give a study another title; the old one stays in its history."""
    with bench() as opened:
        study = study_named(opened, name)
        opened.corrections.rename_study(study.id, checked_text(title))
        say(f"{study.title} is now: {title}")


@app.command("put-away")
def put_away(name: Name) -> None:
    """Take a study out of every list; nothing of it is lost."""
    with bench() as opened:
        study = study_named(opened, name)
        opened.corrections.put_study_away(study.id, True)
        say(f"put away: {study.title}; bring-back brings it back")


@app.command("bring-back")
def bring_back(name: Name) -> None:
    """Bring back a study that was put away."""
    with bench() as opened:
        study = study_named(opened, name)
        opened.corrections.put_study_away(study.id, False)
        say(f"back: {study.title}")


@app.command("delete")
def delete(
    name: Name,
    title: Annotated[str, typer.Option(help="Its whole title, typed again.", prompt=True)],
) -> None:
    """Delete a study for good that was put away, with its readings; this cannot be taken back."""
    with bench() as opened:
        study = study_named(opened, name)
        readings = opened.corrections.delete_study(study.id, title)
        say(f"deleted for good: {study.title}, {readings} readings")


@app.command("show")
def show(name: Name, as_json: Json = False) -> None:
    """Print the findings of a study."""
    with bench() as opened:
        study = study_named(opened, name)
        if as_json:
            found = study_findings(opened.studies, opened.readings, study.id)
            print_json({"study": as_document(study), "findings": as_document(found)})
            return
        _print_findings(opened, study)


@app.command("tell")
def tell(name: Name, as_json: Json = False) -> None:
    """Tell everything that happened in a study, in order, from its events."""
    with bench() as opened:
        study = study_named(opened, name)
        labels = {contender.lane_no: contender.label for contender in study.contenders}
        runs = {
            run.id: f"{labels[run.lane_no]}, {run.procedure}, block {run.block}"
            for run in opened.studies.runs(study.id)
        }
        last, every = 0, []
        while events := opened.events.after(last, study.id):
            for event in events if not as_json else ():
                typer.echo(f"{event.at:%Y-%m-%d %H:%M:%S}  {told(event, runs)}")
            every += events if as_json else []
            last = events[-1].id
        if as_json:
            print_json(as_document(every))


def _print_findings(opened: Bench, study: Study) -> None:
    found = study_findings(opened.studies, opened.readings, study.id)
    console = Console(soft_wrap=True)
    console.print(study.title, style="bold", highlight=False)
    table = Table("measure", "machine", "verdict", "finding", box=None)
    for row in found.rows:
        label = f"{row.label}, {row.start}" if row.start else row.label
        table.add_row(label, row.machine, row.verdict_text, row.sentence)
    for item in found.reliability:
        table.add_row(
            f"Reliability, {_runs_word(item.procedure)}", item.machine, item.verdict, item.sentence
        )
    console.print(table)
    console.print(found.expected_false)


def _runs_word(procedure: str) -> str:
    """What a procedure is called in a table; of what was brought in, as the file names it."""
    known = PROCEDURES.get(procedure)
    return known.label.lower() if known else procedure
