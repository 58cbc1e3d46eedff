"""Studies and their run sheets."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from datetime import datetime
from typing import Any
from uuid import UUID

from peewee import JOIN, fn
from pydantic import TypeAdapter

from haremile.core.comparison.comparability import OF_THE_HOST
from haremile.core.comparison.records import RunOutcome
from haremile.core.comparison.reliability import is_time_out
from haremile.core.planning.run_sheet import run_sheet, visit_sheet
from haremile.core.records.conditions import condition_hash
from haremile.core.records.draft import Draft, Order
from haremile.core.records.interim_looks import InterimLooks
from haremile.core.records.margin import Margin
from haremile.core.records.precision import PrecisionPlan
from haremile.core.records.study import (
    JOINED_AFTER,
    SET_ASIDE,
    Answer,
    Contender,
    Install,
    Run,
    RunState,
    Study,
    StudyState,
    failure_before,
    install_labels,
    split_procedure,
)
from haremile.errors import ConflictError, NotFoundError
from haremile.store.database import connected, rows_of
from haremile.store.events import PROGRESS, PostgresEventLog
from haremile.store.library import PostgresLibrary, install_of, installs_query
from haremile.store.rows import (
    ContenderRow,
    DistributionRow,
    HostRow,
    InstallRow,
    MachineRow,
    MarginRow,
    OverrideRow,
    RunRow,
    StudyRow,
    SystemRow,
    database,
    missing,
)
from haremile.usecases.ports import StudyDigest, StudyPlan

BATCH = 500
DRAFT = TypeAdapter(Draft)


SHEET = """
    select run.id, run.contender_id, contender.lane_no, run.block, run.position, run.procedure,
        run.state, run.attempt_no, run.reason, run.conditions, attempt.started_at,
        attempt.finished_at
    from run
    join contender on contender.id = run.contender_id
    left join attempt on attempt.run_id = run.id and attempt.number = run.attempt_no
    where run.study_id = %s
    order by run.position, run.procedure
"""
LAST_CHANGE = """
    select id, at from event where study = %s and kind <> %s order by id desc limit 1
"""
# not: what was planned again of a contender that nothing runs, which comes by hand or not at all
OUTCOMES = """
    select contender.lane_no, machine.name, run.procedure, run.state, run.block, run.reason,
        run.conditions->>'start' as start, run.conditions->>'app' as app,
        attempt.conditions->>'host_wait' as host_wait,
        attempt.conditions->>'host_steal' as host_steal,
        attempt.conditions->>'pressure' as pressure
    from run
    left join attempt on attempt.run_id = run.id and attempt.number = run.attempt_no
    join contender on contender.id = run.contender_id
    join install on install.id = contender.install_id
    join machine on machine.id = install.machine_id
    where run.study_id = %s and (not run.state = any(%s)
        or (%s and run.state = 'void' and starts_with(run.reason, %s)))
        and not (run.state = 'planned' and run.attempt_no > 0 and install.rig is null)
    order by run.position, run.procedure
"""
COUNTS = """
    select study_id, count(*) filter (where state <> %s) as runs,
        count(*) filter (where state = any(%s)) as done,
        count(*) filter (where state = %s) as failed
    from run group by study_id
"""
KEEP_ANSWER = """
    insert into study_answer (study_id, event_id, headline, about, verdict)
    select id, %s, %s, %s, %s from study where id = %s
    on conflict (study_id) do update set event_id = excluded.event_id,
        headline = excluded.headline, about = excluded.about, verdict = excluded.verdict
    where study_answer.event_id < excluded.event_id
"""
ANSWERS = """
    select study_answer.*, last.id = study_answer.event_id as is_current
    from study_answer
    left join lateral (
        select id from event
        where event.study = study_answer.study_id and kind <> %s order by id desc limit 1
    ) as last on true
"""
PLANNED_TITLES = """
    select distinct facts->>'title' as title from event
    where kind in ('study.planned', 'study.drafted')
