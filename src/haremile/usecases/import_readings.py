"""Taking in: a user's readings file becomes runs, readings and evidence of a study."""

import hashlib
from collections import defaultdict
from collections.abc import Collection, Sequence
from contextlib import nullcontext
from dataclasses import replace
from datetime import UTC, datetime
from uuid import NAMESPACE_OID, UUID, uuid5

from haremile.core.comparison.reliability import failure_reason
from haremile.core.records.library import Aliases, Noun
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import assumed_procedure, metric, sure_procedures, value_text
from haremile.core.records.study import (
    Contender,
    Install,
    Machine,
    Study,
    StudyState,
    System,
    run_end,
)
from haremile.errors import BadInputError
from haremile.formats.captures import READINGS
from haremile.formats.readings_csv import (
    DONE,
    ReadingLine,
    parse_readings,
    renamed_columns,
    rows_in,
)
from haremile.usecases.plan import checked_plan
from haremile.usecases.ports import (
    NewAttempt,
    Progress,
    ReadingRepository,
    StoredCapture,
    StudyRepository,
    Together,
)
from haremile.usecases.reading_lines import reading_of

NO_TIME = datetime.max.replace(tzinfo=UTC)
MOST_CONTENDERS = 60
"""Of a study that is made of a file; its pairs grow with the square."""

InstallKey = tuple[str, str, str]


def quietly(what: str, done: int, of: int) -> None:
    """Progress that nobody wants to see."""


def read_lines(body: bytes, progress: Progress = quietly) -> list[ReadingLine]:
    """The lines of a readings file, with progress. Raises ReadingsFileError."""
    rows = rows_in(body)
    return parse_readings(body, lambda done: progress("read", done, rows))


def import_study(
    studies: StudyRepository,
    readings: ReadingRepository,
    title: str,
    body: bytes,
    lines: Sequence[ReadingLine] | None = None,
    margins: dict[str, Margin] | None = None,
    *,
    together: Together = nullcontext,
    progress: Progress = quietly,
) -> Study:
    """Make a finished study from a readings file; `lines` are those of `body` where it was read.

    Raises
    ------
    ReadingsFileError
        If the file has faults; it is refused whole.
    BadInputError
        If it holds no contender, or too many.
    """
    lines = read_lines(body, progress) if lines is None else lines
    names = list(dict.fromkeys(_install_key(line) for line in lines))
    if len(names) > MOST_CONTENDERS:
        raise BadInputError(f"{len(names)} contenders; a study has at most {MOST_CONTENDERS}")
    installs = [Install(System(s), Machine(m), name) for s, m, name in names]
    plan = checked_plan(title, installs, 1, 0, margins)
    with together():
        study = studies.create(replace(plan, procedures=()))
        keep_lines(readings, study, body, lines, progress)
        studies.set_state(study.id, StudyState.DONE)
    return studies.get(study.id)


def take_in_file(readings: ReadingRepository, study: Study, body: bytes) -> bool:
    """Take a readings file into a study; False where the same file is there already.

    Raises
    ------
    BadInputError
        If the file names an install that takes no part in the study.
    """
    return keep_lines(readings, study, body, read_lines(body))


def keep_lines(
    readings: ReadingRepository,
    study: Study,
    body: bytes,
    lines: Sequence[ReadingLine],
    progress: Progress = quietly,
) -> bool:
    """Keep the lines that were read of a file; False where the same file is there already."""
    attempts = _attempts(lines, checked_lanes(study, lines))
    return readings.take_in(
        study.id,
        readings_capture(study.id, body),
        attempts,
        lambda runs: progress("kept", runs, len(attempts)),
    )


def renamed_lines(lines: Sequence[ReadingLine], known: Aliases) -> Sequence[ReadingLine]:
    """The lines under the present names of what was called otherwise before."""
    if not any(
        (Noun.SYSTEM, line.system) in known or (Noun.MACHINE, line.machine) in known
        for line in lines
    ):
        return lines
    return [
        replace(
            line,
            system=known.get((Noun.SYSTEM, line.system), line.system),
            machine=known.get((Noun.MACHINE, line.machine), line.machine),
        )
        for line in lines
    ]


def step_notes(lines: Sequence[ReadingLine]) -> tuple[str, ...]:
    """To which step each metric is read: intervals are widened by half of it on each side."""
    steps: dict[str, float] = {}
    for line in lines:
        if line.resolution is not None:
            steps[line.metric] = max(steps.get(line.metric, 0.0), line.resolution)
    told = ", ".join(f"{key} {value_text(step, metric(key).unit)}" for key, step in steps.items())
    return (f"read to a step of: {told}",) if told else ()


def file_notes(
    body: bytes, lines: Sequence[ReadingLine], *, is_mapped: bool = False
) -> tuple[str, ...]:
    """What a person should look at in how a readings file was understood; nothing of a capture, and
    nothing of columns where a person said what they mean."""
    if not lines:
        return ()
    renamed = {} if is_mapped else renamed_columns(body)
    columns = [f"{theirs} is read as {ours}" for theirs, ours in renamed.items()]
    said = (f"columns: {', '.join(columns)}",) if columns else ()
    return (*said, *alike_notes(lines))


