"""Who holds which run: leases that end when their holder is gone."""

import threading
from collections.abc import Collection, Sequence
from typing import Any
from uuid import UUID

import psycopg

from haremile.core.records.study import Install, Machine, Run, RunState, System
from haremile.errors import StoreUnavailableError
from haremile.store.conductor_ids import conductor_id, has_ended
from haremile.store.database import connected, rows_of
from haremile.usecases.ports import Lease

LEASE_S = 30.0
"""A lease without a sign of life for so long is lost."""

STUDY_SPACE = 0x4841_5200
"""First half of the advisory locks that stand for studies; conductors have their own."""

HAND_HELD = """
    exists (
        select from pg_locks
        where locktype = 'advisory' and granted and objsubid = 1
          and database = (select oid from pg_database where datname = current_database())
          and classid::bigint = (attempt.conductor >> 32) & 4294967295
          and objid::bigint = attempt.conductor & 4294967295
    )
"""
IS_GONE = f"""(
    attempt.conductor is null
    or attempt.conductor = any(%s)
    or attempt.beat_at < now() - %s * interval '1 second'
    or (attempt.beat_at > pg_postmaster_start_time() and not {HAND_HELD})
)"""
"""A conductor is gone when its process is known to have ended, when it gave no sign for long, or
when its lock was given back; after a restart of the server, which frees all locks, only the first
two count."""

UNDER_WAY = """
    select distinct attempt.conductor from attempt
    join run on run.id = attempt.run_id and run.attempt_no = attempt.number
    where run.study_id = %s and run.state in ('leased', 'running')
      and attempt.conductor is not null
"""

LOST = f"""
    select run.id from run
    join attempt on attempt.run_id = run.id and attempt.number = run.attempt_no
    where run.study_id = %s and run.state in ('leased', 'running') and {IS_GONE}
      and not exists (
        select from job where job.run_id = run.id and job.attempt_no = run.attempt_no
          and job.stage <> 'over'
      )
    for update of run skip locked
"""
ORPHANED = f"""
    select run.id from run
    join attempt on attempt.run_id = run.id and attempt.number = run.attempt_no
    join contender on contender.id = run.contender_id
    join install on install.id = contender.install_id
    join machine on machine.id = install.machine_id
    join host on host.id = machine.host_id
    where run.study_id = %s and run.state = 'running' and {IS_GONE} and host.name = %s
      and exists (
        select from job where job.run_id = run.id and job.attempt_no = run.attempt_no
          and job.stage <> 'over'
      )
    limit 1 for update of run skip locked
"""
"""Runs that a machine carries on with though their conductor is gone."""

HOST = "select id, capacity from host where name = %s for update skip locked"
NEXT = """
    select run.id from run
    join contender on contender.id = run.contender_id
    join install on install.id = contender.install_id
    join machine on machine.id = install.machine_id
    where run.study_id = %s and run.state = 'planned' and machine.host_id = %s
      and not machine.name = any(%s)
      and %s > (
        select count(*) from run other
        join contender on contender.id = other.contender_id
        join install on install.id = contender.install_id
        join machine carried on carried.id = install.machine_id
        where carried.host_id = machine.host_id and other.state in ('leased', 'running')
      )
      and not exists (
        select from run other
        join contender on contender.id = other.contender_id
        join install on install.id = contender.install_id
        where install.machine_id = machine.id and other.state in ('leased', 'running')
      )
    order by run.position, run.procedure, run.condition_hash limit 1
    for update of run skip locked
"""
GOING = """
    select state = 'running' as is_going, exists (select from job where stage <> 'over') as has_jobs
    from study where id = %s for share of study
"""
LEASE_FACTS = """
    select taken.id, taken.study_id, taken.contender_id, taken.block, taken.position,
        taken.procedure, taken.attempt_no, taken.conditions, contender.lane_no, study.seed,
        install.id as install_id, install.name as install, install.rig, install.recipe,
        system.name as system, distribution.name as distribution, system.release, system.edition,
        system.architecture, machine.name as machine, machine.kind, host.name as host,
        machine.facts
    from taken
    join study on study.id = taken.study_id
    join contender on contender.id = taken.contender_id
    join install on install.id = contender.install_id
    join system on system.id = install.system_id
    left join distribution on distribution.id = system.distribution_id
    join machine on machine.id = install.machine_id
    join host on host.id = machine.host_id
"""
TAKE = f"""
    with taken as (
        update run set state = 'leased', attempt_no = attempt_no + 1, reason = null
        where id = %s returning *
    ), tried as (
        insert into attempt (id, run_id, number, state, conditions, conductor, beat_at)
        select %s, id, attempt_no, 'leased', '{{}}', %s, now() from taken
    )
{LEASE_FACTS}"""
"""A run, taken as a new attempt, with everything that a lease tells: one question, because a
conductor asks it for every run."""

ADOPT = """
    update attempt set conductor = %s, beat_at = now() from run
    where run.id = %s and attempt.run_id = run.id and attempt.number = run.attempt_no
    returning attempt.id
"""
TELL = f"""
    with taken as (select * from run where id = %s)
{LEASE_FACTS}"""

BEGIN = """
    with begun as (
        update run set state = 'running' where id = %s and attempt_no = %s and state = 'leased'
        returning id
    )
    update attempt set state = 'running', started_at = clock_timestamp()
    where id = %s and exists (select from begun) returning id
"""
FENCE = """
    select run.state, run.attempt_no, attempt.state as tried, attempt.capture_id
    from run join attempt on attempt.run_id = run.id
    where run.id = %s and attempt.id = %s for update of run
"""
END = """
    with ended as (update run set state = %s, reason = %s where id = %s)
    update attempt set state = %s, reason = %s, finished_at = clock_timestamp(), conditions = %s,
        capture_id = %s
    where id = %s
"""
HOSTS = """
    select distinct host.name, host.capacity from contender
    join install on install.id = contender.install_id
    join machine on machine.id = install.machine_id
    join host on host.id = machine.host_id
    where contender.study_id = %s
"""


def lease_of(row: Any, attempt_id: UUID) -> Lease:
    """The lease that a row of `TAKE` tells."""
    run = Run(
        row.id,
        row.study_id,
        row.contender_id,
        row.lane_no,
        row.block,
        row.position,
        row.procedure,
        RunState.LEASED,
        row.attempt_no,
        conditions=row.conditions,
    )
    system = System(row.system, row.distribution, row.release, row.edition, row.architecture)
    machine = Machine(row.machine, row.kind, row.host, row.facts)
    install = Install(system, machine, row.install, row.rig, row.recipe, row.install_id)
    return Lease(run, install, row.seed, attempt_id)


def next_run(study_id: UUID, host: str, resting: Sequence[str]) -> UUID | None:
    """The host's next planned run, locked; None where the host or its machines are taken.

    The host's row is held until the transaction ends, so that two conductors never fill it twice.
    """
    taken = rows_of(HOST, host)
    if not taken:
        return None
    found = rows_of(NEXT, study_id, taken[0].id, list(resting), taken[0].capacity)
    return found[0].id if found else None


def ended_conductors(study_id: UUID) -> list[int]:
    """Conductors with runs of the study under way whose process ran here and has ended."""
    return [row.conductor for row in rows_of(UNDER_WAY, study_id) if has_ended(row.conductor)]


class PostgresStudyLease:
    """A conductor's hold on a study, which others may share; use as a context manager.

    While it is held, PostgreSQL holds two advisory locks for it: a shared one of the study, and its
    own, which tells the others that it is alive.
    """

    def __init__(self, url: str, study_id: UUID):
        self.id = conductor_id()
        self._url, self._study_id = url, study_id
        self._link: psycopg.Connection | None = None
        self._guard = threading.Lock()

    @connected
    def beat(self, runs: Collection[UUID]) -> set[UUID]:
        """Give a sign of life for these runs; return those that are still its own."""
        with self._guard:
            self._join()
        if not runs:
            return set()
        query = (
            "update attempt set beat_at = now() from run where run.id = attempt.run_id"
            " and run.attempt_no = attempt.number and run.state in ('leased', 'running')"
            " and attempt.conductor = %s and run.id = any(%s) returning run.id"
        )
        return {row.id for row in rows_of(query, self.id, list(runs))}

    def _join(self) -> None:
        """Hold the locks, anew where the connection was lost."""
        try:
            if self._link is not None:
                self._link.execute("select 1")
                return
        except psycopg.OperationalError:
            self._drop()
        try:
            self._link = psycopg.connect(self._url, autocommit=True)
            self._link.execute(
                "select pg_try_advisory_lock(%s), pg_try_advisory_lock_shared(%s)",
                (self.id, study_key(self._study_id)),
            )
        except psycopg.OperationalError as error:
            self._drop()
            raise StoreUnavailableError(f"the database does not answer: {error}") from error

    def _drop(self) -> None:
        if self._link is not None:
            self._link.close()
            self._link = None

    def __enter__(self) -> "PostgresStudyLease":
        self._join()
        return self

    def __exit__(self, *_: object) -> None:
        with self._guard:
            if self._link is not None:
                try:  # at once: locks of a connection that is only closed outlive it for a moment
                    self._link.execute("select pg_advisory_unlock_all()")
                except psycopg.OperationalError:
                    pass  # the server is gone, and the locks with it
                self._drop()


def study_key(study_id: UUID) -> int:
    """The advisory lock that stands for a study at work."""
    return STUDY_SPACE << 32 | (study_id.int ^ study_id.int >> 64) & 0xFFFF_FFFF


@connected
def is_held(study_id: UUID) -> bool:
    """Whether some conductor is at work on the study; looks without taking a lock."""
    query = (
        "select exists (select from pg_locks where locktype = 'advisory' and granted"
        " and objsubid = 1 and classid::bigint = %s and objid::bigint = %s and database ="
        " (select oid from pg_database where datname = current_database())) as is_held"
    )
    key = study_key(study_id)
    return bool(rows_of(query, key >> 32, key & 0xFFFF_FFFF)[0].is_held)
