"""``haremile summary``, ``compare``, ``field``, ``plan``, ``total``: without a database."""

from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import typer

from haremile.cli.documents import Json, print_json
from haremile.cli.tables import (
    Document,
    contrast_rows,
    field_row,
    machines_row,
    print_table,
    summary_row,
    total_row,
)
from haremile.core.planning.repeats import (
    estimate_time,
    plan_repeats,
    repeats_in,
    smallest_difference,
)
from haremile.core.records.interim_looks import parse_interim_looks
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import metric
from haremile.core.records.units import parse_amount
from haremile.core.wording.planning import plan_sentence, smallest_sentence, time_sentence
from haremile.errors import BadInputError
from haremile.formats.readings_csv import parse_readings
from haremile.usecases.calculate import (
    ContrastQuestion,
    FieldQuestion,
    TotalQuestion,
    contrast_document,
    field_document,
    machines_document,
    summary_document,
    total_document,
)

File = Annotated[Path, typer.Argument(help="A readings file (CSV).")]
Level = Annotated[float, typer.Option(min=0.5, max=0.9999, help="Asked confidence level.")]
MachineOption = Annotated[str | None, typer.Option(help="Only on this machine.")]
MarginOption = Annotated[
    list[str] | None,
    typer.Option(help="What matters: 3%, 0.5s, 15MiB; a share and an amount: the wider holds."),
]
Overrides = Annotated[
    list[str] | None,
    typer.Option("--override", help="Compare although a condition differs, as KEY=REASON."),
]
PairedBy = Annotated[str | None, typer.Option(help="block, or machine.")]


def read_file(file: Path) -> bytes:
    """The bytes of a file. Raises BadInputError that says why not."""
    try:
        return file.read_bytes()
    except OSError as error:
        raise BadInputError(f"{file} cannot be read: {error.strerror}") from error


def parse_margin(text: str, key: str) -> Margin:
    """A margin as it is written: ``3%``, ``0.5s``, ``15MiB``; it must fit the metric's unit."""
    value, unit = parse_amount(text)
    own = metric(key).unit
    if unit == "share" and own != "share":
        return Margin(share=value)
    if unit != own:
        raise BadInputError(f"{key} is measured in {own}, not in {unit}")
    return Margin(amount=value)


def joined_margin(texts: Sequence[str] | None, key: str) -> Margin | None:
    """A share and an amount, or one of them; None where nothing is stated."""
    if not texts:
        return None
    found = Margin()
    for text in texts:
        new = parse_margin(text, key)
        found = Margin(new.share or found.share, new.amount or found.amount)
    return found


def _keyed(texts: Sequence[str] | None, what: str) -> dict[str, str]:
    """``KEY=VALUE`` pairs, each key once."""
    found: dict[str, str] = {}
    for text in texts or ():
        key, mark, value = text.partition("=")
        if not mark or not value.strip():
            raise BadInputError(f"{what} is written as KEY=VALUE, not {text}")
        if key.strip() in found:
            raise BadInputError(f"{what} stands twice for {key.strip()}")
        found[key.strip()] = value.strip()
    return found


def summary(
    file: File,
    metric_key: Annotated[str | None, typer.Option("--metric", help="Only this metric.")] = None,
    level: Level = 0.95,
    as_json: Json = False,
) -> None:
    """Summarise every group of a readings file."""
    document = summary_document(parse_readings(read_file(file)), metric_key, level)
    if as_json:
        print_json(document)
        return
    groups = document["groups"]
    head = ("system", "machine", "measure", "n", "failed", "median", "interval")
    print_table(head, [summary_row(group) for group in groups])
    for group in groups:
        typer.echo(f"{group['system']}, {group['metric']}: {' '.join(group['sentences'])}")
    count = len(groups)
    typer.echo(f"{count} {'group' if count == 1 else 'groups'}; intervals of the median.")


def compare(
    file: File,
    metric_key: Annotated[str, typer.Option("--metric", help="What is compared.")],
    between: Annotated[tuple[str, str], typer.Option(help="Two systems: B is said against A.")],
    machine: MachineOption = None,
    paired_by: PairedBy = None,
    margin: MarginOption = None,
    level: Level = 0.95,
    override: Overrides = None,
    as_json: Json = False,
) -> None:
    """Compare two systems of a readings file."""
    asked = ContrastQuestion(
        metric_key,
        *between,
        machine,
        paired_by,
        joined_margin(margin, metric_key),
        level,
        _keyed(override, "an override"),
    )
    document = contrast_document(parse_readings(read_file(file)), asked)
    if as_json:
        print_json(document)
        return
    print_table(("fact", "value"), contrast_rows(document), show_header=False)
    if document["unstated"]:
        typer.echo(f"Stated by nobody: {', '.join(document['unstated'])}.")
    typer.echo(document["sentence"])