def alike_notes(lines: Sequence[ReadingLine]) -> tuple[str, ...]:
    """What a person should know before lines that are alike in all they state are kept as repeats:
    rows that name no run, block or instant may be repeats of a coarse instrument, or pasted twice.
    """
    seen: dict[tuple[object, ...], int] = {}
    alike = []
    for line in lines:
        if line.run is None and line.block is None and line.at is None:
            key = (
                *_install_key(line),
                line.metric,
                line.method,
                line.value,
                line.outcome,
                line.reason,
                id(line.conditions),
            )
            first = seen.setdefault(key, line.line)
            if first != line.line:
                alike.append((first, line.line))
    if not alike:
        return ()
    first, second = alike[0]
    rows = "1 row says" if len(alike) == 1 else f"{len(alike)} rows say"
    return (
        f"{rows} the same as another and name no run, block or instant (the first: lines {first} "
        f"and {second}): they are taken as repeats; take nothing in if they were pasted twice",
    )


def checked_lanes(study: Study, lines: Sequence[ReadingLine]) -> dict[InstallKey, int]:
    """Lane number by install; raises BadInputError where a line's install takes no part."""
    lanes = {contender_key(c): c.lane_no for c in study.contenders}
    for line in lines:
        if _install_key(line) not in lanes:
            raise BadInputError(
                f"line {line.line}: {line.system} on {line.machine} takes no part in this study; "
                "correct the name, or let it join as a new contender"
            )
    return lanes


def readings_capture(study_id: UUID, body: bytes) -> StoredCapture:
    """A readings file as evidence; it has no id of its own, so its bytes give it one."""
    digest = hashlib.sha256(body).hexdigest()
    key = uuid5(NAMESPACE_OID, f"{study_id} {digest}")
    return StoredCapture(key, digest, datetime.now(UTC), READINGS, body)


def _install_key(line: ReadingLine) -> InstallKey:
    return (line.system, line.machine, line.install)


def contender_key(contender: Contender) -> InstallKey:
    """How a readings file names a contender: system, machine, install."""
    install = contender.install
    return (install.system.name, install.machine.name, install.name)


def _attempts(lines: Sequence[ReadingLine], lanes: dict[InstallKey, int]) -> list[NewAttempt]:
    """One attempt per run: by its name, else by its block, else each repeat of a metric anew."""
    groups: dict[tuple[int, str, str], list[ReadingLine]] = defaultdict(list)
    counts: dict[tuple[object, ...], int] = defaultdict(int)
    sure = sure_procedures(line.metric for line in lines)
    for line in lines:
        lane = lanes[_install_key(line)]
        start = line.conditions.get("start", "")
        procedure = f"{_procedure(line, sure)}|{start}|{line.conditions.get('app', '')}"
        name = line.run
        if name is None:
            key = (lane, procedure, line.metric, line.method, line.block)
            counts[key] += 1
            name = f"{line.block or ''}#{counts[key]}"
        groups[(lane, procedure, name)].append(line)
    return _placed(groups, sure)


def _placed(
    groups: dict[tuple[int, str, str], list[ReadingLine]], sure: Collection[str]
) -> list[NewAttempt]:
    """Give every run its block and repeat; in order of block."""
    next_block: dict[tuple[int, str], int] = defaultdict(int)
    repeats: dict[tuple[int, str, int], int] = defaultdict(int)
    attempts = []
    for (lane, procedure, _), lines in groups.items():
        stated = next((line.block for line in lines if line.block), None)
        if stated is None:  # what is there already keeps its place: this comes after it
            next_block[(lane, procedure)] += 1
        block = stated or next_block[(lane, procedure)]
        repeats[(lane, procedure, block)] += 1
        repeat = repeats[(lane, procedure, block)]
        made = _attempt(lane, block, repeat, lines, sure)
        attempts.append(replace(made, counts_free=stated is None))
    return sorted(attempts, key=lambda item: (item.block, item.at or NO_TIME))


def _procedure(line: ReadingLine, sure: Collection[str]) -> str:
    return line.procedure or assumed_procedure(line.metric, sure)


def _attempt(
    lane: int, block: int, repeat: int, lines: Sequence[ReadingLine], sure: Collection[str]
) -> NewAttempt:
    first = lines[0]
    failed = next((line for line in lines if line.outcome != DONE), None)
    seen: dict[tuple[str, str], set[int]] = defaultdict(set)
    readings = []
    for line in lines if failed is None else ():
        if line.value is None:
            continue
        steps = seen[(line.metric, line.method)]
        step = len(steps) if line.step is None else line.step
        if step in steps:
            raise BadInputError(
                f"line {line.line}: this run gives {line.metric} twice under one step"
            )
        steps.add(step)
        readings.append(reading_of(line, line.value, step))
    reason = None
    if failed is not None:
        reason = failure_reason(failed.outcome, failed.reason)
    return NewAttempt(
        lane_no=lane,
        block=block,
        procedure=_procedure(first, sure),
        repeat=repeat,
        state=run_end(DONE if failed is None else failed.outcome),
        reason=reason,
        conditions=first.conditions,
        readings=readings,
        at=first.at,
    )
