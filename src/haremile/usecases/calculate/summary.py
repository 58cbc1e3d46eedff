"""``haremile-summary/1``."""

from collections import defaultdict

import numpy as np

from haremile.core.records.conditions import condition_hash, of_the_lane
from haremile.core.records.metrics import GoodEnd, Kind, metric
from haremile.core.records.units import scale_for
from haremile.core.statistics.diagnostic_power import diagnostic_power
from haremile.core.statistics.lane_statistics import LaneSummary, stalls, summarise_lane
from haremile.core.statistics.modality import Modes, modes_of
from haremile.core.statistics.proportions import proportion, unseen_share
from haremile.core.statistics.resampling import quantile_interval
from haremile.core.statistics.run_order import SequenceDiagnosis, diagnose_sequence
from haremile.core.statistics.validation import FloatArray, are_whole
from haremile.core.wording.reliability import alone_reliability_sentence
from haremile.core.wording.run_order import lane_sentences
from haremile.errors import BadInputError
from haremile.formats.readings_csv import DONE, ReadingLine
from haremile.usecases.calculate.lines import (
    Document,
    Lines,
    counting,
    failures,
    interval_document,
    measured,
    plain,
    record,
    resolution_of,
    values_of,
)

FORMAT = "haremile-summary/1"

_Group = tuple[str, str, str, str, str, str]
_NUMBERS = (
    "mean",
    "sd",
    "cv",
    "se",
    "median",
    "q1",
    "q3",
    "p90",
    "iqr",
    "mad",
    "mad_scaled",
    "geometric_mean",
)
_INTERVALS = ("mean_interval", "median_interval", "widest_interval")
_SEQUENCE = (
    "first_run",
    "lag1",
    "kendall_tau",
    "kendall_s",
    "kendall_p",
    "theil_sen_per_run",
    "shapiro_w",
    "shapiro_p",
)


def summary_document(lines: Lines, key: str | None = None, level: float = 0.95) -> Document:
    """One entry for each group of a readings file.

    A group without any reading that counts is listed with n = 0, its failures, and None for all
    that is then undefined.

    Raises
    ------
    BadInputError
        If the metric is unknown or the file holds none of it.
    """
    chosen = [line for line in lines if key is None or line.metric == key]
    if key is not None:
        metric(key)
        if not chosen:
            raise BadInputError(f"the file holds no readings of {key}")
    entries = [_entry(group, level) for group in _groups(chosen).values()]
    document: Document = plain({"format": FORMAT, "level": level, "groups": entries})
    return document


def _groups(lines: Lines) -> dict[_Group, list[ReadingLine]]:
    """Rows by system, install, machine, metric, conditions and method, in order of the file.

    A run that failed has no method, and states no more conditions than it got to know: it counts in
    every group that it might have belonged to.
    """
    groups: dict[_Group, list[ReadingLine]] = defaultdict(list)
    for line in lines:
        if line.value is not None:
            groups[_group_of(line)].append(line)
    for line in lines:
        if line.value is None:
            fitting = [key for key, group in groups.items() if _might_belong(line, group[0])]
            for key in fitting or [_group_of(line)]:
                groups[key].append(line)
    return groups


def _might_belong(failed: ReadingLine, member: ReadingLine) -> bool:
    """Whether a run that failed contradicts nothing that is said of a group's member."""
    same = ("system", "install", "machine", "metric")
    stated, theirs = of_the_lane(failed.conditions), of_the_lane(member.conditions)
    return all(getattr(failed, name) == getattr(member, name) for name in same) and all(
        theirs.get(key) == value for key, value in stated.items()
    )


def _group_of(line: ReadingLine) -> _Group:
    conditions = condition_hash(line.conditions)
    return (line.system, line.install, line.machine, line.metric, conditions, line.method)


