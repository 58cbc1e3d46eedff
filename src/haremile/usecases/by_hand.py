"""What a person hands in becomes a capture, as good as any machine's: who, how, to which step."""

import hashlib
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from uuid import UUID

from haremile.core.by_hand.amounts import read_amount
from haremile.core.by_hand.marks import MARKS, Mark, timed
from haremile.core.by_hand.reaction import Reaction
from haremile.core.records.metrics import BY_HAND, metric, value_text
from haremile.core.records.study import WARM
from haremile.errors import BadInputError, ConflictError, DeletedError, NotFoundError
from haremile.formats.captures import checked_capture
from haremile.usecases.ports import MachineJob, MachineQueue
from haremile_probe import VERSION
from haremile_probe.wire import (
    NOT_MEASURED,
    Capture,
    CaptureReading,
    Evidence,
    Ticket,
    dump_capture,
)

OUTCOMES = ("done", "failed", "skipped")
HAND_MARKS = "hand-marks"
"""Evidence: the presses as they were, before anything was taken off."""

MOST_READINGS = 40
OVER = "over"
WAITED = "wait.person"
"""What the machine waited for the person lies in no other reading, and judges no system."""


@dataclass(frozen=True)
class Written:
    """A figure as a person wrote it; `unit` is taken where it names none."""

    metric: str
    text: str
    unit: str | None = None


@dataclass(frozen=True)
class Figure:
    """A figure that was recognised in a pasted text and agreed to: in its canonical unit, with what
    it counts."""

    metric: str
    value: float
    resolution: float | None
    definition: str


@dataclass(frozen=True)
class HandResult:
    """What a person hands in of one run.

    Attributes
    ----------
    id : UUID
        Made where it was taken, so that it is kept once however often it is sent.
    method : str
        hand, recording or typed.
    marks : sequence of Mark
        Of a stopwatch or a recording.
    frame_s : float or None
        Between two frames of a recording.
    written : sequence of Written
    figures : sequence of Figure
    pasted : str
        The text that they were recognised in.
    outcome : str
        done, failed, or skipped; the latter two with a reason.
    conditions : mapping
        What the person states of the run.
    """

    id: UUID
    system: str
    machine: str
    procedure: str
    at: datetime
    person: str
    method: str
    marks: Sequence[Mark] = ()
    frame_s: float | None = None
    written: Sequence[Written] = ()
    figures: Sequence[Figure] = ()
    pasted: str = ""
    outcome: str = "done"
    reason: str = ""
    note: str = ""
    conditions: Mapping[str, str] = field(default_factory=dict)
    evidence: Sequence[Evidence] = ()


def hand_capture(
    result: HandResult, drill: Reaction | None = None, job: MachineJob | None = None
) -> Capture:
    """The capture of a result; `job` is what the person was asked for, where they were.

    Raises
    ------
    BadInputError
        If it states nothing that can be kept; the message says what.
    """
    _check(result)
    conditions = {
        **result.conditions,
        **(job.conditions if job is not None else {}),
        "person": result.person,
    }
    readings: list[CaptureReading] = []
    evidence = list(result.evidence)
    if result.outcome == "done":
        readings, more = _readings(result, drill)
        conditions |= more
    if result.marks:
        evidence.append(Evidence(HAND_MARKS, _marks_text(result, drill)))
    if result.note:
        evidence.append(Evidence("note", result.note))
    if result.pasted:
        evidence.append(Evidence("pasted", result.pasted))
    for figure in result.figures:
        evidence.append(Evidence("definition", f"{figure.metric}: {figure.definition}"))
    for written in result.written:
        evidence.append(Evidence("as-written", f"{written.metric}: {written.text}"))
    procedure = result.procedure if job is None else job.procedure
    if procedure == "launch":
        conditions.setdefault("start", WARM)
    return checked_capture(
        Capture(
            id=str(result.id),
            made_at=result.at.isoformat(),
            probe=VERSION,
            asked=procedure,
            machine=result.machine if job is None else job.install.machine.name,
            system=result.system if job is None else job.install.system.name,
            outcome={"skipped": NOT_MEASURED}.get(result.outcome, result.outcome),
            reason=_reason(result),
            ticket=None if job is None else Ticket(str(job.run_id), job.attempt),
            conditions=conditions,
            readings=readings,
            evidence=evidence,
        )
    )


