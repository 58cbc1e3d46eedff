"""``haremile-contrast/1``: everything is b against a."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from haremile.core.comparison.comparability import Difference, graded_conditions, unstated_keys
from haremile.core.comparison.findings import ANEW
from haremile.core.comparison.machines import MachinesContrast, contrast_over_machines
from haremile.core.comparison.records import Incidents
from haremile.core.comparison.verdict import (
    PairVerdict,
    Verdict,
    VerdictRule,
    counted_verdict,
    deciding_interval,
    installs_verdict,
    pair_verdict,
    paired_verdict,
)
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import Kind, metric
from haremile.core.records.units import scale_for
from haremile.core.statistics.contrast import (
    Contrast,
    contrast,
    exact_contrast,
    is_exact,
    rank_sum_interval,
    stretched,
)
from haremile.core.statistics.dependence import upper_dependence, widening
from haremile.core.statistics.equivalence import equivalence
from haremile.core.statistics.installs import contrast_of_installs
from haremile.core.statistics.lane_statistics import stalls
from haremile.core.statistics.location_tests import hedges_g, mann_whitney, welch
from haremile.core.statistics.paired import paired_contrast
from haremile.core.statistics.proportions import compare_proportions, proportion
from haremile.core.statistics.validation import FloatArray, are_whole
from haremile.core.wording.conditions import (
    in_a_row_clauses,
    not_comparable_sentence,
    override_clauses,
)
from haremile.core.wording.difference import difference_sentence, pair_sentence
from haremile.core.wording.machines import machines_clauses
from haremile.core.wording.reliability import incident_clauses, stall_word
from haremile.errors import BadInputError
from haremile.usecases.calculate.lines import (
    Document,
    Lines,
    counting,
    difference_document,
    estimate_document,
    failures,
    interval_document,
    lane_conditions,
    one_kind,
    only_one,
    plain,
    record,
    resolution_of,
    values_of,
)

FORMAT = "haremile-contrast/1"
PAIRINGS = ("block", "machine")

_ByInstall = Mapping[str, FloatArray]


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
    overrides: Mapping[str, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if self.paired_by not in (None, *PAIRINGS):
            raise BadInputError(f"pairs are formed by block or machine, not by {self.paired_by}")


@dataclass(frozen=True)
class _Lanes:
    """The readings of both systems, in the form in which they are compared."""

    a: FloatArray
    b: FloatArray
    installs: tuple[_ByInstall, _ByInstall] | None
    machines: MachinesContrast | None
    scope: str
    is_in_a_row: bool = False

    @property
    def dependence(self) -> float | None:
        """How far one run may resemble the next, where they follow one another unshuffled."""
        return upper_dependence([self.a, self.b]) if self.is_in_a_row else None


def contrast_document(lines: Lines, asked: ContrastQuestion) -> Document:
    """Compare two systems of a readings file.

    Raises
    ------
    BadInputError
        If a system has no readings that count, or what is asked for fits several methods,
        machines or starts at once.
    """
    made = metric(asked.metric)
    if asked.a == asked.b:
        raise BadInputError(f"{asked.a} is compared with itself; name two contenders")
    chosen = {name: _chosen(lines, asked, name) for name in (asked.a, asked.b)}
    every = [line for group in chosen.values() for line in group]
    step = resolution_of(every)
    lanes = _compared(chosen, asked)
    found = _contrast(lanes, asked, step, made.kind)
    judged = None
    rule = VerdictRule(asked.margin or Margin(), made.good_end, 2, step, lanes.is_in_a_row)
    if asked.margin is not None:
        judged = _judged(lanes, asked, rule, made.kind)
    stated = lane_conditions(chosen)
    graded = graded_conditions(stated, asked.overrides)
    document: Document = {
        "format": FORMAT,
        "a": asked.a,
        "b": asked.b,
        "metric": asked.metric,
        "machine": None if asked.paired_by == "machine" else every[0].machine,
        "unit": made.unit,
        "n_a": lanes.a.size,
        "n_b": lanes.b.size,
        "median_a": float(np.median(lanes.a)),
        "median_b": float(np.median(lanes.b)),
        **_effects(found),
        **_tests(lanes, asked, step),
        **_verdict(judged, rule, asked.margin, graded),
        "tost": _tost(lanes, asked),
        "scope": lanes.scope,
        "machines": _machines(lanes.machines),
        "reliability": _reliability(chosen),
        "fair_start": [difference_document(d) for d in graded],
        "unstated": list(unstated_keys(stated, asked.metric)),
        "sentence": _sentence(chosen, asked, found, judged, graded, lanes),
    }
    result: Document = plain(document)
    return result


def _chosen(lines: Lines, asked: ContrastQuestion, name: str) -> Lines:
    mine = [
        line
        for line in lines
        if line.metric == asked.metric
        and line.system == name
        and (asked.machine is None or line.machine == asked.machine)
    ]
    if not counting(mine):
        raise BadInputError(f"{name} has no readings of {asked.metric} that count")
    return mine


def _compared(chosen: Mapping[str, Lines], asked: ContrastQuestion) -> _Lanes:
    every = [line for group in chosen.values() for line in group]
    one_kind(every)
    if asked.paired_by == "machine":
        return _by_machine(chosen, asked)
    machines = {line.machine for line in counting(every)}
    only_one("machine", machines, "choose one with --machine, or compare --paired-by machine")
    if asked.paired_by == "block":
        return _by_block(chosen, asked)
    a, b = (values_of(chosen[name]) for name in (asked.a, asked.b))
    installs = [
        {str(name): values for name, values in _grouped(chosen[system], "install").items()}
        for system in (asked.a, asked.b)
    ]
    counts = [len(one) for one in installs]
    if max(counts) == 1:
        is_in_a_row = any(line.conditions.get("switching") == ANEW for line in every)
        return _Lanes(a, b, None, None, "these installs", is_in_a_row)
    if min(counts) == 1:
        raise BadInputError(
            f"{asked.a} has {counts[0]} and {asked.b} has {counts[1]} installs; "
            "give a file with one install of each, or with several of each"
        )
    speaks = f"these systems, as {counts[0]} and {counts[1]} installs of them tell"
    return _Lanes(a, b, (installs[0], installs[1]), None, speaks)


def _by_block(chosen: Mapping[str, Lines], asked: ContrastQuestion) -> _Lanes:
    a, b = (_grouped(chosen[name], "block") for name in (asked.a, asked.b))
    both = [block for block in a if block in b]
    if not both:
        raise BadInputError("no block holds readings of both; pairs cannot be formed")
    return _Lanes(_medians(a, both), _medians(b, both), None, None, "these installs")


def _by_machine(chosen: Mapping[str, Lines], asked: ContrastQuestion) -> _Lanes:
    a, b = (_grouped(chosen[name], "machine") for name in (asked.a, asked.b))
    both = [machine for machine in a if machine in b]
    if not both:
        raise BadInputError("no machine has readings of both; pairs cannot be formed")
    is_positive = all(min(a[m].min(), b[m].min()) > 0 for m in both)
    readings = {str(m): (a[m], b[m]) for m in both}
    machines = contrast_over_machines(readings, asked.level) if is_positive else None
    speaks = f"these installs on {len(both)} machines"
    return _Lanes(_medians(a, both), _medians(b, both), None, machines, speaks)


def _medians(groups: Mapping[object, FloatArray], keys: Sequence[object]) -> FloatArray:
    return np.array([float(np.median(groups[key])) for key in keys])


def _grouped(lines: Lines, by: str) -> dict[object, FloatArray]:
    """Readings that count by block, machine or install, in order of the file."""
    found: dict[object, list[float]] = defaultdict(list)
    for line in counting(lines):
        if getattr(line, by) is not None:
            found[getattr(line, by)].append(line.value or 0.0)
    return {key: np.array(values) for key, values in found.items()}


def _contrast(lanes: _Lanes, asked: ContrastQuestion, step: float | None, kind: Kind) -> Contrast:
    if lanes.installs is not None:
        return contrast_of_installs(*lanes.installs, asked.level)
    if kind is Kind.COUNTED and is_exact(lanes.a, lanes.b):
        return exact_contrast(lanes.a, lanes.b)
    found = contrast(lanes.a, lanes.b, asked.level, step)
    if asked.paired_by is None:
        dependence = lanes.dependence
        return found if dependence is None else stretched(found, widening(dependence))
    pairs = paired_contrast(lanes.a, lanes.b, asked.level, step)
    return replace(found, shift=pairs.shift, ratio=pairs.ratio, method="signed rank")


def _judged(lanes: _Lanes, asked: ContrastQuestion, rule: VerdictRule, kind: Kind) -> PairVerdict:
    if lanes.installs is not None:
        return installs_verdict(*lanes.installs, rule)
    if kind is Kind.COUNTED and is_exact(lanes.a, lanes.b):
        return counted_verdict(lanes.a, lanes.b, rule)
    if asked.paired_by is not None:
        return paired_verdict(lanes.a, lanes.b, rule)
    return pair_verdict(lanes.a, lanes.b, rule)


def _effects(found: Contrast) -> Document:
    return {
        "method": found.method,
        "shift": estimate_document(found.shift),
        "ratio": estimate_document(found.ratio),
        "probability_b_lower": found.probability_b_lower,
        "cliffs_delta": found.cliffs_delta,
    }


def _tests(lanes: _Lanes, asked: ContrastQuestion, step: float | None) -> Document:
    means: Document = dict.fromkeys(("t", "df", "p", "low", "high"))
    size = None
    if _all_ended(lanes):  # a mean of runs that never ended is not defined
        found = record(welch(lanes.a, lanes.b, asked.level))
        means, size = {key: found[key] for key in means}, hedges_g(lanes.a, lanes.b)
    pairs = None
    if asked.paired_by is not None:
        pairs = record(paired_contrast(lanes.a, lanes.b, asked.level, step).test)
    return {
        "hedges_g": size,
        "mann_whitney": {
            **record(mann_whitney(lanes.a, lanes.b, step)),
            "interval": interval_document(rank_sum_interval(lanes.a, lanes.b, asked.level)),
        },
        "welch": means,
        "signed_rank": pairs,
    }


def _all_ended(lanes: _Lanes) -> bool:
    return bool(np.isfinite(lanes.a).all() and np.isfinite(lanes.b).all())


def _verdict(
    judged: PairVerdict | None,
    rule: VerdictRule,
    margin: Margin | None,
    graded: tuple[Difference, ...],
) -> Document:
    if judged is None or margin is None:
        return {"margin": None, "equivalence": None, "verdict": None, "lean": None}
    scale, limits = deciding_interval(judged, rule)
    broken = any(d.forbids for d in graded)
    return {
        "margin": {"share": margin.share, "amount": margin.amount},
        "equivalence": {
            **(interval_document(limits) or {}),
            "scale": scale,
            "inside": judged.verdict is Verdict.LEVEL,
        },
        "verdict": Verdict.NOT_COMPARABLE if broken else judged.verdict,
        "lean": None if broken else judged.lean,
        "repeats_needed": judged.repeats_needed,
    }


def _tost(lanes: _Lanes, asked: ContrastQuestion) -> Document | None:
    """Two one-sided t tests beside the verdict; None where they are not defined."""
    margin = asked.margin
    if margin is None or asked.paired_by is not None or lanes.installs or not _all_ended(lanes):
        return None
    is_share = margin.amount is None
    if is_share and min(lanes.a.min(), lanes.b.min()) <= 0.0:
        return None
    found = equivalence(lanes.a, lanes.b, margin.amount, margin.share if is_share else None)
    return {**record(found), "interval": interval_document(found.interval)}


def _machines(found: MachinesContrast | None) -> Document | None:
    if found is None:
        return None
    return {
        "ratios": [
            {
                "machine": part.machine,
                "medians": part.medians,
                "typical": estimate_document(part.typical),
            }
            for part in found.machines
        ],
        "geometric_mean": found.geometric_mean,
        "interval": interval_document(found.interval),
        "p": found.p,
        "disagree": found.disagree,
    }


def _reliability(chosen: Mapping[str, Lines]) -> Document:
    a, b = (proportion(failures(group), len(group)) for group in chosen.values())
    found = compare_proportions(a, b)
    return {
        "failed_a": a.count,
        "runs_a": a.runs,
        "failed_b": b.count,
        "runs_b": b.runs,
        "difference": estimate_document(found.difference),
        "p": found.p,
    }


def _sentence(
    chosen: Mapping[str, Lines],
    asked: ContrastQuestion,
    found: Contrast,
    judged: PairVerdict | None,
    graded: tuple[Difference, ...],
    lanes: _Lanes,
) -> str:
    grave = [d for d in graded if d.forbids]
    if grave and judged is not None:
        return not_comparable_sentence(grave)
    made = metric(asked.metric)
    middle = np.concatenate([lanes.a, lanes.b])
    known = middle[np.isfinite(middle)]
    scale = scale_for(made.unit, float(np.median(known)), are_whole(known))
    clauses = _clauses(chosen, asked, graded, lanes)
    if judged is None:
        return difference_sentence(made, asked.a, asked.b, found, scale, clauses)
    return pair_sentence(made, asked.a, asked.b, judged, scale, clauses)


def _clauses(
    chosen: Mapping[str, Lines],
    asked: ContrastQuestion,
    graded: tuple[Difference, ...],
    lanes: _Lanes,
) -> list[str]:
    made = metric(asked.metric)
    margin = asked.margin or made.margin
    incidents = []
    for number, group in enumerate(chosen.values()):
        ended = np.array([line.value for line in counting(group)], dtype=np.float64)
        middle = float(np.median(ended)) if ended.size else 0.0
        count = len(stalls(ended, margin.width(middle))) if ended.size else 0
        incidents.append(Incidents(number, failures(group), count, len(group)))
    return [
        *incident_clauses(incidents, dict(enumerate(chosen)), "runs", stall_word(made)),
        *override_clauses(graded),
        *in_a_row_clauses(lanes.is_in_a_row, [lanes.dependence]),
        *machines_clauses(lanes.machines),
    ]
