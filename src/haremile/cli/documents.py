"""What ``--json`` prints: one document on stdout, full doubles, null for what is undefined."""

import json
import math
import sys
from collections.abc import Mapping
from dataclasses import fields, is_dataclass
from typing import Annotated

import typer

Json = Annotated[bool, typer.Option("--json", help="The whole document, full doubles.")]


def as_document(found: object) -> object:
    """A record, or what holds records, as JSON knows it: names to values, lists, texts, numbers.

    What JSON has no form for (a UUID, an instant, a path) is its text.
    """
    if found is None or isinstance(found, str | bool | int):
        return found
    if isinstance(found, float):
        return found if math.isfinite(found) else None
    if is_dataclass(found) and not isinstance(found, type):
        return {one.name: as_document(getattr(found, one.name)) for one in fields(found)}
    if isinstance(found, Mapping):
        return {str(key): as_document(value) for key, value in found.items()}
    if isinstance(found, list | tuple | set | frozenset):
        return [as_document(item) for item in found]
    return str(found)


def print_json(document: object) -> None:
    """Print it on stdout."""
    json.dump(document, sys.stdout, ensure_ascii=False, allow_nan=False, indent=1)
    print()