def _entry(lines: Lines, level: float) -> Document:
    first = lines[0]
    values = values_of(lines)
    ended = values[np.isfinite(values)]
    found = summarise_lane(values, level, resolution_of(lines)) if ended.size else None
    order = diagnose_sequence(ended) if ended.size else None
    modes = modes_of(ended) if ended.size else Modes(None, None)
    return {
        "system": first.system,
        "install": first.install or None,
        "machine": first.machine,
        "metric": first.metric,
        "method": first.method,
        "unit": first.unit,
        "conditions": of_the_lane(first.conditions),
        "n": ended.size,
        "failed": failures(lines),
        "timed_out": values.size - ended.size,
        **_numbers(found),
        "p90_interval": _p90_interval(values, level),
        "reliability": _reliability(lines, ended),
        "sequence": _sequence(order, modes),
        "sentences": _sentences(lines, found, ended, order, modes),
    }


def _p90_interval(values: FloatArray, level: float) -> Document | None:
    if not values.size or not np.isfinite(values).all():
        return None
    found = quantile_interval(values, 0.9, level)
    if found is None:
        return None
    return {**(interval_document(found.interval) or {}), "method": found.method}


def _numbers(found: LaneSummary | None) -> Document:
    if found is None:
        return dict.fromkeys((*_NUMBERS, *_INTERVALS, "min", "max"))
    numbers = {name: getattr(found, name) for name in _NUMBERS}
    limits = {name: interval_document(getattr(found, name)) for name in _INTERVALS}
    return {**numbers, **limits, "min": found.minimum, "max": found.maximum}


def _stalls(lines: Lines, ended: FloatArray) -> list[int]:
    """Positions of stalls."""
    made = metric(lines[0].metric)
    if made.kind is Kind.COUNTED or not ended.size:
        return []
    worse = -ended if made.good_end is GoodEnd.HIGH else ended
    return list(stalls(worse, made.margin.width(float(np.median(ended)))))


def _reliability(lines: Lines, ended: FloatArray) -> Document:
    reasons: dict[str, int] = defaultdict(int)
    lines = measured(lines)
    for line in lines:
        if line.outcome != DONE:
            reasons[line.reason or line.outcome] += 1
    share = proportion(sum(reasons.values()), len(lines))
    return {
        "runs": len(lines),
        "failed": share.count,
        "reasons": dict(reasons),
        "failed_share": share.share,
        "failed_interval": interval_document(share.interval),
        "unseen_share": unseen_share(len(lines)),
        "stalls": _stalls(lines, ended),
    }


def _sequence(found: SequenceDiagnosis | None, modes: Modes) -> Document:
    if found is None:
        return {**dict.fromkeys(_SEQUENCE), "far_out": [], "modes": None, "power": None}
    trend = found.trend
    return {
        "first_run": record(found.first_run) if found.first_run else None,
        "lag1": found.lag1,
        "kendall_tau": trend.tau if trend else None,
        "kendall_s": trend.s if trend else None,
        "kendall_p": trend.p if trend else None,
        "theil_sen_per_run": trend.slope_per_run if trend else None,
        "shapiro_w": found.shapiro_w,
        "shapiro_p": found.shapiro_p,
        "far_out": list(found.far_out),
        "modes": modes.number,
        "little_power": found.has_little_power,
        "power": record(diagnostic_power(found.n)),
    }


def _sentences(
    lines: Lines,
    found: LaneSummary | None,
    ended: FloatArray,
    order: SequenceDiagnosis | None,
    modes: Modes,
) -> list[str]:
    stalled = len(_stalls(lines, ended))
    reliable = alone_reliability_sentence(failures(lines), stalled, len(lines))
    if found is None or order is None:
        aside = len(lines) - failures(lines) - len(counting(lines))
        return ["All readings are set aside." if aside else "There are no readings.", reliable]
    made = metric(lines[0].metric)
    scale = scale_for(made.unit, float(np.median(ended)), are_whole(ended))
    said = lane_sentences(made, scale, found, order, modes.medians)
    return [said[0], reliable, *said[1:]]
