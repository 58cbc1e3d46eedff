"""By hand: what waits for a person, what they hand in, their drills."""

from datetime import UTC, datetime
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query

from haremile.api.dependencies import Bench
from haremile.api.ports import BenchParts
from haremile.api.schemas.by_hand import (
    AmountOut,
    AmountsIn,
    DrillIn,
    DrillKept,
    DrillOut,
    HandedIn,
    HandIn,
    MarkKindOut,
    MarkList,
    MarksOut,
    PastedOut,
    PieceOut,
    QuestionOut,
    ResultsIn,
    SpanOut,
    StatedOut,
    TextIn,
    WaitingOut,
)
from haremile.api.schemas.guests import PlaceIn
from haremile.api.schemas.studies import InstallOut
from haremile.core.by_hand.marks import LISTS, MARKS, Mark
from haremile.core.by_hand.reaction import Reaction, reaction
from haremile.core.records.metrics import metric, value_text
from haremile.core.records.procedures import PROCEDURES
from haremile.core.records.rigs import PERSON
from haremile.core.records.study import entrants
from haremile.errors import HareMileError
from haremile.formats.pasted import recognise
from haremile.formats.pasted.pieces import Piece
from haremile.formats.photographs import checked_photograph
from haremile.usecases.by_hand import (
    Figure,
    HandResult,
    Written,
    amount_shown,
    hand_capture,
    handed_in,
)
from haremile.usecases.drills import DRILL_HOLDS, take_off_afterwards
from haremile.usecases.import_readings import quietly
from haremile.usecases.intake import places_of
from haremile_probe.wire import Capture, Evidence, dump_capture

router = APIRouter(prefix="/by-hand", tags=["by hand"])


@router.get("/marks")
def list_marks() -> MarksOut:
    """Moments that can be marked, and the lists of them that are offered."""
    return MarksOut(
        kinds=[MarkKindOut.model_validate(one) for one in MARKS.values()],
        lists=[MarkList(name=name, kinds=list(kinds)) for name, kinds in LISTS.items()],
    )


@router.get("/waiting")
def list_waiting(bench: Bench, study: UUID | None = None) -> list[WaitingOut]:
    """What waits for a person now, in all studies or in one, the oldest first."""
    jobs = [job for job in bench.machines.waiting(PERSON) if study is None or job.study_id == study]
    studies = {key: bench.studies.get(key) for key in {job.study_id for job in jobs}}
    runs = {key: bench.studies.runs(key) for key in studies}
    found = []
    for job in jobs:
        of = studies[job.study_id]
        run = next(one for one in runs[of.id] if one.id == job.run_id)
        contender = next(one for one in of.contenders if one.lane_no == run.lane_no)
        found.append(
            WaitingOut(
                run=run.id,
                attempt=job.attempt,
                study=of.id,
                title=of.title,
                lane_no=run.lane_no,
                entrant_no=entrants(of.contenders)[run.lane_no].no,
                label=contender.label,
                system=contender.install.system.name,
                machine=contender.install.machine.name,
                procedure=run.procedure,
                ready=PROCEDURES[run.procedure].ready,
                conditions=dict(run.conditions),
                block=run.block,
                blocks=of.blocks,
                finished=sum(one.state.is_finished for one in runs[of.id]),
                of=len(runs[of.id]),
            )
        )
    return found


@router.post("/results", status_code=201)
def hand_in(asked: ResultsIn, bench: Bench) -> HandedIn:
    """Keep what a person took: all of it or nothing."""
    captures = [_capture(one, bench) for one in asked.results if one.run is None]
    answers = [one for one in asked.results if one.run is not None]
    done = [
        handed_in(bench.machines, _result(one), *_ticket(one), _drill(one, bench))
        for one in answers
    ]
    study, taken = asked.study, sum(is_new for _, is_new in done)
    known = len(done) - taken
    if captures:
        files = [(capture.id, dump_capture(capture)) for capture in captures]
        if study is None:
            kept = bench.intake.new_study(asked.title or "By hand", files, quietly, None)
        else:
            lanes = places_of(bench.studies.get(study), captures)
            kept = bench.intake.take_in(study, files, lanes, quietly, None)
        study, taken, known = kept.study.id, taken + kept.taken, known + kept.known
    return HandedIn(study=study or done[0][0], taken=taken, known=known)


