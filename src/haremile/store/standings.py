"""Readings of all studies, as standings need them."""

from collections import defaultdict
from collections.abc import Mapping
from datetime import datetime
from typing import Any
from uuid import UUID

import numpy as np

from haremile.core.comparison.records import facet_of
from haremile.core.comparison.reliability import is_time_out
from haremile.core.records.metrics import metric
from haremile.core.records.study import RunState
from haremile.core.standing.arms import Arm, Question
from haremile.core.standing.bands import Bands
from haremile.store.database import connected, rows_of
from haremile.store.events import note_act
from haremile.store.rows import BandsRow, database

KINDS = """
    select lane.metric, lane.method, coalesce(lane.conditions->>'start', '') as start,
        jsonb_strip_nulls(jsonb_build_object('app', lane.conditions->'app',
            'pages_open', lane.conditions->'pages_open',
            'settle_rule', lane.conditions->'settle_rule')) as facet,
        array_agg(distinct study.id) as studies, array_agg(distinct install.system_id) as systems
    from lane
    join contender on contender.id = lane.contender_id
    join install on install.id = contender.install_id
    join study on study.id = contender.study_id
    where study.put_away_at is null
        and exists (select from reading where reading.lane_id = lane.id)
    group by 1, 2, 3, 4
"""
FROM_LANES = """
    from lane
    join contender on contender.id = lane.contender_id
    join install on install.id = contender.install_id
    join system on system.id = install.system_id
    join machine on machine.id = install.machine_id
    join study on study.id = contender.study_id
"""
OF_DONE_RUNS = """
    join reading on reading.lane_id = lane.id and reading.set_aside is null
    join attempt on attempt.id = reading.attempt_id
    join run on run.id = attempt.run_id and run.attempt_no = attempt.number and run.state = 'done'
"""
OF_THE_QUESTION = """
    where lane.metric = %s and lane.method = %s
        and coalesce(lane.conditions->>'start', '') = %s
        and study.put_away_at is null and system.put_away_at is null
"""
READ = f"""
    select lane.conditions, lane.contender_id, study.id as study, study.title,
        machine.name as machine, system.name as system, install.name as install,
        max(attempt.finished_at) as newest, max(study.created_at) as made,
        array_agg(reading.value order by reading.id) as values
    {FROM_LANES} {OF_DONE_RUNS} {OF_THE_QUESTION}
    group by lane.id, contender.id, study.id, machine.id, system.id, install.id
    order by study.created_at, contender.lane_no
"""
RUNS = """
    select contender_id, coalesce(conditions->>'start', '') as start,
        coalesce(conditions->>'app', '') as app, state, reason, count(*) as runs
    from run
    where procedure = any(%s) and state in ('done', 'failed')
        and contender_id = any(%s)
    group by 1, 2, 3, 4, 5
"""
MEASURED_INSTALLS = f"""
    select distinct machine.name as machine, system.name as system, install.name as install,
        lane.conditions
    {FROM_LANES} {OF_THE_QUESTION}
"""
DATED = f"""
    select study.id as study, coalesce(attempt.finished_at, study.created_at) as at,
        reading.value, lane.conditions
    {FROM_LANES} {OF_DONE_RUNS} {OF_THE_QUESTION}
        and machine.name = %s and system.name = %s and install.name = %s
    order by at, reading.id
"""
OVERRULED = "select study_id, key, reason from override where study_id = any(%s)"