"""
NO_RESULT = [RunState.VOID, RunState.SKIPPED]
"""States of runs that findings do not count."""


class PostgresStudyRepository:
    """Keeps studies."""

    def __init__(self, library: PostgresLibrary, events: PostgresEventLog):
        self._library = library
        self._events = events

    @connected
    def create(self, plan: StudyPlan) -> Study:
        """Keep a new study with its run sheet."""
        with database.atomic():
            study = StudyRow.create(**_planned(plan))
            self._write_plan(study, plan)
        return self.get(study.id)

    @connected
    def create_draft(self, title: str, draft: Draft) -> Study:
        """Keep a new study that is not started; an empty one that is there already serves again."""
        body = DRAFT.dump_python(draft, mode="json")
        with database.atomic():
            known = (
                StudyRow.select()
                .where(
                    StudyRow.state == StudyState.DRAFT,
                    StudyRow.title == "",
                    StudyRow.draft == body,
                    StudyRow.put_away_at.is_null(),
                )
                .first()
            )
            row = known if known is not None and not title else None
            if row is None:
                row = StudyRow.create(
                    title=title,
                    state=StudyState.DRAFT,
                    seed=0,
                    blocks=draft.blocks,
                    procedures=[],
                    draft=body,
                )
                self._events.add("study.drafted", row.id, title=title)
        return self.get(row.id)

    @connected
    def keep_draft(self, study_id: UUID, title: str, draft: Draft) -> None:
        """Keep what was typed. Raises ConflictError where the study was started since."""
        with database.atomic():
            row = self._locked_draft(study_id)
            row.title, row.draft = title, DRAFT.dump_python(draft, mode="json")
            row.save()

    @connected
    def start(self, study_id: UUID, plan: StudyPlan) -> Study:
        """A draft becomes a study with its run sheet. Raises ConflictError where it is none."""
        with database.atomic():
            row = self._locked_draft(study_id)
            for key, value in {**_planned(plan), "draft": None}.items():
                setattr(row, key, value)
            row.save()
            self._write_plan(row, plan)
        return self.get(study_id)

    @staticmethod
    def _locked_draft(study_id: UUID) -> StudyRow:
        row: StudyRow | None = StudyRow.select().where(StudyRow.id == study_id).for_update().first()
        if row is None:
            raise missing("study", study_id)
        if row.state != StudyState.DRAFT:
            raise ConflictError("this study was started already: its plan stands")
        return row

    def _write_plan(self, study: StudyRow, plan: StudyPlan) -> None:
        contenders = {}
        labels = install_labels(plan.installs)
        for lane_no, (install, label) in enumerate(
            zip(plan.installs, labels, strict=True), start=1
        ):
            kept = self._library.ensure(install)
            contenders[lane_no] = ContenderRow.create(
                study=study, install=kept.id, lane_no=lane_no, label=label
            )
        for key, margin in plan.margins.items():
            MarginRow.create(study=study, metric=key, share=margin.share, amount=margin.amount)
        self._write_sheet(study, contenders, 1, plan.blocks)
        self._events.add("study.planned", study.id, title=plan.title)

    @connected
    def join(self, study_id: UUID, install: Install) -> Study:
        """Let an install take part that was not planned; its lane says that it joined after."""
        with database.atomic():
            kept = self._library.ensure(install)
            study = StudyRow.select().where(StudyRow.id == study_id).for_update().first()
            if study is None:
                raise NotFoundError("study", study_id)
            there = self.get(study_id).contenders
            if all(one.install.id != kept.id for one in there):
                label = install_labels([*(one.install for one in there), kept])[-1]
                lane_no = max(one.lane_no for one in there) + 1
                ContenderRow.create(
                    study=study, install=kept.id, lane_no=lane_no, label=f"{label} {JOINED_AFTER}"
                )
                self._events.add("study.joined", study_id, lane=lane_no, label=label)
        return self.get(study_id)

    def _write_sheet(
        self, study: StudyRow, contenders: dict[int, ContenderRow], first: int, blocks: int
    ) -> None:
        if study.run_order == Order.VISITS:
            groups: dict[UUID, list[int]] = {}
            for lane_no, contender in sorted(contenders.items()):
                groups.setdefault(contender.install.machine_id, []).append(lane_no)
            lines = visit_sheet(list(groups.values()), blocks, first)
        else:
            lines = run_sheet(list(contenders), blocks, study.seed, first)
        asked = [split_procedure(text) for text in study.procedures]
        rows = [
            RunRow(
                study=study,
                contender=contenders[line.lane_no],
                block=line.block,
                position=line.position,
                procedure=procedure,
                conditions=conditions,
                condition_hash=condition_hash(conditions),
                state=RunState.PLANNED,
            )
            for line in lines
            for procedure, conditions in asked
        ]
        RunRow.bulk_create(rows, batch_size=BATCH)

    @connected
    def get(self, study_id: UUID) -> Study:
        """The study with its contenders and margins."""
        row = StudyRow.get_or_none(StudyRow.id == study_id)
        if row is None:
            raise missing("study", study_id)
        contenders = tuple(
            Contender(item.id, item.lane_no, install_of(item.install), item.label)
            for item in _contenders().where(ContenderRow.study == study_id)
        )
        margins = {item.metric: Margin(item.share, item.amount) for item in row.margins}
        return Study(
            row.id,
            row.title,
            StudyState(row.state),
            row.seed,
            row.blocks,
            row.created_at,
            contenders,
            margins,
            _looks(row),
            PrecisionPlan(**row.stopping) if row.stopping else None,
            tuple(row.procedures),
            {item.key: item.reason for item in row.overrides},
            row.put_away_at is not None,
            Order(row.run_order),
            None if row.draft is None else DRAFT.validate_python(row.draft),
            row.note,
            tuple(row.tags),
        )

    @connected
    def last_change(self, study_id: UUID) -> tuple[int, datetime]:
        """The newest event of a study that may have changed what it holds."""
        found = rows_of(LAST_CHANGE, study_id, PROGRESS)
        if not found:
            raise NotFoundError("study", study_id)
        return found[0].id, found[0].at

    @connected
    def override(self, study_id: UUID, key: str, reason: str | None) -> None:
        """Accept the difference of a condition for a reason, or (None) no more."""
        with database.atomic():
            if not StudyRow.select().where(StudyRow.id == study_id).exists():
                raise NotFoundError("study", study_id)
            known = OverrideRow.get_or_none(OverrideRow.study == study_id, OverrideRow.key == key)
            was = known and known.reason
            OverrideRow.delete().where(
                OverrideRow.study == study_id, OverrideRow.key == key
            ).execute()
            if reason is not None:
                OverrideRow.create(study=study_id, key=key, reason=reason)
            self._events.add("study.overridden", study_id, key=key, reason=reason, was=was)

    @connected
    def extend(self, study_id: UUID, blocks: int) -> Study:
        """Add so many blocks after the last one; the study's interim looks gain an extension."""
        with database.atomic():
            row = StudyRow.select().where(StudyRow.id == study_id).for_update().get_or_none()
            if row is None:
                raise NotFoundError("study", study_id)
            last, total = row.blocks, row.blocks + blocks
            row.interim_looks = row.interim_looks or [last]
            if total > row.interim_looks[-1]:  # else it goes on with what was planned
                row.extensions = [*row.extensions, total]
            row.blocks = total
            if row.state == StudyState.DONE:
                row.state = StudyState.PAUSED
            row.save()
            written = self._planned_again(study_id, last, total)
            contenders = {item.lane_no: item for item in row.contenders}
            if written < total:
                self._write_sheet(row, contenders, written + 1, total - written)
            self._events.add("study.extended", study_id, blocks=total)
        return self.get(study_id)

    @staticmethod
    def _planned_again(study_id: UUID, last: int, total: int) -> int:
        """Plan what an early end left out of these blocks; the last block that the sheet holds."""
        left_out = (RunRow.study == study_id) & (RunRow.block > last)
        RunRow.update(state=RunState.PLANNED, reason=None).where(
            left_out & (RunRow.block <= total) & (RunRow.state == RunState.SKIPPED)
        ).execute()
        held = RunRow.select(fn.MAX(RunRow.block)).where(RunRow.study == study_id).scalar()
        return min(max(held or last, last), total)

    @connected
    def digests(self, put_away: bool = False) -> list[StudyDigest]:
        """All studies, the newest first; or all that were put away."""
        counts = _run_counts()
        answers = {row.study_id: row for row in rows_of(ANSWERS, PROGRESS)}
        cast: dict[UUID, list[ContenderRow]] = {}
        for item in _contenders():
            cast.setdefault(item.study_id, []).append(item)
        studies = StudyRow.select().where(StudyRow.put_away_at.is_null(not put_away))
        rows = list(studies.order_by(StudyRow.created_at.desc()))
        chosen = _chosen_installs(rows)
        return [
            _digest(
                row,
                cast.get(row.id, []),
                counts.get(row.id, (0, 0, 0)),
                answers.get(row.id),
                chosen.get(row.id, []),
            )
            for row in rows
        ]

    @connected
    def keep_answer(self, study_id: UUID, event_id: int, answer: Answer) -> None:
        """Keep what a study answers after this event of it; an older one gives way."""
        values = (event_id, answer.headline, answer.about, answer.verdict, study_id)
        database.execute_sql(KEEP_ANSWER, values)

    @connected
    def titles_planned(self) -> set[str]:
        """Titles under which studies were ever planned here, whatever became of them."""
        return {str(row.title) for row in rows_of(PLANNED_TITLES)}

    @connected
    def set_state(self, study_id: UUID, state: StudyState) -> None:
        """Change where the study stands; an event tells it."""
        with database.atomic():
            changed = (
                StudyRow.update(state=state)
                .where(StudyRow.id == study_id, StudyRow.state != state)
                .execute()
            )
            if changed:
                self._events.add(f"study.{state}", study_id)

    @connected
    def runs(self, study_id: UUID) -> list[Run]:
        """The run sheet in order, each run with its newest attempt."""
        return [
            Run(
                id=row.id,
                study_id=study_id,
                contender_id=row.contender_id,
                lane_no=row.lane_no,
                block=row.block,
                position=row.position,
                procedure=row.procedure,
                state=RunState(row.state),
                attempt=row.attempt_no,
                reason=row.reason,
                conditions=row.conditions,
                started_at=row.started_at,
                finished_at=row.finished_at,
            )
            for row in rows_of(SHEET, study_id)
        ]

    @connected
    def outcomes(self, study_id: UUID, with_aside: bool = False) -> list[RunOutcome]:
        """The run sheet as findings need it; failed runs that were set aside only `with_aside`."""
        rows = rows_of(OUTCOMES, study_id, NO_RESULT, with_aside, SET_ASIDE)
        return [_outcome(row) for row in rows]