def _ticket(one: HandIn) -> tuple[UUID, int]:
    assert one.run is not None
    return one.run, one.attempt or 1


def _drill(one: HandIn, bench: BenchParts) -> Reaction | None:
    return None if one.drill is None else bench.reactions.get(one.drill).reaction


def _capture(one: HandIn, bench: BenchParts) -> Capture:
    return hand_capture(_result(one), _drill(one, bench))


def _result(one: HandIn) -> HandResult:
    return HandResult(
        id=one.id,
        system=one.system,
        machine=one.machine,
        procedure=one.procedure,
        at=one.at,
        person=one.person,
        method=one.method,
        marks=[Mark(mark.kind, mark.at_s, mark.name) for mark in one.marks],
        frame_s=one.frame_s,
        written=[Written(figure.metric, figure.text, figure.unit) for figure in one.written],
        figures=[
            Figure(read.metric, read.value, read.resolution, read.definition)
            for read in one.figures
        ],
        pasted=one.pasted,
        evidence=[
            Evidence(f"photograph: {shown.name}", checked_photograph(shown.image))
            for shown in one.photographs
        ],
        outcome=one.outcome,
        reason=one.reason,
        note=one.note,
        conditions=one.conditions,
    )


@router.post("/amounts")
def read_amounts(asked: AmountsIn) -> list[AmountOut]:
    """What figures are understood as, one by one; nothing is kept."""
    found = []
    for one in asked.figures:
        try:
            value, shown, step = amount_shown(Written(one.metric, one.text, one.unit))
            found.append(AmountOut(value=value, shown=shown, resolution=step))
        except HareMileError as error:
            found.append(AmountOut(error=str(error)))
    return found


@router.post("/paste")
def look_at_text(asked: TextIn) -> PastedOut:
    """What a terminal's output holds, piece by piece; nothing is kept."""
    found = recognise(asked.text)
    return PastedOut(
        text=found.text,
        pieces=[_piece(one) for one in found.pieces],
        stated=[StatedOut.model_validate(one) for one in found.stated],
        questions=[
            QuestionOut(
                start=one.start,
                end=one.end,
                says=one.says,
                choices=[_piece(choice) for choice in one.choices],
            )
            for one in found.questions
        ],
        unread=[SpanOut(start=start, end=end) for start, end in found.unread],
        system=found.system,
    )


def _piece(one: Piece) -> PieceOut:
    shown = value_text(one.value, one.unit)
    return PieceOut(**vars(one), label=metric(one.metric).label, shown=shown)


@router.post("/drills", status_code=201)
def keep_drill(asked: DrillIn, bench: Bench) -> DrillKept:
    """Keep a drill, and tell what it says of the person; it counts for what they timed before it,
    too."""
    found = reaction(asked.answers_s)
    drill = bench.reactions.keep(asked.id, asked.person, asked.answers_s, found)
    return DrillKept(
        drill=DrillOut.model_validate(drill), retimed=take_off_afterwards(bench.reactions, drill)
    )


@router.get("/drills/newest")
def get_newest_drill(
    bench: Bench, person: Annotated[str, Query(max_length=200)]
) -> DrillOut | None:
    """A person's newest drill that still holds; null where there is none."""
    found = bench.reactions.newest(person, datetime.now(UTC) - DRILL_HOLDS)
    return None if found is None else DrillOut.model_validate(found)


@router.post("/installs")
def put_by_hand(asked: PlaceIn, bench: Bench) -> InstallOut:
    """A system on a machine that a person operates."""
    return InstallOut.model_validate(bench.library.put_by_hand(asked.system, asked.machine))
