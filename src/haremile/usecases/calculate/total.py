"""``haremile-total/1``."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from haremile.core.standing.total import Recipe, SystemTotal, stored_reference, totals
from haremile.core.statistics.validation import FloatArray
from haremile.core.wording.total import total_sentence
from haremile.errors import BadInputError
from haremile.formats.readings_csv import ReadingLine
from haremile.usecases.calculate.lines import (
    Document,
    Lines,
    counting,
    failures,
    interval_document,
    measured,
    one_kind,
    only_one,
    plain,
    record,
    timed_out,
)

FORMAT = "haremile-total/1"


@dataclass(frozen=True)
class TotalQuestion:
    """Against which system, with which weights and floors (canonical units)."""

    reference: str
    weights: Mapping[str, float]
    floors: Mapping[str, float] = field(default_factory=dict)
    machine: str | None = None
    level: float = 0.95
    seed: int = 0


def total_document(lines: Lines, asked: TotalQuestion) -> Document:
    """Every system's total, the reference's medians being 100.

    Raises
    ------
    BadInputError
        If the reference lacks a metric, a median cannot be in a ratio, or readings of several
        machines, methods or starts would be pooled.
    """
    recipe = Recipe(asked.weights, asked.floors)
    chosen = [
        line
        for line in lines
        if line.metric in recipe.weights
        and (asked.machine is None or line.machine == asked.machine)
    ]
    readings = _readings(chosen)
    if asked.reference not in readings:
        raise BadInputError(
            f"the reference {asked.reference} has no readings; expected one of "
            f"{', '.join(readings) or 'none'}"
        )
    reference = stored_reference(recipe, readings[asked.reference], asked.reference)
    found = totals(recipe, reference, readings, asked.level, asked.seed)
    result: Document = plain(
        {
            "format": FORMAT,
            "reference": asked.reference,
            "reference_medians": reference,
            "machine": chosen[0].machine,
            "weights": dict(recipe.weights),
            "floors": dict(recipe.floors),
            "level": asked.level,
            "leader": found.leader,
            "systems": [_system(one) for one in found.systems],
            "turns": [record(turn) for turn in found.turns],
            "sentence": total_sentence(found, asked.reference, _failed(chosen)),
        }
    )
    return result


def _failed(chosen: Lines) -> dict[str, tuple[int, int]]:
    """Failed runs of each system, and of how many."""
    by_system: dict[str, list[ReadingLine]] = defaultdict(list)
    for line in measured(chosen):
        by_system[line.system].append(line)
    return {name: (failures(own), len(own)) for name, own in by_system.items()}


def _readings(chosen: Lines) -> dict[str, dict[str, FloatArray]]:
    """Readings that count by system and metric, one machine, method and start for each metric."""
    by_metric: dict[str, list[object]] = defaultdict(list)
    found: dict[str, dict[str, list[float]]] = defaultdict(lambda: defaultdict(list))
    for line in chosen:  # who has no reading that counts is named nevertheless
        found[line.system]
    for line in counting(chosen):
        by_metric[line.metric].append(line)
        found[line.system][line.metric].append(line.value or 0.0)
    for line in timed_out(chosen):
        found[line.system][line.metric].append(np.inf)
    machines = {line.machine for line in counting(chosen)}
    only_one("machine", machines, "choose one with --machine")
    for key in by_metric:
        one_kind([line for line in chosen if line.metric == key])
    return {
        system: {key: np.array(values) for key, values in own.items()}
        for system, own in found.items()
    }


def _system(one: SystemTotal) -> Document:
    interval = None
    if one.interval is not None:
        interval = {
            **(interval_document(one.interval.interval) or {}),
            "method": one.interval.method,
        }
    return {
        "system": one.system,
        "total": one.total,
        "interval": interval,
        "parts": [record(part) for part in one.parts],
        "missing": list(one.missing),
    }