def _outcome(row: Any) -> RunOutcome:
    state = RunState.FAILED if row.state == RunState.VOID else RunState(row.state)
    reason = failure_before(row.reason) if state is RunState.FAILED else ""
    return RunOutcome(
        lane_no=row.lane_no,
        machine=row.name,
        procedure=row.procedure,
        state=state,
        block=row.block,
        timed_out=bool(reason) and is_time_out(state, reason),
        start=row.start or "",
        app=row.app or "",
        reason=reason,
        host_shares=_shares({key: getattr(row, key) for key in OF_THE_HOST}),
    )


def _shares(stated: Mapping[str, str | None]) -> dict[str, float]:
    found = {key: _share(text) for key, text in stated.items()}
    return {key: share for key, share in found.items() if share is not None}


def _share(stated: str | None) -> float | None:
    """A share as conditions state it, ``12 %``; None where that is none."""
    try:
        return None if stated is None else float(stated.rstrip(" %")) / 100.0
    except ValueError:
        return None


def _contenders() -> Any:  # peewee's queries carry no types
    """Contenders in their lanes with everything around them, in one query."""
    return (
        ContenderRow.select(
            ContenderRow, InstallRow, SystemRow, DistributionRow, MachineRow, HostRow
        )
        .join(InstallRow)
        .join(SystemRow)
        .join(DistributionRow, JOIN.LEFT_OUTER)
        .switch(InstallRow)
        .join(MachineRow)
        .join(HostRow)
        .order_by(ContenderRow.lane_no)
    )


