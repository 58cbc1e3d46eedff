"""Studies."""

import re
import threading
from contextlib import suppress
from functools import lru_cache
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Form, Query, Request, Response
from starlette.convertors import StringConvertor, register_url_convertor

from haremile.api.dependencies import Bench
from haremile.api.ports import BenchParts
from haremile.api.responses import KeptAnswer, serialised
from haremile.api.routers.intake import Files, Mapped, Named, Under, read_uploads
from haremile.api.schemas.base import Text
from haremile.api.schemas.corrections import TitleIn
from haremile.api.schemas.findings import FindingsOut, PairOverMachinesOut
from haremile.api.schemas.runs import RunOut, RunSheetOut
from haremile.api.schemas.studies import (
    ContenderOut,
    DraftIn,
    DraftNew,
    FirstMileCreate,
    OutlookIn,
    OverrideIn,
    StudyCreate,
    StudyExtend,
    StudyMadeOut,
    StudyOut,
    margins_of,
)
from haremile.core.records.bounds import MOST_NUMBER
from haremile.core.records.draft import Draft
from haremile.core.records.precision import PrecisionPlan
from haremile.core.records.study import (
    Contender,
    Entrant,
    Study,
    entrants,
)
from haremile.core.wording.steps import PairSteps, steps_against
from haremile.errors import BadInputError, HareMileError
from haremile.formats.readings_csv import write_readings
from haremile.usecases.compare import (
    MOST_KEPT,
    KeptFindings,
    kept_findings,
    refresh_answer,
    row_of,
    study_findings,
)
from haremile.usecases.drafts import chosen_installs, copied_draft, start_draft
from haremile.usecases.export_readings import export_lines
from haremile.usecases.noise import RowNoise, row_noise
from haremile.usecases.outlook import Asked, Outlook
from haremile.usecases.plan import (
    checked_plan,
    extend_study,
    override,
    plan_first_mile,
    with_own_margins,
)
from haremile.usecases.ports import StudyDigest
from haremile.usecases.row_notes import LaneNotes, row_notes
from haremile.usecases.sheet import SheetLineView, kept_run_sheet
from haremile.usecases.tails import LaneTails, row_tails


class StudyName(StringConvertor):
    """A study's place in an address: the names of what is done with studies are none of them."""

    regex = "(?!(?:first-mile|import|outlook|drafts)(?:/|$))[^/]+"


FINDINGS_PAGE = re.compile(r"studies/([0-9a-f-]{36})/findings")
_answering = threading.Lock()
_ahead = threading.BoundedSemaphore(2)
"""So many are calculated ahead at once: beyond them a page waits for its own."""

register_url_convertor("study", StudyName())
MOST_RUNS = 2000
"""Of one page of a run sheet."""

router = APIRouter(prefix="/studies", tags=["studies"])


def _out(bench: BenchParts, study: Study) -> StudyOut:
    can_run = bool(study.contenders) and all(one.install.rig for one in study.contenders)
    entered = entrants(study.contenders)
    return StudyOut(
        **{name: getattr(study, name) for name in ("id", "title", "state", "seed", "blocks")},
        created_at=study.created_at,
        contenders=[_contender(one, entered[one.lane_no]) for one in study.contenders],
        margins={key: margin for key, margin in study.margins.items()},
        interim_looks=study.interim_looks,
        procedures=list(study.procedures),
        stopping=study.stopping and study.stopping,
        overrides=dict(study.overrides),
        can_run=can_run,
        is_running=can_run and bench.queue.is_held(study.id),
        is_pausing=can_run and bench.runner.is_pausing(study.id),
        is_put_away=study.is_put_away,
        order=study.order,
        draft=study.draft,
        note=study.note,
        tags=list(study.tags),
        published=bench.reports.newest(study.id),
        origin=bench.packages.origin(study.id),
    )


def _contender(contender: Contender, entrant: Entrant) -> ContenderOut:
    fields = {**vars(contender), "entrant_no": entrant.no, "entrant": entrant.name}
    return ContenderOut.model_validate(fields)


@router.get("")
def list_studies(bench: Bench, put_away: bool = False) -> list[StudyDigest]:
    """All studies, the newest first; or all that were put away. Answers that are out of date are
    calculated anew, beside the next requests."""
    found = bench.studies.digests(put_away)
    if not put_away:
        _answers_anew(bench, [one.id for one in found if one.finished and not one.is_current])
    return found


@router.post("", status_code=201)
def create_study(asked: StudyCreate, bench: Bench) -> StudyOut:
    """Plan a study."""
    margins = with_own_margins(
        margins_of(asked.margins), asked.procedures, bench.own_measures.all()
    )
    installs = chosen_installs(bench.library, asked.installs)
    wanted = asked.stopping
    stopping = PrecisionPlan(wanted.metric, wanted.width) if wanted else None
    plan = checked_plan(
        asked.title,
        installs,
        asked.blocks,
        asked.seed,
        margins,
        asked.interim_looks,
        asked.procedures,
        stopping,
    )
    return _out(bench, bench.studies.create(plan))


