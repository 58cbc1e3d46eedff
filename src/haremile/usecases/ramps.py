"""A study's ramps: what every one carried, and the machine that so many pages need."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from statistics import median
from uuid import UUID

from haremile.core.load.smallest import Fit, Need, RampFigures, fit, needed
from haremile.core.records.metrics import stated_size
from haremile.core.records.study import RunState, Study
from haremile.core.wording.ramps import need_text, ramps_headline
from haremile.errors import NotFoundError
from haremile.formats.captures import parse_stored
from haremile.usecases.ports import ReadingRepository, StudyRepository
from haremile_probe.interpret.ramp import RampNote, before_swap, line, parse_ramp, swap_at
from haremile_probe.load.kinds import KINDS
from haremile_probe.load.rules import ALL_CARRIED
from haremile_probe.parsers import UnreadableError

RAMP = "ramp"
NEAR = 0.12
"""A machine tells of so much less memory than is built into it, at most."""


@dataclass(frozen=True)
class Asked:
    """What the smallest machine is asked for.

    Attributes
    ----------
    pages : int
    reserve, swap : float
        Bytes that are to stay free, and that may be swapped.
    sizes : sequence of float
        Bytes of the machines that are looked at; those of the study's own machines come beside.
    """

    pages: int
    reserve: float
    swap: float
    sizes: Sequence[float]


@dataclass(frozen=True)
class RampRun:
    """One ramp: memory in use at each page that was carried, bytes, what ended it, and the memory
    that there was: of the machine, or of the limit that the application was given."""

    run_id: UUID
    block: int
    used: tuple[float, ...]
    carried: int
    ended: str
    swap_at: int | None
    memory: float | None
    is_of_pages: bool


@dataclass(frozen=True)
class Check:
    """Ramps that were really done on a machine of that size: how many of them carried the asked
    number of pages, of how many that tell."""

    held: int
    of: int


@dataclass(frozen=True)
class LaneRamps:
    """All ramps of a contender with one application, and what the asked number of pages needs;
    beside what each size is said to do stands what was seen on one, None where nothing was."""

    lane_no: int
    machine: str
    app: str
    runs: tuple[RampRun, ...]
    carried: float
    is_at_least: bool
    base: float | None
    step: float | None
    need: Need | None
    fits: tuple[Fit, ...]
    checks: tuple[Check | None, ...]


@dataclass(frozen=True)
class StudyRamps:
    """Every lane's ramps, with their headline and a sentence for each need; `noun` is what was
    opened: pages, or steps where it was other things too."""

    sizes: tuple[float, ...]
    lanes: tuple[LaneRamps, ...]
    headline: str
    sentences: tuple[str, ...]
    noun: str


def study_ramps(
    studies: StudyRepository, readings: ReadingRepository, study_id: UUID, asked: Asked
) -> StudyRamps:
    """What a study's ramps told; set-aside runs and those without a ramp's record count nowhere."""
    study = studies.get(study_id)
    by_lane: dict[tuple[int, str], list[tuple[RampRun, RampFigures | None]]] = {}
    for run in studies.runs(study_id):
        if run.procedure != RAMP or run.state is not RunState.DONE:
            continue
        found = ramp_of(readings, run.id)
        if found is None:
            continue
        note, memory = found
        app = note.command[0].rpartition("/")[2]
        by_lane.setdefault((run.lane_no, app), []).append(_run(run.id, run.block, note, memory))
    runs = {key: [run for run, _ in found] for key, found in by_lane.items()}
    asked = replace(asked, sizes=_sizes(asked.sizes, runs.values()))
    systems = {one.lane_no: one.install.system.name for one in study.contenders}
    of_system: dict[tuple[str, str], list[RampRun]] = {}
    for (lane, app), own in runs.items():
        of_system.setdefault((systems[lane], app), []).extend(own)
    lanes = tuple(
        _lane(study, key, found, asked, of_system[systems[key[0]], key[1]])
        for key, found in sorted(by_lane.items())
    )
    names = {one.lane_no: one.label for one in study.contenders}
    is_of_pages = all(run.is_of_pages for own in runs.values() for run in own)
    noun = "pages" if is_of_pages else "steps"
    return StudyRamps(
        tuple(asked.sizes),
        lanes,
        ramps_headline(
            {one.lane_no: one.carried for one in lanes},
            [one.lane_no for one in lanes if one.is_at_least],
            names,
            noun,
        ),
        tuple(
            need_text(names[one.lane_no], asked.pages, one.need, noun)
            for one in lanes
            if one.need is not None
        ),
        noun,
    )


def ramp_of(readings: ReadingRepository, run_id: UUID) -> tuple[RampNote, float | None] | None:
    """What a run's capture wrote down of its ramp, and the memory that there was, bytes; None where
    it holds no ramp."""
    try:
        stored = readings.capture_of_run(run_id)
    except NotFoundError:
        return None
    capture = parse_stored(stored.kind, stored.body)
    text = None if capture is None else capture.text_of(RAMP)
    if capture is None or text is None:
        return None
    try:
        note = parse_ramp(text)
    except UnreadableError:
        return None  # a capture made by hand: its readings stand without a curve
    limit = None if note.limit is None else float(note.limit)
    return note, limit or stated_size(capture.conditions.get("memory", ""))


def _run(
    run_id: UUID, block: int, note: RampNote, memory: float | None
) -> tuple[RampRun, RampFigures | None]:
    found = line([(step.number, step.used) for step in before_swap(note)])
    figures = None if found is None or found.slope <= 0 else RampFigures(found.at_zero, found.slope)
    used = tuple(float(step.used) for step in note.steps)
    is_of_pages = all(kind in KINDS for kind in note.mix)
    run = RampRun(run_id, block, used, note.carried, note.ended, swap_at(note), memory, is_of_pages)
    return run, figures


def _sizes(asked: Sequence[float], runs: Iterable[Sequence[RampRun]]) -> tuple[float, ...]:
    """The sizes that were asked for, and those of machines near none of them."""
    told = {run.memory for own in runs for run in own if run.memory is not None}
    more = {size for size in told if not any(_is_of(size, one) for one in asked)}
    return tuple(sorted({*asked, *more}))


def _is_of(told: float, size: float) -> bool:
    """Whether a machine that tells of so much memory is one of that size."""
    return (1.0 - NEAR) * size <= told <= size


def _check(runs: Iterable[RampRun], size: float, pages: int) -> Check | None:
    here = [run for run in runs if run.memory is not None and _is_of(run.memory, size)]
    told = [run for run in here if run.carried >= pages or run.ended != ALL_CARRIED]
    return Check(sum(run.carried >= pages for run in told), len(told)) if told else None


def _lane(
    study: Study,
    key: tuple[int, str],
    found: Sequence[tuple[RampRun, RampFigures | None]],
    asked: Asked,
    of_the_system: Sequence[RampRun],
) -> LaneRamps:
    lane_no, app = key
    machines: Mapping[int, str] = {
        one.lane_no: one.install.machine.name for one in study.contenders
    }
    figures = [one for _, one in found if one is not None]
    need = needed(figures, asked.pages, asked.reserve)
    return LaneRamps(
        lane_no=lane_no,
        machine=machines[lane_no],
        app=app,
        runs=tuple(run for run, _ in found),
        carried=median(run.carried for run, _ in found),
        is_at_least=all(run.ended == ALL_CARRIED for run, _ in found),
        base=median(one.base for one in figures) if figures else None,
        step=median(one.step for one in figures) if figures else None,
        need=need,
        fits=tuple(fit(need, size, asked.swap) for size in asked.sizes),
        checks=tuple(_check(of_the_system, size, asked.pages) for size in asked.sizes),
    )