def _looks(row: StudyRow) -> InterimLooks | None:
    return (
        InterimLooks(tuple(row.interim_looks), tuple(row.extensions)) if row.interim_looks else None
    )


def _run_counts() -> dict[UUID, tuple[int, int, int]]:
    """Of each study, without what was skipped."""
    finished = [state for state in RunState if state.is_finished and state != RunState.SKIPPED]
    rows = rows_of(COUNTS, RunState.SKIPPED, finished, RunState.FAILED)
    return {row.study_id: (row.runs, row.done, row.failed) for row in rows}


def _planned(plan: StudyPlan) -> dict[str, object]:
    """The columns of a study that is planned."""
    return {
        "title": plan.title,
        "state": StudyState.PLANNED,
        "seed": plan.seed,
        "blocks": plan.blocks,
        "procedures": list(plan.procedures),
        "interim_looks": list(plan.interim_looks),
        "stopping": asdict(plan.stopping) if plan.stopping else None,
        "run_order": plan.order,
    }


def _chosen_installs(rows: Sequence[StudyRow]) -> dict[UUID, list[Install]]:
    """The contenders chosen so far in each draft."""
    asked = {row.id: [UUID(key) for key in row.draft["installs"]] for row in rows if row.draft}
    wanted = {key for keys in asked.values() for key in keys}
    if not wanted:
        return {}
    known = {
        row.id: install_of(row) for row in installs_query().where(InstallRow.id.in_(list(wanted)))
    }
    return {key: [known[one] for one in keys if one in known] for key, keys in asked.items()}


def _digest(
    row: StudyRow,
    cast: list[ContenderRow],
    counts: tuple[int, int, int],
    answer: Any,
    chosen: list[Install],
) -> StudyDigest:
    runs, finished, failed = counts
    machines = [item.install.machine.name for item in cast]
    return StudyDigest(
        id=row.id,
        title=row.title,
        state=StudyState(row.state),
        created_at=row.created_at,
        contenders=[item.label for item in cast] or install_labels(chosen),
        machines=list(dict.fromkeys(machines or [one.machine.name for one in chosen])),
        runs=runs,
        finished=finished,
        failed=failed,
        can_run=finished < runs and all(item.install.rig for item in cast),
        answer=answer and Answer(answer.headline, answer.about, answer.verdict),
        is_current=bool(answer and answer.is_current),
        tags=list(row.tags),
    )