@router.post("/outlook")
def get_outlook(asked: OutlookIn, bench: Bench) -> Outlook:
    """What a plan will tell and what it costs, from the bench book's own readings; nothing is
    kept."""
    installs = chosen_installs(bench.library, asked.installs)
    plan = Asked(
        installs,
        asked.procedures,
        asked.blocks,
        margins_of(asked.margins),
        asked.looks,
        asked.order,
    )
    found = bench.outlooks.tell(plan)
    return found


@router.post("/drafts", status_code=201)
def create_draft(asked: DraftNew, bench: Bench) -> StudyOut:
    """Begin to plan a study; nothing is decided yet."""
    return _out(bench, bench.studies.create_draft(asked.title, Draft()))


@router.put("/{study_id}/draft", status_code=204)
def keep_draft(study_id: UUID, asked: DraftIn, bench: Bench) -> None:
    """Keep a plan as it is typed."""
    bench.studies.keep_draft(study_id, asked.title, asked.draft())


@router.post("/{study_id}/start", status_code=202)
def start_study(study_id: UUID, bench: Bench) -> StudyOut:
    """Start a study that is planned: its run sheet is written, and its first run begins."""
    study = start_draft(bench.studies, bench.library, bench.own_measures, study_id)
    bench.runner.start(study_id)
    return _out(bench, study)


@router.post("/{study_id}/duplicate", status_code=201)
def duplicate_study(study_id: UUID, asked: TitleIn, bench: Bench) -> StudyOut:
    """The same plan as a draft under another title, in a fresh order; none of its runs."""
    return _out(bench, copied_draft(bench.studies, study_id, asked.title))


@router.post("/first-mile", status_code=201)
def start_first_mile(asked: FirstMileCreate, bench: Bench) -> StudyOut:
    """Plan the study of the two tiny real guests, and start it."""
    bench.runner.check_calm()
    study = plan_first_mile(bench.studies, bench.host, asked.blocks, asked.seed)
    bench.runner.start(study.id)
    return _out(bench, study)


@router.post("/import", status_code=201)
def import_readings(
    title: Annotated[Text, Form()],
    files: Files,
    bench: Bench,
    intakes: Under,
    column_map: Mapped,
    progress: Named = None,
) -> StudyMadeOut:
    """Make a study of a readings file, or of captures."""
    told = intakes.told(progress)
    result = bench.intake.new_study(title, read_uploads(files), told, column_map)
    return StudyMadeOut(study=_out(bench, result.study), notes=list(result.notes))


@router.get("/{study_id:study}")
def get_study(study_id: UUID, bench: Bench) -> StudyOut:
    """One study."""
    return _out(bench, bench.studies.get(study_id))


@router.post("/{study_id}/run", status_code=202)
def run_study(study_id: UUID, bench: Bench) -> StudyOut:
    """Begin or go on with the run sheet."""
    bench.runner.start(study_id)
    return _out(bench, bench.studies.get(study_id))


@router.post("/{study_id}/pause", status_code=202)
def pause_study(study_id: UUID, bench: Bench) -> StudyOut:
    """Pause after the run that is under way."""
    bench.runner.pause(study_id)
    return _out(bench, bench.studies.get(study_id))


@router.post("/{study_id}/extend")
def extend(study_id: UUID, asked: StudyExtend, bench: Bench) -> StudyOut:
    """Add blocks after the last planned look; what they decide is marked extended."""
    return _out(bench, extend_study(bench.studies, study_id, asked.blocks))


@router.put("/{study_id}/overrides/{key}")
def put_override(study_id: UUID, key: str, asked: OverrideIn, bench: Bench) -> StudyOut:
    """Compare although this condition differs, for a printed reason; or no more."""
    return _out(bench, override(bench.studies, study_id, key, asked.reason))


@router.get("/{study_id}/runs", response_model=RunSheetOut)
def get_runs(
    study_id: UUID,
    bench: Bench,
    after: Annotated[int, Query(ge=0, le=MOST_NUMBER)] = 0,
    most: Annotated[int, Query(ge=1, le=MOST_RUNS)] = MOST_RUNS,
) -> Response:
    """A page of the run sheet in order, each run with its headline reading."""
    last_event = bench.events.last_id()
    view = kept_run_sheet(bench.studies, bench.readings, study_id)
    headline, until = view.headline, after + most
    sheet = RunSheetOut.model_construct(
        metric=headline.key if headline else None,
        procedure=headline.procedures[0] if headline else None,
        label=headline.label if headline else None,
        scale=view.scale,
        good_end=headline.good_end if headline else None,
        margin_amount=view.margin_amount,
        runs=[_run(line) for line in view.lines[after:until]],
        lanes=list(view.lanes),
        last_event=last_event,
        next_after=until if until < len(view.lines) else None,
    )
    return serialised(sheet)


