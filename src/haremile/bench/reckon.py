"""Reckoning a readings file, with no bench book behind it."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np

from haremile.core import wording
from haremile.core.conditions import condition_hash, of_the_lane
from haremile.core.contrast import Contrast, Estimate, contrast
from haremile.core.fair_start import Difference, Grade, fair_start
from haremile.core.findings import FindingRow, Observation, RunOutcome, find
from haremile.core.humps import hump_count
from haremile.core.lane_statistics import Interval, stalls, summarise_lane
from haremile.core.location_tests import hedges_g, mann_whitney, welch
from haremile.core.margin import Margin
from haremile.core.metrics import metric
from haremile.core.paired import PairedContrast, paired_contrast
from haremile.core.sample import FloatArray
from haremile.core.sequence import diagnose_sequence
from haremile.core.study import RunState
from haremile.core.units import scale_for
from haremile.core.verdict import PairVerdict, Verdict, pair_verdict, standings
from haremile.errors import BadInputError
from haremile.formats.readings_csv import DONE, ReadingLine

SUMMARY_FORMAT = "haremile-summary/1"
FIELD_FORMAT = "haremile-field/1"
CONTRAST_FORMAT = "haremile-contrast/1"

Document = dict[str, Any]
_Group = tuple[str, str, str, str, str, str]


def _groups(lines: Sequence[ReadingLine]) -> dict[_Group, list[ReadingLine]]:
    """Rows by system, install, machine, metric, conditions and method, in order of the file.

    A run that failed has no method: it counts in every group that it might have belonged to.
    """
    groups: dict[_Group, list[ReadingLine]] = defaultdict(list)
    for line in lines:
        if line.value is not None:
            groups[_group_of(line)].append(line)
    for line in lines:
        if line.value is None:
            own = _group_of(line)
            fitting = [key for key in groups if key[:-1] == own[:-1]]
            for key in fitting or [own]:
                groups[key].append(line)
    return groups


def _group_of(line: ReadingLine) -> _Group:
    conditions = condition_hash(line.conditions)
    return (line.system, line.install, line.machine, line.metric, conditions, line.method)


def _counting(lines: Sequence[ReadingLine]) -> list[ReadingLine]:
    return [
        line
        for line in lines
        if line.value is not None and line.outcome == DONE and line.set_aside is None
    ]


def _values(lines: Sequence[ReadingLine]) -> FloatArray:
    return np.array([line.value for line in _counting(lines)], dtype=np.float64)


def _resolution(lines: Sequence[ReadingLine]) -> float | None:
    return max((line.resolution or 0.0 for line in lines), default=0.0) or None


def _failures(lines: Sequence[ReadingLine]) -> int:
    return sum(line.outcome != DONE for line in lines)


def summary_document(
    lines: Sequence[ReadingLine], key: str | None = None, level: float = 0.95
) -> Document:
    """``haremile-summary/1``: one entry for each group of a readings file.

    A group without any reading that counts is listed with n = 0 and its failures.
    """
    chosen = [line for line in lines if key is None or line.metric == key]
    if key is not None:
        metric(key)
        if not chosen:
            raise BadInputError(f"the file holds no readings of {key}")
    entries = [_summary_entry(group, level) for group in _groups(chosen).values()]
    return {"format": SUMMARY_FORMAT, "level": level, "groups": entries}


def _summary_entry(lines: Sequence[ReadingLine], level: float) -> Document:
    first = lines[0]
    head = {
        "system": first.system, "install": first.install or None, "machine": first.machine,
        "metric": first.metric, "method": first.method, "unit": first.unit,
        "conditions": of_the_lane(first.conditions),
    }  # fmt: skip
    values, failed = _values(lines), _failures(lines)
    if values.size == 0:
        return {**head, "n": 0, "failed": failed, "reliability": _reliability(lines, values)}
    found = summarise_lane(values, level, _resolution(lines))
    numbers = asdict(found)
    numbers["min"], numbers["max"] = numbers.pop("minimum"), numbers.pop("maximum")
    return {
        **head,
        **numbers,
        "failed": failed,
        "reliability": _reliability(lines, values),
        "sequence": _sequence(values),
    }


def _reliability(lines: Sequence[ReadingLine], values: FloatArray) -> Document:
    reasons: dict[str, int] = defaultdict(int)
    for line in lines:
        if line.outcome != DONE:
            reasons[line.reason or line.outcome] += 1
    made = metric(lines[0].metric)
    far = stalls(values, made.margin.amount or 0.0) if values.size and made.unit == "s" else ()
    return {
        "runs": len(lines), "failed": sum(reasons.values()), "reasons": dict(reasons),
        "stalls": list(far),
    }  # fmt: skip


def _sequence(values: FloatArray) -> Document:
    found = diagnose_sequence(values)
    trend = found.trend
    return {
        "first_run": asdict(found.first_run) if found.first_run else None,
        "lag1": found.lag1,
        "kendall_tau": trend.tau if trend else None,
        "kendall_s": trend.s if trend else None,
        "kendall_p": trend.p if trend else None,
        "theil_sen_per_run": trend.slope_per_run if trend else None,
        "shapiro_w": found.shapiro_w,
        "shapiro_p": found.shapiro_p,
        "far_out": list(found.far_out),
        "humps": hump_count(values),
        "little_power": found.has_little_power,
    }


@dataclass(frozen=True)
class ContrastQuestion:
    """Which two systems of a file are compared, in what, and by which margin."""

    metric: str
    a: str
    b: str
    machine: str | None = None
    paired_by: str | None = None
    margin: Margin | None = None
    level: float = 0.95


def contrast_document(lines: Sequence[ReadingLine], asked: ContrastQuestion) -> Document:
    """``haremile-contrast/1``: everything is b against a.

    Raises
    ------
    BadInputError
        If a system has no readings that count, or what is asked for fits several methods,
        machines or starts at once.
    """
    made = metric(asked.metric)
    lanes = _two_lanes(lines, asked)
    a, b = (_values(lanes[name]) for name in (asked.a, asked.b))
    every = [*lanes[asked.a], *lanes[asked.b]]
    step = _resolution(every)
    found = contrast(a, b, asked.level, step)
    paired = _paired(lanes, asked, step)
    differences = _differences(lanes)
    judged = None
    if asked.margin is not None:
        judged = pair_verdict(a, b, asked.margin, made.good_end, 1, step)
    head = {
        "format": CONTRAST_FORMAT, "a": asked.a, "b": asked.b, "metric": asked.metric,
        "machine": every[0].machine, "unit": made.unit, "n_a": a.size, "n_b": b.size,
        "median_a": float(np.median(a)), "median_b": float(np.median(b)),
    }  # fmt: skip
    return {
        **head,
        **_effects(found, paired),
        **_tests(a, b, asked.level, step, paired),
        **_judged(judged, asked.margin, differences),
        "speaks_of": "these installs",
        "fair_start": [
            {"key": d.key, "grade": d.grade, "values": list(d.values)} for d in differences
        ],
        "sentence": _sentence(lanes, asked, found, judged, differences),
    }


def _two_lanes(
    lines: Sequence[ReadingLine], asked: ContrastQuestion
) -> dict[str, list[ReadingLine]]:
    lanes: dict[str, list[ReadingLine]] = {}
    for name in (asked.a, asked.b):
        mine = [
            line
            for line in lines
            if line.metric == asked.metric
            and line.system == name
            and (asked.machine is None or line.machine == asked.machine)
        ]
        if not _counting(mine):
            raise BadInputError(f"{name} has no readings of {asked.metric} that count")
        lanes[name] = mine
    every = [line for group in lanes.values() for line in _counting(group)]
    _only_one("machine", {line.machine for line in every}, "choose one with --machine")
    _only_one("method", {line.method for line in every}, "give a file with one of them")
    starts = {line.conditions.get("start", "not stated") for line in every}
    _only_one("start", starts, "cold and warm never pool: give a file with one of them")
    return lanes


def _only_one(what: str, found: set[str], then: str) -> None:
    if len(found) > 1:
        raise BadInputError(f"more than one {what}: {', '.join(sorted(found))}; {then}")


def _paired(
    lanes: Mapping[str, Sequence[ReadingLine]], asked: ContrastQuestion, step: float | None
) -> PairedContrast | None:
    if asked.paired_by is None:
        return None
    keyed = [
        {line.block: line.value for line in _counting(lanes[name]) if line.block is not None}
        for name in (asked.a, asked.b)
    ]
    both = sorted(set(keyed[0]) & set(keyed[1]))
    if not both:
        raise BadInputError("no block holds readings of both; pairs cannot be formed")
    a, b = ([one[block] or 0.0 for block in both] for one in keyed)
    return paired_contrast(a, b, asked.level, step)


def _differences(lanes: Mapping[str, Sequence[ReadingLine]]) -> tuple[Difference, ...]:
    stated = {
        number: [of_the_lane(line.conditions) for line in _counting(group)]
        for number, group in enumerate(lanes.values())
    }
    return fair_start(stated)


def _estimate(found: Estimate | None) -> Document | None:
    if found is None:
        return None
    return {"estimate": found.value, **asdict(found.interval)}


def _effects(found: Contrast, paired: PairedContrast | None) -> Document:
    return {
        "shift": _estimate(paired.shift if paired else found.shift),
        "ratio": _estimate(paired.ratio if paired else found.ratio),
        "probability_b_lower": found.probability_b_lower,
        "cliffs_delta": found.cliffs_delta,
    }


def _tests(
    a: FloatArray, b: FloatArray, level: float, step: float | None, paired: PairedContrast | None
) -> Document:
    means = asdict(welch(a, b, level))
    means.pop("difference")
    return {
        "hedges_g": hedges_g(a, b),
        "mann_whitney": asdict(mann_whitney(a, b, step)),
        "welch": means,
        "signed_rank": asdict(paired.test) if paired else None,
    }


def _judged(
    judged: PairVerdict | None, margin: Margin | None, differences: Sequence[Difference]
) -> Document:
    stated = None if margin is None else {"share": margin.share, "amount": margin.amount}
    if judged is None:
        return {"margin": stated, "equivalence": None, "verdict": None, "lean": None}
    broken = any(d.grade is Grade.BREAKS for d in differences)
    verdict = Verdict.NOT_COMPARABLE if broken else judged.verdict
    inner: Interval = judged.inner
    equivalence = {**asdict(inner), "inside": judged.verdict is Verdict.LEVEL}
    return {
        "margin": stated, "equivalence": equivalence, "verdict": verdict,
        "lean": None if broken else judged.lean,
    }  # fmt: skip


def _sentence(
    lanes: Mapping[str, Sequence[ReadingLine]],
    asked: ContrastQuestion,
    found: Contrast,
    judged: PairVerdict | None,
    differences: Sequence[Difference],
) -> str:
    grave = [d for d in differences if d.grade is Grade.BREAKS]
    if grave and asked.margin is not None:
        return wording.not_comparable_sentence(grave)
    made = metric(asked.metric)
    every = np.concatenate([_values(group) for group in lanes.values()])
    trouble = [
        wording.Trouble(n, _failures(group), 0, len(group))
        for n, group in enumerate(lanes.values())
    ]
    clauses = wording.trouble_clauses(trouble, dict(enumerate(lanes)), "runs")
    plain = PairVerdict(Verdict.LEVEL, None, found, found.shift.interval, None)
    scale = scale_for(made.unit, float(np.median(every)))
    return wording.pair_sentence(made, asked.a, asked.b, judged or plain, scale, clauses)


def field_document(
    lines: Sequence[ReadingLine],
    key: str,
    machine: str | None = None,
    margin: Margin | None = None,
    baseline: str | None = None,
) -> Document:
    """``haremile-field/1``: all contenders of one metric, every pair judged as one family.

    The margin is the catalogue's where none is stated. Pairs are said against `baseline`, the
    first contender of the file where none is named; it changes words, never a verdict.
    """
    made = metric(key)
    chosen = [
        line
        for line in lines
        if line.metric == key and (machine is None or line.machine == machine)
    ]
    if not chosen:
        raise BadInputError(f"the file holds no readings of {key}")
    lanes = {name: i for i, name in enumerate(dict.fromkeys(_name(line) for line in chosen), 1)}
    first = next(iter(lanes)) if baseline is None else baseline
    if first not in lanes:
        raise BadInputError(f"no contender {first}; expected one of {', '.join(lanes)}")
    names = {number: name for name, number in lanes.items()}
    margins = {} if margin is None else {key: margin}
    found = find(names, *_observed(chosen, lanes), margins)
    if len(found.rows) != 1:
        rows = {f"{row.machine}, {row.method}, start {row.start}" for row in found.rows}
        _only_one("machine, method or start", rows, "give a file (or --machine) with one")
    (row,) = found.rows
    return {
        "format": FIELD_FORMAT, "metric": key, "machine": row.machine, "unit": made.unit,
        "baseline": first, "margin": asdict(row.margin), "pairs_in_family": row.family,
        "verdict": row.verdict, "leader": row.leader and names[row.leader],
        "lanes": _field_lanes(row, names), "pairs": _field_pairs(row, names, lanes[first]),
        "fair_start": [{"key": d.key, "grade": d.grade} for d in row.fair_start],
        "speaks_of": row.speaks_of, "sentence": row.sentence,
    }  # fmt: skip


def _name(line: ReadingLine) -> str:
    return f"{line.system}, {line.install}" if line.install else line.system


def _observed(
    lines: Sequence[ReadingLine], lanes: Mapping[str, int]
) -> tuple[list[Observation], list[RunOutcome]]:
    observations, runs = [], []
    for line in lines:
        lane, procedure = lanes[_name(line)], metric(line.metric).procedures[0]
        done = line.outcome == DONE
        state = RunState.DONE if done else RunState.FAILED
        runs.append(RunOutcome(lane, line.machine, procedure, state))
        if done and line.value is not None:
            observations.append(
                Observation(
                    lane, line.machine, line.metric, line.method, line.value, line.conditions,
                    procedure, line.set_aside is not None, line.resolution,
                )
            )  # fmt: skip
    return observations, runs


def _field_lanes(row: FindingRow, names: Mapping[int, str]) -> list[Document]:
    places = {}
    if row.verdict is not Verdict.NOT_COMPARABLE:
        judged = {(pair.a, pair.b): pair.found for pair in row.pairs}
        with_readings = [lane.lane_no for lane in row.lanes if lane.summary]
        places = {place.lane: place for place in standings(with_readings, judged)}
    entries = []
    for lane in row.lanes:
        place = places.get(lane.lane_no)
        entries.append(
            {
                "system": names[lane.lane_no],
                "n": lane.summary.n if lane.summary else 0,
                "failed": lane.failed,
                "median": lane.summary.median if lane.summary else None,
                "standing": [place.best, place.worst] if place else None,
            }
        )
    return entries


def _field_pairs(row: FindingRow, names: Mapping[int, str], baseline: int) -> list[Document]:
    return [
        {
            "a": names[pair.a], "b": names[pair.b],
            "shift": _estimate(pair.found.contrast.shift),
            "ratio": _estimate(pair.found.contrast.ratio),
            "verdict": pair.found.verdict, "lean": pair.found.lean, "sentence": pair.sentence,
        }
        for pair in row.pairs
        if pair.a == baseline
    ]  # fmt: skip