class PostgresStandings:
    """Looks over everything that was ever measured."""

    @connected
    def questions(self) -> list[Question]:
        """What has been measured, each metric and method apart, cold apart from warm."""
        found: dict[tuple[str, str, str, str], tuple[set[UUID], set[UUID]]] = defaultdict(
            lambda: (set(), set())
        )
        for row in rows_of(KINDS):
            studies, systems = found[row.metric, row.method, row.start, facet_of(row.facet)]
            studies.update(row.studies)
            systems.update(row.systems)
        return [
            Question(*key, studies=len(studies), systems=len(systems))
            for key, (studies, systems) in found.items()
        ]

    @connected
    def measured(self, asked: Question) -> list[Arm]:
        """The figures that answer a question: a system in a study on a machine, each."""
        rows = rows_of(READ, asked.metric, asked.method, asked.start)
        rows = [row for row in rows if facet_of(row.conditions) == asked.facet]
        runs = self._runs(asked, [row.contender_id for row in rows])
        overruled: dict[UUID, dict[str, str]] = defaultdict(dict)
        for row in rows_of(OVERRULED, list({row.study for row in rows})):
            overruled[row.study_id][row.key] = row.reason
        lanes: dict[UUID, list[Any]] = defaultdict(list)
        for row in rows:
            lanes[row.contender_id].append(row)
        return [
            _arm(found, runs.get(contender, (0, 0, 0)), overruled[found[0].study])
            for contender, found in lanes.items()
        ]

    @connected
    def installs(self, asked: Question) -> list[tuple[str, str, str]]:
        """Machine, system and name of the installs that were measured for it at all."""
        found = {
            (row.machine, row.system, row.install)
            for row in rows_of(MEASURED_INSTALLS, asked.metric, asked.method, asked.start)
            if facet_of(row.conditions) == asked.facet
        }
        return sorted(found)

    @connected
    def dated(
        self, asked: Question, machine: str, system: str, install: str
    ) -> list[tuple[UUID, datetime, float]]:
        """Every reading of an install with its study, in order of time."""
        rows = rows_of(DATED, asked.metric, asked.method, asked.start, machine, system, install)
        return [
            (row.study, row.at, row.value)
            for row in rows
            if facet_of(row.conditions) == asked.facet
        ]

    @connected
    def bands(self, metric_key: str) -> Bands | None:
        """The bands of a metric, None where none are set."""
        row = BandsRow.get_or_none(BandsRow.metric == metric_key)
        return Bands(tuple(row.names), tuple(row.limits)) if row else None

    @connected
    def set_bands(self, metric_key: str, bands: Bands | None) -> None:
        """Set the bands of a metric, or (None) take them out; what was before is told."""
        with database.atomic():
            was = self.bands(metric_key)
            BandsRow.delete().where(BandsRow.metric == metric_key).execute()
            if bands is not None:
                BandsRow.create(
                    metric=metric_key, names=list(bands.names), limits=list(bands.limits)
                )
            note_act(
                "bands.set", None, {"metric": metric_key, "was": _text(was), "is": _text(bands)}
            )

    def _runs(self, asked: Question, contenders: list[UUID]) -> Mapping[UUID, tuple[int, int, int]]:
        """Finished, failed and timed-out runs of each contender that bear on the question."""
        counts: dict[UUID, tuple[int, int, int]] = defaultdict(lambda: (0, 0, 0))
        for row in rows_of(RUNS, list(metric(asked.metric).procedures), contenders):
            if row.start not in ("", asked.start) or (row.app and row.app not in asked.facet):
                continue
            done, failed, late = counts[row.contender_id]
            has_failed = row.state == RunState.FAILED
            is_late = has_failed and is_time_out(RunState.FAILED, row.reason or "")
            counts[row.contender_id] = (
                done + row.runs,
                failed + row.runs * has_failed,
                late + row.runs * is_late * asked.is_whole_run,
            )
        return counts


def _text(bands: Bands | None) -> str | None:
    """Bands in a line of the audit trail."""
    if bands is None:
        return None
    limits = [f"{limit:g}" for limit in bands.limits]
    return f"{', '.join(bands.names)} at {', '.join(limits)}"


def _arm(rows: list[Any], runs: tuple[int, int, int], overruled: Mapping[str, str]) -> Arm:
    first = rows[0]
    values = [value for row in rows for value in row.values] + [np.inf] * runs[2]
    return Arm(
        study=first.study,
        title=first.title,
        machine=first.machine,
        system=first.system,
        values=np.array(values, dtype=np.float64),
        conditions=tuple(row.conditions for row in rows),
        newest=max(row.newest or row.made for row in rows),
        install=first.install,
        failed=runs[1],
        runs=runs[0],
        overrides=overruled,
    )