def handed_in(
    queue: MachineQueue, result: HandResult, run: UUID, attempt: int, drill: Reaction | None
) -> tuple[UUID, bool]:
    """Answer what a person was asked for; return the study, and whether it was not known yet.

    Raises
    ------
    NotFoundError
        If nobody was asked for this run.
    DeletedError
        If the run was deleted with its study.
    ConflictError
        If another result answered it first, or it was given up.
    """
    job = queue.job(run, attempt)
    if job is None:
        if queue.was_deleted(run):
            raise DeletedError("run", run)
        raise NotFoundError("run that a person was asked for", run)
    body = dump_capture(hand_capture(result, drill, job))
    digest = hashlib.sha256(body).hexdigest()
    if job.stamps.get("answer") == digest:
        return job.study_id, False
    if job.body is not None or job.stage == OVER:
        raise ConflictError(
            f"{job.install.system.name}: this run was handed in already, or its study was stopped; "
            "plan it again to give another result"
        )
    queue.answer(job.id, body)
    return job.study_id, True


def _check(result: HandResult) -> None:
    if result.method not in BY_HAND:
        raise BadInputError(
            f"unknown method: {result.method}; expected one of {', '.join(BY_HAND)}"
        )
    if result.outcome not in OUTCOMES:
        raise BadInputError(f"unknown outcome: {result.outcome}; expected {', '.join(OUTCOMES)}")
    if result.outcome != "done" and not result.reason.strip():
        raise BadInputError(f"say why it {'failed' if result.outcome == 'failed' else 'was left'}")
    if result.outcome == "done" and not (result.marks or result.written or result.figures):
        raise BadInputError("neither marks nor figures: nothing was handed in")
    given = len(result.written) + len(result.figures)
    if given > MOST_READINGS:
        raise BadInputError(f"{given} figures of one run; at most {MOST_READINGS}")


def _reason(result: HandResult) -> str | None:
    if result.outcome == "done":
        return None
    return f"{result.outcome}: {result.reason.strip()}"


def _readings(
    result: HandResult, drill: Reaction | None
) -> tuple[list[CaptureReading], dict[str, str]]:
    """Readings with the conditions that they give."""
    found = [_written(one, result.method) for one in result.written]
    found += [
        CaptureReading(
            one.metric, one.value, metric(one.metric).unit, result.method, one.resolution
        )
        for one in result.figures
    ]
    if not result.marks:
        return found, {}
    is_recording = result.method == "recording"
    if is_recording and not result.frame_s:
        raise BadInputError("a recording states how far apart its frames are")
    given = timed(result.marks, None if is_recording else drill, result.frame_s)
    found += [
        CaptureReading(one.metric, one.value_s, "s", result.method, one.resolution_s)
        for one in given.readings
    ]
    waited = sum(given.waits_s.values())
    if waited > 0:
        step = found[-1].resolution
        found.append(CaptureReading(WAITED, waited, "s", result.method, step))
    conditions = {"waits": given.waits_text}
    return found, conditions if is_recording else {**conditions, "reaction": given.reaction}


def _written(one: Written, method: str) -> CaptureReading:
    known = metric(one.metric)
    try:
        amount = read_amount(one.text, known.unit, one.unit)
    except BadInputError as error:
        raise BadInputError(f"{known.label}: {error}") from None
    step = None if known.is_exact else amount.resolution
    return CaptureReading(known.key, amount.value, amount.unit, method, step)


def _marks_text(result: HandResult, drill: Reaction | None) -> str:
    said = {
        "marks": [
            {"mark": one.label, "kind": one.kind, "at_s": one.at_s, "name": one.name}
            for one in result.marks
            if one.kind in MARKS
        ],
        "method": result.method,
        "frame_s": result.frame_s,
        "delay_s": None if drill is None else drill.delay_s,
    }
    return json.dumps(said, indent=1)


def amount_shown(one: Written) -> tuple[float, str, float | None]:
    """What a written figure is understood as: its value in the canonical unit, how it is shown, and
    its step. Raises BadInputError."""
    known = metric(one.metric)
    amount = read_amount(one.text, known.unit, one.unit)
    step = None if known.is_exact else amount.resolution
    return amount.value, value_text(amount.value, amount.unit), step
