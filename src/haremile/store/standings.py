"""Readings of all studies, as standings need them."""

import threading
from collections import OrderedDict, defaultdict
from collections.abc import Callable, Mapping
from dataclasses import replace
from datetime import datetime
from functools import partial
from typing import Any, Generic, TypeVar
from uuid import UUID

import numpy as np

from haremile.core.comparison.records import facet_of
from haremile.core.comparison.reliability import is_time_out
from haremile.core.records.metrics import metric
from haremile.core.records.study import RunState
from haremile.core.standing.arms import Arm, Question
from haremile.core.standing.bands import Bands
from haremile.store.database import connected, rows_of
from haremile.store.events import PROGRESS, note_act
from haremile.store.rows import BandsRow, database

KINDS = """
    select study.id as study, lane.metric, lane.method,
        coalesce(lane.conditions->>'start', '') as start,
        jsonb_strip_nulls(jsonb_build_object('app', lane.conditions->'app',
            'pages_open', lane.conditions->'pages_open',
            'settle_rule', lane.conditions->'settle_rule')) as facet,
        array_agg(distinct install.system_id) as systems
    from lane
    join contender on contender.id = lane.contender_id
    join install on install.id = contender.install_id
    join study on study.id = contender.study_id
    where study.id = any(%s)
        and exists (select from reading where reading.lane_id = lane.id)
    group by 1, 2, 3, 4, 5
"""
STAMPS = """
    select study.id, last.id as change, last.at
    from study left join lateral (
        select event.id, event.at from event
        where event.study = study.id and event.kind <> %s order by event.id desc limit 1
    ) last on true
    where study.put_away_at is null order by study.created_at, study.id
"""
"""Studies in the order in which they were made, each with the newest event that may have changed
it, and when that was: after a backup came back the same number is another event."""
NAMES = """
    select md5(concat(
        (select string_agg(concat_ws('|', id, name, put_away_at), ',' order by id) from system),
        (select string_agg(concat_ws('|', id, name), ',' order by id) from machine),
        (select string_agg(concat_ws('|', id, system_id, machine_id, name), ',' order by id)
            from install)
    )) as names
"""
"""Changes with every name that stands in what is kept."""
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
OF_STUDIES = " and study.id = any(%s)"
READ = f"""
    select lane.conditions, lane.contender_id, study.id as study, study.title,
        machine.name as machine, system.name as system, install.name as install,
        max(attempt.finished_at) as newest, max(study.created_at) as made,
        array_agg(reading.value order by reading.id) as values
    {FROM_LANES} {OF_DONE_RUNS} {OF_THE_QUESTION} {OF_STUDIES}
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


T = TypeVar("T")
Stamp = tuple[int | None, datetime | None]
"""The newest event of a study, and when it was."""


class Kept(Generic[T]):
    """What each study told, with the change after which it was read."""

    def __init__(self) -> None:
        self._told: dict[UUID, tuple[Stamp, T]] = {}

    def brought_up(
        self,
        stamps: Mapping[UUID, Stamp],
        read: Callable[[list[UUID]], dict[UUID, T]],
    ) -> list[tuple[UUID, T]]:
        """What all studies tell now; those in which something happened since are read again.

        What was read is at least as new as its stamp: the next change of it makes it old again.
        """
        told = self._told
        old = [key for key, at in stamps.items() if key not in told or told[key][0] != at]
        fresh: dict[UUID, tuple[Stamp, T]] = {}
        if old:
            found = read(old)
            fresh = {key: (stamps[key], found[key]) for key in old}
        whole = {key: fresh.get(key) or told[key] for key in stamps}
        self._told = whole
        return [(key, one) for key, (_, one) in whole.items()]


MOST_KEPT = 64
"""Questions whose figures are kept."""

_Kind = tuple[str, str, str, str, frozenset[UUID]]


class PostgresStandings:
    """Looks over everything that was ever measured.

    What a study told is kept until something happens in it, or a name changes: after another run
    its study alone is read again.
    """

    def __init__(self) -> None:
        self._guard = threading.Lock()
        self._names = ""
        self._kinds: Kept[list[_Kind]] = Kept()
        self._arms: OrderedDict[Question, Kept[list[Arm]]] = OrderedDict()

    @connected
    def questions(self) -> list[Question]:
        """What has been measured, each metric and method apart, cold apart from warm."""
        found: dict[tuple[str, str, str, str], tuple[set[UUID], set[UUID]]] = defaultdict(
            lambda: (set(), set())
        )
        stamps = self._stamps()
        with self._guard:
            kept = self._kinds
        for study, kinds in kept.brought_up(stamps, self._read_kinds):
            for *key, systems in kinds:
                studies, every = found[tuple(key)]  # type: ignore[index]
                studies.add(study)
                every.update(systems)
        return [
            Question(*key, studies=len(studies), systems=len(systems))
            for key, (studies, systems) in found.items()
        ]

    @connected
    def measured(self, asked: Question) -> list[Arm]:
        """The figures that answer a question: a system in a study on a machine, each."""
        stamps = self._stamps()
        plain = replace(asked, studies=0, systems=0)
        with self._guard:
            kept = self._arms.setdefault(plain, Kept())
            self._arms.move_to_end(plain)
            while len(self._arms) > MOST_KEPT:
                self._arms.popitem(last=False)
        told = kept.brought_up(stamps, partial(self._read_arms, plain))
        return [arm for _, arms in told for arm in arms]

    def _stamps(self) -> dict[UUID, Stamp]:
        """The newest change of every study; what was kept under other names is forgotten."""
        names = rows_of(NAMES)[0].names
        stamps = {row.id: (row.change, row.at) for row in rows_of(STAMPS, PROGRESS)}
        with self._guard:
            if names != self._names:
                self._names, self._kinds = names, Kept()
                self._arms.clear()
        return stamps

    def _read_kinds(self, studies: list[UUID]) -> dict[UUID, list[_Kind]]:
        found: dict[UUID, list[_Kind]] = defaultdict(list)
        for row in rows_of(KINDS, studies):
            systems = frozenset(row.systems)
            kind = (row.metric, row.method, row.start, facet_of(row.facet), systems)
            found[row.study].append(kind)
        return found

    def _read_arms(self, asked: Question, studies: list[UUID]) -> dict[UUID, list[Arm]]:
        rows = rows_of(READ, asked.metric, asked.method, asked.start, studies)
        rows = [row for row in rows if facet_of(row.conditions) == asked.facet]
        runs = self._runs(asked, [row.contender_id for row in rows])
        overruled: dict[UUID, dict[str, str]] = defaultdict(dict)
        for row in rows_of(OVERRULED, list({row.study for row in rows})):
            overruled[row.study_id][row.key] = row.reason
        lanes: dict[UUID, list[Any]] = defaultdict(list)
        for row in rows:
            lanes[row.contender_id].append(row)
        found: dict[UUID, list[Arm]] = defaultdict(list)
        for contender, own in lanes.items():
            study = own[0].study
            found[study].append(_arm(own, runs.get(contender, (0, 0, 0)), overruled[study]))
        return found

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
