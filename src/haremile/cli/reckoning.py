"""``haremile summary`` and ``haremile compare``: reckoning a file, with no database."""

import json
import sys
from dataclasses import asdict
from pathlib import Path
from typing import Annotated, Any

import typer
from rich.console import Console
from rich.table import Table

from haremile.bench.reckon import (
    ContrastQuestion,
    Document,
    contrast_document,
    field_document,
    summary_document,
)
from haremile.core.margin import Margin
from haremile.core.metrics import metric
from haremile.core.planning import plan_repeats, smallest_difference
from haremile.core.units import Scale, parse_amount, scale_for
from haremile.core.wording import plan_sentence, smallest_sentence
from haremile.errors import BadInputError
from haremile.formats.readings_csv import parse_readings

File = Annotated[Path, typer.Argument(help="A readings file (CSV).")]
Level = Annotated[float, typer.Option(min=0.5, max=0.9999, help="Asked confidence level.")]
Json = Annotated[bool, typer.Option("--json", help="The whole document, full doubles.")]


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


def _print_json(document: Document) -> None:
    json.dump(document, sys.stdout, ensure_ascii=False, allow_nan=False, indent=1)
    sys.stdout.write("\n")


def summary(
    file: File,
    metric_key: Annotated[str | None, typer.Option("--metric", help="Only this metric.")] = None,
    level: Level = 0.95,
    as_json: Json = False,
) -> None:
    """Summarise every group of a readings file."""
    document = summary_document(parse_readings(read_file(file)), metric_key, level)
    if as_json:
        _print_json(document)
        return
    table = Table("system", "machine", "measure", "n", "failed", "median", "interval", box=None)
    for group in document["groups"]:
        table.add_row(*_summary_cells(group))
    Console(soft_wrap=True).print(table)
    count = len(document["groups"])
    typer.echo(f"{count} {'group' if count == 1 else 'groups'}; intervals of the median.")


def _summary_cells(group: Document) -> list[str]:
    start = group["conditions"].get("start")
    label = f"{group['metric']}, {start}" if start else group["metric"]
    head = [group["system"], group["machine"], label, str(group["n"]), str(group["failed"])]
    if group["n"] == 0:
        return [*head, "no readings", ""]
    scale = scale_for(group["unit"], group["median"])
    interval = group["median_interval"]
    return [*head, scale.amount(group["median"]), _limits(interval, scale)]


def _limits(interval: dict[str, Any] | None, scale: Scale) -> str:
    if interval is None:
        return "none at this n"
    low, high = scale.number(interval["low"]), scale.number(interval["high"])
    return f"{low} to {high} ({interval['level'] * 100:.1f} %)"


def compare(
    file: File,
    metric_key: Annotated[str, typer.Option("--metric", help="What is compared.")],
    between: Annotated[tuple[str, str], typer.Option(help="Two systems: B is said against A.")],
    machine: Annotated[str | None, typer.Option(help="Only on this machine.")] = None,
    paired_by: Annotated[str | None, typer.Option(help="block: pairs of one block.")] = None,
    margin: Annotated[str | None, typer.Option(help="What matters: 3%, 0.5s, 15MiB.")] = None,
    level: Level = 0.95,
    as_json: Json = False,
) -> None:
    """Compare two systems of a readings file."""
    if paired_by not in (None, "block"):
        raise BadInputError(f"pairs are formed by block, not by {paired_by}")
    stated = None if margin is None else parse_margin(margin, metric_key)
    asked = ContrastQuestion(metric_key, *between, machine, paired_by, stated, level)
    document = contrast_document(parse_readings(read_file(file)), asked)
    if as_json:
        _print_json(document)
        return
    table = Table("fact", "value", box=None, show_header=False)
    scale = scale_for(document["unit"], document["median_a"])
    for name, value in _contrast_facts(document, scale):
        table.add_row(name, value)
    Console(soft_wrap=True).print(table)
    typer.echo(document["sentence"])