def _run(line: SheetLineView) -> RunOut:
    run = line.run
    return RunOut.model_construct(
        id=run.id,
        lane_no=run.lane_no,
        block=run.block,
        position=run.position,
        procedure=run.procedure,
        state=run.state,
        attempt=run.attempt,
        reason=run.reason,
        conditions=dict(run.conditions),
        started_at=run.started_at,
        finished_at=run.finished_at,
        value=line.value,
        is_set_aside=line.is_set_aside,
    )


@router.get("/{study_id}/findings", response_model=FindingsOut)
def get_findings(
    study_id: UUID, request: Request, bench: Bench, with_aside: bool = False
) -> Response:
    """What the study says so far, or would say with what was set aside."""
    found = kept_findings(bench.studies, bench.readings, study_id, with_aside)
    return _findings_answer(found).answer(request)


def findings_ahead(bench: BenchParts, path: str) -> None:
    """Begin with the findings that a page at this path will ask for, while its scripts are still on
    their way. What fails here fails again when the page asks, and is told there."""
    asked = FINDINGS_PAGE.fullmatch(path)
    if asked is None or not _ahead.acquire(blocking=False):
        return

    def calculate() -> None:
        try:
            with suppress(HareMileError, ValueError):
                _findings_answer(kept_findings(bench.studies, bench.readings, UUID(asked[1])))
        finally:
            _ahead.release()

    threading.Thread(target=calculate, name="findings-ahead", daemon=True).start()


def _answers_anew(bench: BenchParts, stale: list[UUID]) -> None:
    """Calculate what some studies answer now, one after the other; only one list at a time."""
    if not stale or not _answering.acquire(blocking=False):
        return

    def calculate() -> None:
        try:
            for study_id in stale:
                with suppress(HareMileError):  # told where the study itself is opened
                    refresh_answer(bench.studies, bench.readings, study_id)
        finally:
            _answering.release()

    threading.Thread(target=calculate, name="answers", daemon=True).start()


@lru_cache(maxsize=MOST_KEPT)
def _findings_answer(kept: KeptFindings) -> KeptAnswer:
    """Written once for each content, as the findings are calculated once."""
    return KeptAnswer.of(FindingsOut.of(kept.findings, list(kept.curves)))


@router.get("/{study_id}/findings/over-machines")
def get_pairs_over_machines(
    study_id: UUID, row: Annotated[str, Query(max_length=500)], bench: Bench
) -> list[PairOverMachinesOut]:
    """Every pair of one measure, on each machine and together; both directions."""
    rows = study_findings(bench.studies, bench.readings, study_id).machines
    found = next((one for one in rows if one.key == row), None)
    if found is None:
        raise BadInputError(f"this study has no measure over machines {row}")
    return [PairOverMachinesOut.model_validate(pair) for pair in found.pairs]


@router.get("/{study_id}/findings/notes")
def get_row_notes(
    study_id: UUID, row: Annotated[str, Query(max_length=500)], bench: Bench
) -> list[LaneNotes]:
    """What the run order of one row's readings tells of each lane."""
    rows = study_findings(bench.studies, bench.readings, study_id).rows
    found = row_notes(rows, bench.readings.observations(study_id), row)
    return found


@router.get("/{study_id}/findings/steps")
def get_steps(
    study_id: UUID, row: Annotated[str, Query(max_length=500)], against: int, bench: Bench
) -> list[PairSteps]:
    """How the verdicts of one row on every contender against one of them came about."""
    study = bench.studies.get(study_id)
    rows = study_findings(bench.studies, bench.readings, study_id).rows
    found = row_of(rows, row)
    if against not in {lane.lane_no for lane in found.lanes}:
        raise BadInputError(f"this row has no contender {against}")
    names = {lane: one.name for lane, one in entrants(study.contenders).items()}
    return steps_against(found, names, against)


@router.get("/{study_id}/findings/tails")
def get_tails(
    study_id: UUID, row: Annotated[str, Query(max_length=500)], against: int, bench: Bench
) -> list[LaneTails]:
    """Differences of means and of the worst tenth, of every contender of one row against one."""
    return row_tails(bench.studies, bench.readings, study_id, row, against)


@router.get("/{study_id}/findings/noise")
def get_noise(study_id: UUID, row: Annotated[str, Query(max_length=500)], bench: Bench) -> RowNoise:
    """Where the noise of one row sits, and what would make the next study shorter."""
    return row_noise(bench.studies, bench.readings, study_id, row)


@router.get("/{study_id}/readings.csv", response_class=Response)
def export_readings(study_id: UUID, bench: Bench) -> Response:
    """All readings and failed runs as a readings file."""
    study = bench.studies.get(study_id)
    lines = export_lines(study, bench.readings.readings(study_id), bench.studies.runs(study_id))
    name = f"haremile-{study_id}.csv"
    return Response(
        write_readings(lines),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )
