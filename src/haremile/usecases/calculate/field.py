"""``haremile-field/1``: all contenders of one metric, every pair judged as one family."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from haremile.core.comparison.findings import find
from haremile.core.comparison.machines import machines_field
from haremile.core.comparison.records import FindingRow, Observation, Plan, RunOutcome
from haremile.core.comparison.reliability import is_time_out
from haremile.core.comparison.row_verdict import standings
from haremile.core.comparison.verdict import Verdict
from haremile.core.records.interim_looks import InterimLooks, Look
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import assumed_procedure, metric, sure_procedures
from haremile.core.records.study import RunState
from haremile.core.statistics.omnibus_tests import friedman, kruskal_wallis
from haremile.core.wording.findings import in_words
from haremile.errors import BadInputError
from haremile.formats.readings_csv import DONE, ReadingLine
from haremile.usecases.calculate.lines import (
    Document,
    Lines,
    counting,
    difference_document,
    estimate_document,
    interval_document,
    measured,
    one_kind,
    only_one,
    plain,
    record,
)

FORMAT = "haremile-field/1"


@dataclass(frozen=True)
class FieldQuestion:
    """What is compared, and how.

    The margin is the catalogue's where none is stated. Pairs are said against `baseline`, the
    first contender of the file where none is named; it changes words, never a verdict.
    """

    metric: str
    machine: str | None = None
    margin: Margin | None = None
    baseline: str | None = None
    interim_looks: InterimLooks | None = None
    overrides: Mapping[str, str] = field(default_factory=dict)


def _chosen(lines: Lines, asked: FieldQuestion) -> tuple[Lines, dict[str, int], str]:
    """The rows asked for, lane numbers by name, and the baseline."""
    metric(asked.metric)
    chosen = [
        line
        for line in lines
        if line.metric == asked.metric and (asked.machine is None or line.machine == asked.machine)
    ]
    if not chosen:
        raise BadInputError(f"the file holds no readings of {asked.metric}")
    lanes = {name: i for i, name in enumerate(dict.fromkeys(_name(line) for line in chosen), 1)}
    first = next(iter(lanes)) if asked.baseline is None else asked.baseline
    if first not in lanes:
        raise BadInputError(f"no contender {first}; expected one of {', '.join(lanes)}")
    return chosen, lanes, first


def field_document(lines: Lines, asked: FieldQuestion) -> Document:
    """All contenders of one metric on one machine.

    Raises
    ------
    BadInputError
        If there is nothing to compare, or several machines, methods or starts.
    """
    made = metric(asked.metric)
    chosen, lanes, first = _chosen(lines, asked)
    if asked.interim_looks is not None and any(line.block is None for line in chosen):
        raise BadInputError(
            "interim looks are taken after blocks; the file must state a block in each row"
        )
    names = {number: name for name, number in lanes.items()}
    margins = {} if asked.margin is None else {asked.metric: asked.margin}
    plan = Plan(margins, asked.interim_looks, asked.overrides)
    found = in_words(find(names, *_observed(chosen, lanes), plan), names)
    if not found.rows:
        raise BadInputError(f"no reading of {asked.metric} counts")
    if len(found.rows) != 1:
        rows = {f"{row.machine}, {row.method}, start {row.start}" for row in found.rows}
        only_one("machine, method or start", rows, "give a file (or --machine) with one")
    (row,), reliable = found.rows, found.reliability
    result: Document = plain(
        {
            "format": FORMAT,
            "metric": asked.metric,
            "machine": row.machine,
            "unit": made.unit,
            "baseline": first,
            "margin": record(row.margin),
            "pairs_in_family": row.family,
            "omnibus_test": _omnibus_test(chosen, lanes),
            "verdict": row.verdict,
            "leader": row.leader and names[row.leader],
            "lanes": _lanes(row, names),
            "pairs": _pairs(row, names, lanes[first]),
            "fair_start": [difference_document(d) for d in row.fair_start],
            "reliability": reliable[0].sentence if reliable else None,
            "scope": row.scope,
            "sentence": row.sentence,
            "expected_false": found.expected_false,
        }
    )
    return result


def _name(line: ReadingLine) -> str:
    return f"{line.system}, {line.install}" if line.install else line.system


def _observed(lines: Lines, lanes: Mapping[str, int]) -> tuple[list[Observation], list[RunOutcome]]:
    observations, runs = [], []
    sure = sure_procedures(line.metric for line in lines)
    for line in measured(lines):
        lane, procedure = lanes[_name(line)], assumed_procedure(line.metric, sure)
        done = line.outcome == DONE
        state = RunState.DONE if done else RunState.FAILED
        late = line.value is None and is_time_out(line.outcome, line.reason)
        start = line.conditions.get("start", "")
        runs.append(RunOutcome(lane, line.machine, procedure, state, line.block, late, start))
        if done and line.value is not None:
            observations.append(
                Observation(
                    lane,
                    line.machine,
                    line.metric,
                    line.method,
                    line.value,
                    line.conditions,
                    procedure,
                    line.set_aside is not None,
                    line.resolution,
                    line.block,
                )
            )
    return observations, runs


def _omnibus_test(lines: Lines, lanes: Mapping[str, int]) -> Document | None:
    values = [
        [line.value or 0.0 for line in counting(lines) if _name(line) == name] for name in lanes
    ]
    samples = [sample for sample in values if sample]
    return record(kruskal_wallis(samples)) if len(samples) > 1 else None


def _lanes(row: FindingRow, names: Mapping[int, str]) -> list[Document]:
    places = {}
    if row.verdict is not Verdict.NOT_COMPARABLE:
        judged = {(pair.a, pair.b): pair.found for pair in row.pairs}
        with_readings = [lane.lane_no for lane in row.lanes if lane.summary]
        places = {place.lane: place for place in standings(with_readings, judged)}
    entries = []
    for lane in row.lanes:
        place, summary = places.get(lane.lane_no), lane.summary
        entries.append(
            {
                "system": names[lane.lane_no],
                "n": summary.n if summary else 0,
                "failed": lane.failed,
                "timed_out": summary.timed_out if summary else 0,
                "stalled": lane.stalled,
                "median": summary.median if summary else None,
                "median_interval": interval_document(summary.median_interval) if summary else None,
                "standing": [place.best, place.worst] if place else None,
            }
        )
    return entries


def _pairs(row: FindingRow, names: Mapping[int, str], baseline: int) -> list[Document]:
    return [
        {
            "a": names[pair.a],
            "b": names[pair.b],
            "shift": estimate_document(pair.found.contrast.shift),
            "ratio": estimate_document(pair.found.contrast.ratio),
            "verdict": pair.found.verdict,
            "lean": pair.found.lean,
            "look": _look_document(pair.found.look) if pair.found.look else None,
            "sentence": pair.sentence,
        }
        for pair in row.pairs
        if pair.a == baseline
    ]


def machines_document(lines: Lines, asked: FieldQuestion) -> Document:
    """All contenders of one metric over machines as blocks.

    Each machine enters with the contenders' medians; machines that lack a contender are named and
    left out. Ratios have intervals shared out over all pairs.

    Raises
    ------
    BadInputError
        If fewer than two machines have all contenders.
    """
    made = metric(asked.metric)
    chosen, lanes, first = _chosen(lines, asked)
    one_kind(chosen)
    medians: dict[str, dict[str, float]] = {}
    for machine in dict.fromkeys(line.machine for line in chosen):
        for name in lanes:
            values = [
                line.value or 0.0
                for line in counting(chosen)
                if line.machine == machine and _name(line) == name
            ]
            if values:
                medians.setdefault(machine, {})[name] = float(np.median(values))
    complete = {m: row for m, row in medians.items() if len(row) == len(lanes)}
    if len(complete) < 2:
        raise BadInputError("fewer than two machines have readings of every contender")
    matrix = np.array([[row[name] for name in lanes] for row in complete.values()])
    names = list(lanes)
    pairs = [
        {
            "a": names[pair.a],
            "b": names[pair.b],
            "geometric_mean": pair.geometric_mean,
            "interval": interval_document(pair.interval),
            "p_adjusted": pair.p_adjusted,
            "disagree": pair.disagree,
        }
        for pair in machines_field(matrix)
        if names[pair.a] == first
    ]
    result: Document = plain(
        {
            "format": FORMAT,
            "metric": asked.metric,
            "machine": None,
            "unit": made.unit,
            "baseline": first,
            "machines": list(complete),
            "left_out": [machine for machine in medians if machine not in complete],
            "pairs_in_family": len(lanes) * (len(lanes) - 1) // 2,
            "omnibus_test": record(friedman(matrix)),
            "pairs": pairs,
            "scope": f"these installs on {len(complete)} machines",
        }
    )
    return result


def _look_document(look: Look) -> Document:
    return {"blocks": look.blocks, "is_extension": look.is_extension}
