"""``haremile evidence``: how much is kept, and less of it where that is asked."""

from typing import Annotated

import typer

from haremile.cli.documents import Json, as_document, print_json
from haremile.cli.session import bench, say
from haremile.core.records.metrics import value_text
from haremile.core.records.units import parse_amount
from haremile.errors import BadInputError


def evidence(
    at_most: Annotated[
        str | None,
        typer.Option(
            metavar="SIZE",
            help="Delete the oldest on which no reading rests until all fits, say 2GiB.",
        ),
    ] = None,
    as_json: Json = False,
) -> None:
    """Tell how much evidence is kept; captures that a reading rests on are never deleted."""
    most = None if at_most is None else _bytes(at_most)
    with bench() as opened:
        sizes = opened.corrections.evidence_sizes()
        if most is not None:
            before, sizes = sizes, opened.corrections.trim_evidence(most)
            say(f"deleted for good: {before.all_count - sizes.all_count} captures")
        if as_json:
            print_json(as_document(sizes))
            return
        typer.echo(
            f"{sizes.all_count} captures and files, {value_text(sizes.all_bytes, 'B')}; "
            f"no reading rests on {sizes.spare_count} of them, "
            f"{value_text(sizes.spare_bytes, 'B')}"
        )
        if most is not None and sizes.all_bytes > most:
            say("the rest stays: readings rest on it")


def _bytes(text: str) -> float:
    size, unit = parse_amount(text)
    if unit != "B":
        raise BadInputError(f"not a size: {text}; write for example 500MiB or 2GiB")
    return size
