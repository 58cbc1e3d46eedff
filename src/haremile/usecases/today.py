"""Today: what each machine is doing, what comes next there, and what needs a hand."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from statistics import median
from uuid import UUID

from haremile.core.records.study import Contender, Run, RunState, Study, StudyState
from haremile.usecases.ports import Event, EventLog, StudyDigest, StudyRepository

STOPPED = "study.stopped"
RESTS = "machine.rests"
WAITS = "machine.waits"
OVER = ("run.done", "run.failed", "run.lost", "study.paused")
"""After one of these nothing waits any more for what was asked before."""

STARTED = "study.running"
NEXT_SHOWN = 3


@dataclass(frozen=True)
class PlacedRun:
    """A run with the study and the contender that it is of."""

    run: Run
    study_id: UUID
    question: str
    contender: str


@dataclass(frozen=True)
class MachineDay:
    """A machine's lane.

    Attributes
    ----------
    now : PlacedRun or None
        What is under way.
    next : sequence of PlacedRun
        The first few that are planned there.
    left : int
        All that are planned or under way.
    left_s : float or None
        About how long that takes, from the lengths of the runs that are over; None before the
        first.
    is_moving : bool
        Whether a study of this machine runs now.
    """

    name: str
    kind: str
    done: int
    now: PlacedRun | None
    next: tuple[PlacedRun, ...]
    left: int
    left_s: float | None
    is_moving: bool


@dataclass(frozen=True)
class ActionNeeded:
    """Something that waits for a person."""

    study_id: UUID
    question: str
    what: str
    since: datetime | None


@dataclass(frozen=True)
class Today:
    """Machines with work on them, and what needs a hand."""

    machines: tuple[MachineDay, ...]
    actions_needed: tuple[ActionNeeded, ...]
    last_event: int


def today(studies: StudyRepository, events: EventLog) -> Today:
    """Every machine that has runs to do, by name, and everything that waits for a person."""
    last_event = events.last_id()
    waiting = events.newest([WAITS, *OVER])
    stopped = events.newest([STOPPED, RESTS, STARTED])
    by_machine: dict[tuple[str, str], list[_Work]] = defaultdict(list)
    actions_needed: list[ActionNeeded] = []
    for digest in studies.digests():
        if digest.state is StudyState.DONE:
            continue
        study, runs = studies.get(digest.id), studies.runs(digest.id)
        actions_needed += _actions_needed(digest, runs, stopped)
        waits = waiting.get(digest.id)
        if waits is not None and waits.kind == WAITS:
            what = f"{waits.facts.get('machine')}: {waits.facts.get('what')}"
            actions_needed.append(ActionNeeded(digest.id, digest.title, what, waits.at))
        for contender in study.contenders:
            machine = contender.install.machine
            own = [run for run in runs if run.contender_id == contender.id]
            by_machine[(machine.name, machine.kind)].append(_Work(study, contender, own))
    machines = (_day(name, kind, by_machine[name, kind]) for name, kind in sorted(by_machine))
    return Today(tuple(day for day in machines if day.left), tuple(actions_needed), last_event)


@dataclass(frozen=True)
class _Work:
    study: Study
    contender: Contender
    runs: Sequence[Run]


def _day(name: str, kind: str, work: Sequence[_Work]) -> MachineDay:
    placed = sorted(
        ((item.study.created_at, run.position, run, item) for item in work for run in item.runs),
        key=lambda one: one[:2],
    )
    now = [_placed(run, item) for _, _, run, item in placed if run.state.is_under_way]
    coming = [_placed(run, item) for _, _, run, item in placed if run.state is RunState.PLANNED]
    lengths = [
        (run.finished_at - run.started_at).total_seconds()
        for _, _, run, _ in placed
        if run.started_at and run.finished_at and run.finished_at > run.started_at
    ]
    left = len(now) + len(coming)
    return MachineDay(
        name=name,
        kind=kind,
        done=sum(run.state.is_finished for _, _, run, _ in placed),
        now=now[0] if now else None,
        next=tuple(coming[:NEXT_SHOWN]),
        left=left,
        left_s=median(lengths) * left if lengths else None,
        is_moving=any(item.study.state is StudyState.RUNNING for item in work),
    )


def _placed(run: Run, item: _Work) -> PlacedRun:
    return PlacedRun(run, item.study.id, item.study.title, item.contender.label)


def _actions_needed(
    digest: StudyDigest, runs: Sequence[Run], stopped: Mapping[UUID, Event]
) -> list[ActionNeeded]:
    left = sum(run.state is RunState.PLANNED for run in runs)
    newest = stopped.get(digest.id)
    is_running = digest.state is StudyState.RUNNING
    if (
        newest is not None
        and left
        and newest.kind in ((RESTS,) if is_running else (STOPPED, RESTS))
    ):
        return [ActionNeeded(digest.id, digest.title, str(newest.facts.get("reason")), newest.at)]
    if is_running or not left:
        return []
    if not digest.can_run:
        what = f"{left} runs wait for a person: measure them, and take the files in"
    elif digest.state is StudyState.PAUSED:
        what = f"paused with {left} runs to do; go on when the machine is free"
    else:
        what = f"planned, with {left} runs to do; start it when the machine is free"
    return [ActionNeeded(digest.id, digest.title, what, None)]