def field(
    file: File,
    metric_key: Annotated[str, typer.Option("--metric", help="What is compared.")],
    machine: MachineOption = None,
    paired_by: Annotated[str | None, typer.Option(help="machine: over all machines.")] = None,
    margin: MarginOption = None,
    baseline: Annotated[str | None, typer.Option(help="Whom the others are said against.")] = None,
    interim_looks: Annotated[
        str | None,
        typer.Option(help="Blocks after which verdicts are read: 10,15,20, or every:20."),
    ] = None,
    override: Overrides = None,
    as_json: Json = False,
) -> None:
    """Compare all contenders of one metric with one another."""
    if paired_by not in (None, "machine"):
        raise BadInputError(f"a field is paired by machine, not by {paired_by}")
    asked = FieldQuestion(
        metric_key,
        machine,
        joined_margin(margin, metric_key),
        baseline,
        parse_interim_looks(interim_looks) if interim_looks else None,
        _keyed(override, "an override"),
    )
    lines = parse_readings(read_file(file))
    document = machines_document(lines, asked) if paired_by else field_document(lines, asked)
    if as_json:
        print_json(document)
        return
    if paired_by:
        over = ("system", "against", "ratio", "interval", "")
        print_table(over, [machines_row(pair) for pair in document["pairs"]])
        typer.echo(f"Geometric means over {len(document['machines'])} machines.")
        return
    head = ("system", "n", "failed", "median", "standing", "against", "verdict")
    pairs = {pair["b"]: pair for pair in document["pairs"]}
    unit = document["unit"]
    print_table(head, [field_row(one, pairs.get(one["system"]), unit) for one in document["lanes"]])
    typer.echo(document["sentence"])


def plan(
    spread: Annotated[str, typer.Option(help="Standard deviation of the readings: 0.4s.")],
    margin: Annotated[str, typer.Option(help="What matters, as an amount: 0.5s.")],
    difference: Annotated[
        str | None, typer.Option(help="The difference assumed to be true: 0.8s.")
    ] = None,
    repeats: Annotated[
        int | None, typer.Option(min=2, help="Instead: the repeats at hand; what can they tell?")
    ] = None,
    hours: Annotated[
        float | None, typer.Option(help="Instead: the hours at hand, with --run-time.")
    ] = None,
    run_time: Annotated[str | None, typer.Option(help="How long one run takes: 90s.")] = None,
    power: Annotated[float, typer.Option(help="Chance of reaching the verdict.")] = 0.9,
    contenders: Annotated[int, typer.Option(min=2, help="How many take part.")] = 2,
    looks: Annotated[int, typer.Option(min=1, help="How often verdicts are read.")] = 1,
    as_json: Json = False,
) -> None:
    """Tell how many repeats a verdict takes, or what the repeats or hours at hand can tell."""
    if [difference, repeats, hours].count(None) != 2:
        raise BadInputError("give one of --difference, --repeats and --hours")
    (sd, unit), (least, margin_unit) = parse_amount(spread), parse_amount(margin)
    true, true_unit = parse_amount(difference) if difference else (0.0, unit)
    if len({unit, margin_unit, true_unit}) > 1:
        units = sorted({unit, margin_unit, true_unit})
        raise BadInputError(f"spread, margin and difference need one unit, not {units}")
    seconds = _run_seconds(run_time)
    document: Document = {"format": "haremile-plan/1", "unit": unit, "power": power}
    if difference is not None:
        found = plan_repeats(sd, least, true, power, contenders, looks)
        document |= asdict(found)
        sentence = plan_sentence(found, power)
    else:
        if hours is not None:
            if seconds is None:
                raise BadInputError("--hours needs --run-time, such as 90s")
            repeats = repeats_in(hours, seconds, contenders)
        at_hand = repeats or 0
        smallest = smallest_difference(sd, least, at_hand, power, contenders, looks)
        document |= {"repeats": at_hand, "looks": looks, "smallest_difference": smallest}
        sentence = smallest_sentence(smallest, at_hand, unit, power)
    if seconds is not None and document["repeats"]:
        left = {lane: int(document["repeats"]) for lane in range(contenders)}
        time = estimate_time({0: [seconds]}, left)
        document["seconds"] = time.seconds if time else None
        sentence = f"{sentence} {time_sentence(time)}"
    if as_json:
        print_json(document)
        return
    typer.echo(sentence)


def _run_seconds(text: str | None) -> float | None:
    if text is None:
        return None
    seconds, unit = parse_amount(text)
    if unit != "s" or seconds <= 0:
        raise BadInputError(f"the time of a run is written as 90s or 2min, not {text}")
    return seconds


def total(
    file: File,
    reference: Annotated[str, typer.Option(help="The system whose medians are 100.")],
    weights: Annotated[str, typer.Option(help="boot.total=2,memory.used=1")],
    floor: Annotated[
        list[str] | None,
        typer.Option(help="METRIC=AMOUNT: medians below it count as it; for what can be zero."),
    ] = None,
    machine: MachineOption = None,
    level: Level = 0.95,
    as_json: Json = False,
) -> None:
    """Calculate each system's total: weighted geometric mean of ratios to a stored reference."""
    stated = _keyed([part for part in weights.split(",") if part.strip()], "a weight")
    asked = TotalQuestion(
        reference,
        {key: _weight(key, text) for key, text in stated.items()},
        {key: _floor(key, text) for key, text in _keyed(floor, "a floor").items()},
        machine,
        level,
    )
    document = total_document(parse_readings(read_file(file)), asked)
    if as_json:
        print_json(document)
        return
    head = ("system", "total", "interval", "parts (reference = 100, more is better)")
    print_table(head, [total_row(one) for one in document["systems"]])
    typer.echo(document["sentence"])


def _weight(key: str, text: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise BadInputError(f"the weight of {key} is no number: {text}") from None


def _floor(key: str, text: str) -> float:
    amount, unit = parse_amount(text)
    if unit != metric(key).unit:
        raise BadInputError(f"{key} is measured in {metric(key).unit}, not in {unit}")
    return amount