def _contrast_facts(found: Document, scale: Scale) -> list[tuple[str, str]]:
    shift, test = found["shift"], found["mann_whitney"]
    p = "undefined" if test["p"] is None else f"{test['p']:.4g}"
    facts = [
        (f"median of {found['a']}", f"{scale.amount(found['median_a'])}, n = {found['n_a']}"),
        (f"median of {found['b']}", f"{scale.amount(found['median_b'])}, n = {found['n_b']}"),
        ("typical difference", f"{scale.amount(shift['estimate'])}, {_limits(shift, scale)}"),
        ("chance that b is lower", f"{found['probability_b_lower'] * 100:.0f} %"),
        (f"rank-sum test, {test['method']}", f"p = {p}"),
    ]
    if found["ratio"] is not None:
        facts.insert(3, ("ratio", f"{found['ratio']['estimate']:.3f}"))
    if found["verdict"] is not None:
        facts.append(("verdict", str(found["verdict"])))
    facts += [(d["grade"], f"{d['key']}: {d['values']}") for d in found["fair_start"]]
    return facts


def field(
    file: File,
    metric_key: Annotated[str, typer.Option("--metric", help="What is compared.")],
    machine: Annotated[str | None, typer.Option(help="Only on this machine.")] = None,
    margin: Annotated[str | None, typer.Option(help="What matters: 3%, 0.5s, 15MiB.")] = None,
    baseline: Annotated[str | None, typer.Option(help="Whom the others are said against.")] = None,
    as_json: Json = False,
) -> None:
    """Compare all contenders of one metric with one another."""
    stated = None if margin is None else parse_margin(margin, metric_key)
    lines = parse_readings(read_file(file))
    document = field_document(lines, metric_key, machine, stated, baseline)
    if as_json:
        _print_json(document)
        return
    table = Table("system", "n", "failed", "median", "standing", "against", "verdict", box=None)
    pairs = {pair["b"]: pair for pair in document["pairs"]}
    for lane in document["lanes"]:
        table.add_row(*_field_cells(lane, pairs.get(lane["system"]), document["unit"]))
    Console(soft_wrap=True).print(table)
    typer.echo(document["sentence"])


def _field_cells(lane: Document, pair: Document | None, unit: str) -> list[str]:
    if lane["median"] is None:
        return [lane["system"], "0", str(lane["failed"]), "no readings", "", "", ""]
    scale = scale_for(unit, lane["median"])
    place = lane["standing"]
    standing = (
        "" if place is None else f"{place[0]}" + (f" to {place[1]}" if place[1] > place[0] else "")
    )
    head = [lane["system"], str(lane["n"]), str(lane["failed"]), scale.amount(lane["median"])]
    if pair is None:
        return [*head, standing, "baseline", ""]
    shift = pair["shift"]
    return [*head, standing, scale.amount(shift["estimate"]), str(pair["verdict"])]


def plan(
    spread: Annotated[str, typer.Option(help="Standard deviation of the readings: 0.4s.")],
    margin: Annotated[str, typer.Option(help="What matters, as an amount: 0.5s.")],
    difference: Annotated[
        str | None, typer.Option(help="The difference assumed to be true: 0.8s.")
    ] = None,
    repeats: Annotated[
        int | None, typer.Option(min=2, help="Instead: the repeats at hand; what can they tell?")
    ] = None,
    power: Annotated[float, typer.Option(help="Chance of reaching the verdict.")] = 0.9,
    contenders: Annotated[int, typer.Option(min=2, help="How many take part.")] = 2,
    as_json: Json = False,
) -> None:
    """Tell how many repeats a verdict takes, or what the repeats at hand can tell."""
    if (difference is None) == (repeats is None):
        raise BadInputError("give --difference or --repeats")
    (sd, unit), (least, margin_unit) = parse_amount(spread), parse_amount(margin)
    true, true_unit = parse_amount(difference) if difference else (0.0, unit)
    units = {unit, margin_unit, true_unit}
    if len(units) > 1:
        raise BadInputError(f"spread, margin and difference need one unit, not {sorted(units)}")
    document: Document = {"format": "haremile-plan/1", "unit": unit, "power": power}
    if repeats is None:
        found = plan_repeats(sd, least, true, power, contenders)
        document |= asdict(found)
        sentence = plan_sentence(found, power)
    else:
        smallest = smallest_difference(sd, least, repeats, power, contenders)
        document |= {"repeats": repeats, "smallest_difference": smallest}
        sentence = smallest_sentence(smallest, repeats, unit, power)
    if as_json:
        _print_json(document)
        return
    typer.echo(sentence)
